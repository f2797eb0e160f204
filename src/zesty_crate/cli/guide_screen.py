"""What `zesty guide` shows."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from .terminal import Terminal
from .wording import count, show_list

if TYPE_CHECKING:
    from ..guide_trials import (
        KnownGuide,
        Mistake,
        RehearsalReport,
        RehearsedMove,
        TrialReport,
        TriedDocument,
        TriedEntry,
        TriedHolding,
    )
    from ..guides import Guide, HoldingPart, PiecePart

_MOST_DOCUMENTS = 12


def show_known(known: Sequence[KnownGuide], terminal: Terminal) -> None:
    """All guides, by the folders that they are from."""
    rows = []
    for each in known:
        source = f"hidden by the one in {each.hidden_by}" if each.hidden_by else each.source
        rows.append((each.id, each.title, str(each.holdings), source))
    terminal.table(("guide", "title", "holdings", "from"), rows)


def show_guide(guide: Guide, terminal: Terminal) -> None:
    """A guide in words: where a program keeps what, and what only a person can do."""
    terminal.say(f"{guide.title} ({guide.id})")
    program = guide.part.program
    if program is not None:
        terminal.say(f"  new version  {_VERSIONS[program.versions]}")
        if program.processes:
            terminal.say(f"  it runs as   {', '.join(program.processes)}")
        if program.seats:
            terminal.say(f"  seats        {program.seats}")
    for name, texts in guide.part.places.items():
        terminal.say(f"  place {{{name}}}")
        for system in ("windows", "macos", "linux"):
            if text := getattr(texts, system):
                terminal.say(f"    {system:<8} {text}")
    for part in guide.part.holding:
        _show_part(part, terminal)
    for step in guide.part.manual_step:
        terminal.say(f"  step {step.when.replace('-', ' ')}: {step.do}")


_VERSIONS = {"same": "must be the same", "same-or-newer": "the same or a newer one", "any": "any"}


def _swept(part: HoldingPart) -> str:
    where = f"within {' '.join(part.within)}" if part.within else "anywhere"
    return f"{where}: {' '.join(part.sweep)}"


def _show_part(part: HoldingPart, terminal: Terminal) -> None:
    where = part.at or (_swept(part) if part.sweep else f"in the registry: {part.branch}")
    terminal.say(f"  {part.kind}: {part.title or part.id}")
    terminal.say(f"    at           {where}{_inside(part)}")
    for entries in part.entries:
        selected = entries.table or entries.each or "every row"
        path = " then ".join(map(_piece, entries.path))
        terminal.say(f"    entries      {part.syntax}: {selected}; the path is in {path}, spelled {entries.spelling}")
        if entries.key_selectors:
            terminal.say(f"      known by   {', '.join(entries.key_selectors)}")
        if entries.annotations:
            terminal.say(f"      people's   {', '.join(entries.annotations)}")
    for groups in part.groups:
        named = "each document is one" if groups.whole else f"{groups.table or groups.each}, named by {groups.name}"
        terminal.say(f"    groups       {named}")


def _piece(piece: PiecePart) -> str:
    held = "a tree" if piece.parent else f"the {piece.holds}" if piece.holds else ""
    return (
        (f"{piece.table}." if piece.table else "") + (piece.at or piece.made_of or "") + (f" ({held})" if held else "")
    )


def _inside(part: HoldingPart) -> str:
    told = (each.text or f"{each.at} in {each.table or each.each}" for each in part.inside)
    return f", inside {' of '.join(told)}" if part.inside else ""


def show_mistakes(found: Mapping[str, Sequence[Mistake]], terminal: Terminal) -> None:
    """What is wrong with each guide."""
    for name, mistakes in found.items():
        terminal.say(f"{name}: {count(len(mistakes), 'thing') if mistakes else 'nothing'} to look at")
        for each in mistakes:
            terminal.say(f"  {f'line {each.line}: ' if each.line else ''}{each.what}")
            if each.remedy:
                terminal.say(f"    {each.remedy}")


def show_trial(report: TrialReport, terminal: Terminal) -> None:
    """What a guide finds on a computer."""
    terminal.say(f"{report.title} on {report.computer}")
    for each in report.holdings:
        _show_holding(each, terminal)
    if report.nearby:
        more = " and more" if report.nearby_more else ""
        terminal.say("")
        terminal.say(f"Nearby, and in no holding: {count(len(report.nearby), 'file')}{more}")
        show_list(terminal, report.nearby[:_MOST_DOCUMENTS])
    if report.found_nothing and not any(each.report.not_looked_at for each in report.holdings):
        terminal.say("Nothing of it is there. Check the places of the guide, and the sheet.")
    for warning in report.warnings:
        terminal.say(f"Note: {warning}")


def _show_holding(holding: TriedHolding, terminal: Terminal) -> None:
    from ..crate import readable_size

    each = holding.report
    if holding.documents:
        terminal.say("")
    if not each.present:
        found = f"not looked at: {each.not_looked_at}" if each.not_looked_at else "not there"
        terminal.say(f"{each.kind} {each.id}: {found} ({each.at})")
        return
    terminal.say(f"{each.kind} {each.id}: {count(each.files, 'file')}, {readable_size(each.size_bytes)}, at {each.at}")
    for document in holding.documents[:_MOST_DOCUMENTS]:
        _show_document(document, terminal)
    if len(holding.documents) > _MOST_DOCUMENTS:
        terminal.say(f"  and {count(len(holding.documents) - _MOST_DOCUMENTS, 'document')} more")
    if holding.annotations:
        told = ", ".join(f"{name} of {number:,}" for name, number in holding.annotations)
        terminal.say(f"  people's values: {told}")
    if holding.groups:
        terminal.say(f"  {count(len(holding.groups), 'group')}")
        for name, depth, members in holding.groups[:_MOST_DOCUMENTS]:
            terminal.say(f"    {'  ' * depth}{name or '(without a name)'}: {count(members, 'member')}")


def _show_document(document: TriedDocument, terminal: Terminal) -> None:
    totals = document.totals
    states = ", ".join(f"{number:,} {state}" for state, number in totals.items() if number and state != "entries")
    entries = count(totals["entries"], "entry", "entries")
    terminal.say(f"  {document.at}")
    terminal.say(f"    {document.verdict.words}; {entries}{f': {states}' if states else ''}")
    for reason in document.reasons:
        terminal.say(f"    {reason}")
    if document.same_keys:
        terminal.say(f"    {count(document.same_keys, 'entry has', 'entries have')} a key that another one has too")
    if document.stale:
        number = count(document.stale, "entry keeps", "entries keep")
        terminal.say(f"    {number} something beside the path that was not made of it as the guide says")
    if document.pointers:
        number = count(document.pointers, "entry has", "entries have")
        terminal.say(f"    {number} a pointer that only the program can follow")
    for each in document.examples:
        terminal.say(f"      {each.recorded}")
        terminal.say(f"        {each.state}{_means(each)}")


def _means(entry: TriedEntry) -> str:
    """The file that an entry means, where that says more than what it records; and why it is not simply found."""
    told = [entry.means] if entry.means and entry.means != entry.recorded else []
    return "".join(f": {each}" for each in (*told, *([entry.why] if entry.why else ())))


def show_rehearsal(report: RehearsalReport, terminal: Terminal) -> None:
    """Which documents could go where."""
    if report.documents:
        documents = count(len(report.documents), "document")
        terminal.say(f"{report.title} on {report.computer}: copies of {documents} moved and back")
    rows = [
        (each.at, f"{max((move.entries for move in each.moves), default=0):,}", *(_told(move) for move in each.moves))
        for each in report.documents[: 3 * _MOST_DOCUMENTS]
    ]
    if rows:
        systems = [move.system for move in report.documents[0].moves]
        terminal.table(("document", "entries", *systems), rows)
    for each in report.documents:
        for fault in dict.fromkeys((move.fault, move.remedy) for move in each.moves if move.fault):
            failed = ", ".join(move.system for move in each.moves if (move.fault, move.remedy) == fault)
            terminal.say(f"{each.at}, to {failed}:")
            terminal.say(f"  {fault[0]} {fault[1]}")
    _show_what_was_not_rehearsed(report, terminal)
    followed = any(move.followed for each in report.documents for move in each.moves)
    if followed:
        terminal.say('"followed": a condition of the guide fits old paths alone. What was written is right and proven,')
        terminal.say("and a check follows its entries; but a new survey there would find none of them by this guide.")
    if not report.documents:
        terminal.say(f"No document of {report.title} is on {report.computer}: there was nothing to rehearse.")
    elif not report.attention:
        back = "there, and back where it could be found there" if followed else "there and back"
        terminal.say(f"Every entry led to what it meant, {back}.")


def _show_what_was_not_rehearsed(report: RehearsalReport, terminal: Terminal) -> None:
    if report.not_read:
        terminal.say(f"Not read: {count(len(report.not_read), 'document')}; zesty guide try says why")
        show_list(terminal, report.not_read[:_MOST_DOCUMENTS])
    if report.read_in_part:
        documents = count(len(report.read_in_part), "document")
        terminal.say(f"Read in part, and rehearsed as far as that: {documents}; zesty guide try says why")
        show_list(terminal, report.read_in_part[:_MOST_DOCUMENTS])
    for branch in report.in_registry:
        terminal.say(f"Not rehearsed, since it is in the registry: {branch}")


def _told(move: RehearsedMove) -> str:
    if move.fault:
        return "no"
    return "yes, same bytes" if move.same_bytes else "followed" if move.followed else "yes"
