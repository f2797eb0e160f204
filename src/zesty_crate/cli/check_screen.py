"""A check on the terminal: the sum, then each holding before and now, and last what needs attention."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from .documents_screen import show_documents
from .terminal import Terminal
from .wording import count, day, entries, show_list, show_not_looked_at, show_problems, states

if TYPE_CHECKING:
    from ..check import CheckedHolding, CheckReport, ContentRead, Residue, Searched, SinceHandOver

_SURPLUS = {
    "baseline": "already there before unpacking",
    "kept-both": "already there in the place of a carried file; both were kept",
    "made-since": "made after unpacking",
    "unknown": "of unknown origin",
}


def show_check(report: CheckReport, terminal: Terminal) -> None:
    """A check of a move."""
    _heading(report, terminal)
    if report.content is not None:
        terminal.say(content_said(report.content, report.from_computer))
    if report.not_chosen:
        terminal.say(f"Outside the chosen scope, and not counted: {'; '.join(report.not_chosen)}.")
    terminal.say()
    _show_files(report.holdings, terminal)
    _show_catalogs(report.holdings, terminal)
    _show_states(report, terminal)
    _show_surplus(report, terminal)
    _show_organisation(report, terminal)
    _show_reverse(report, terminal)
    _show_spot_checks(report, terminal)
    if report.since is not None:
        _show_since(report.since, terminal)
    show_problems(terminal, "Left out or kept by choice", (each for each in report.problems if each.chosen))
    show_problems(terminal, "Not simply found", (each for each in report.problems if not each.chosen))
    show_documents(terminal, report.unsettled, len(report.documents))
    if report.searched is not None:
        _show_residue(report.searched, report.from_computer, terminal)
    _show_not_looked_at(report, terminal)
    _show_end(report, terminal, "All well: every entry that found its media before the move finds it now.")


def show_computer(report: CheckReport, terminal: Terminal) -> None:
    """A check of one computer by itself."""
    _heading(report, terminal)
    terminal.say()
    rows = [
        [each.id, each.kind, f"{each.new.files:,}" if each.new.files else "", *_entries_and_found(each)]
        for each in report.holdings
    ]
    terminal.table(["holding", "kind", "files", "entries", "found"], rows, numbers=3)
    _show_reverse(report, terminal)
    _show_spot_checks(report, terminal)
    show_problems(terminal, "Not simply found", report.problems)
    show_documents(terminal, report.unsettled, len(report.documents))
    for warning in report.warnings:
        terminal.say()
        terminal.say(f"Warning: {warning}")
    _show_not_looked_at(report, terminal)
    away = report.totals["unplugged"]
    _show_end(report, terminal, _SO_FAR.format(entries(away)) if away else "All well: every entry finds its file.")


_SO_FAR = "Every entry finds its file as far as could be looked; on volumes that are not connected: {}."


def content_said(content: ContentRead, old: str) -> str:
    """What was compared of the carried files, and how sure that makes the result."""
    compared = f"Compared size and date of all {count(content.carried, 'file')} carried from {old}"
    read = f"{compared}, and the content of {content.read:,}; {_differ(content.differ)}."
    if content.sampled and content.sampled < content.carried and not content.differ and content.sampled >= _TELLING:
        most = 300 / content.sampled
        read += f" By this sample, fewer than {most:.1f} in 100 files differ in content only (95 % confidence)."
    return read


def _show_residue(searched: Searched, old: str, terminal: Terminal) -> None:
    """What still names the old computer: told, and not changed."""
    from ..check import RESIDUE

    if not searched.residue:
        return
    terminal.say()
    terminal.heading(f"Still naming places of {old} (not changed; {count(searched.files, 'file')} searched)")
    for kind, words in RESIDUE.items():
        found = [each for each in searched.residue if each.kind is kind]
        if found:
            terminal.say(f"  In {words}")
            show_list(terminal, map(_residue, found), shown=_SHOWN_RESIDUE)


def _residue(each: Residue) -> str:
    return f"{each.at}, {each.field}: {count(each.mentions, 'time')}, such as {each.example}"


_SHOWN_RESIDUE = 8
_TELLING = 30


def _differ(number: int) -> str:
    return "none of these differs" if not number else f"{number:,} of these {'differs' if number == 1 else 'differ'}"


def _heading(report: CheckReport, terminal: Terminal) -> None:
    terminal.heading(f"{report.computer}: {entries(report.totals['entries'])}: {states(report.totals)}")


def _show_files(holdings: Iterable[CheckedHolding], terminal: Terminal) -> None:
    from ..crate import readable_size

    rows = [
        [
            each.title,
            *(f"{side.files:,}" for side in (each.old, each.carried)),
            f"{each.files_found:,}",
            f"{each.new.files:,}",
            *(readable_size(side.size_bytes) for side in (each.old, each.new)),
        ]
        for each in holdings
        if each.old.files or each.new.files
    ]
    columns = ["holding", "files before", "carried", "found as carried", "files now", "size before", "size now"]
    terminal.table(columns, rows, numbers=6)


def _show_catalogs(holdings: Iterable[CheckedHolding], terminal: Terminal) -> None:
    rows = []
    for each in holdings:
        sides = (each.old, each.carried, each.new)
        if any(side.entries or side.groups for side in sides):
            numbers = [f"{side.entries:,}" for side in sides]
            found = [f"{each.before['found']:,}", f"{each.totals['found']:,}"]
            counts = [
                _then_now(each.old.groups, each.new.groups),
                _then_now(each.old.annotations, each.new.annotations),
            ]
            rows.append([each.title, *numbers, *found, *counts])
    if rows:
        terminal.say()
        columns = ["holding", "entries before", "carried", "now", "found before", "found now", "groups", "annotations"]
        terminal.table(columns, rows, numbers=7)


def _then_now(before: int, now: int) -> str:
    return f"{now:,}" if before == now else f"{before:,} to {now:,}"


def _show_states(report: CheckReport, terminal: Terminal) -> None:
    from ..survey import State, summed

    before = summed(each.before for each in report.holdings)
    if not (report.totals["entries"] or before["entries"]):
        return
    occurring = [state for state in ("entries", *State) if report.totals[state] or before[state]]
    terminal.say()
    table = [[str(state), f"{before[state]:,}", f"{report.totals[state]:,}"] for state in occurring]
    terminal.table(["state of entries", "before", "now"], table, numbers=2)


def _show_surplus(report: CheckReport, terminal: Terminal) -> None:
    from ..crate import readable_size

    if not report.surplus:
        return
    terminal.say()
    terminal.heading("More than was carried")
    for each in report.surplus:
        size = readable_size(each.size_bytes)
        terminal.say(f"  {each.holding}: {count(each.files, 'file')}, {size}: {_SURPLUS[each.why]}")
        show_list(terminal, each.paths, shown=4, indent="      ")


def _show_organisation(report: CheckReport, terminal: Terminal) -> None:
    attributes = report.attributes
    if not report.organisation and not (attributes and attributes.compared):
        return
    apart = [each for each in report.organisation if not each.is_equal]
    terminal.say()
    catalogs = count(len(report.organisation), "catalog")
    same = "groups, nesting, order and annotations are the same as before"
    if report.merged:
        same = "all groups, nesting, order and annotations that came are there, but for what was decided"
    equal = same if not apart else f"{len(apart):,} differ"
    terminal.heading("Organisation")
    if report.organisation:
        terminal.say(f"  {catalogs} compared: {equal}.")
    for merged in report.merged:
        terminal.say(f"  {merged.title}: {merged.at}")
        sides = f"{merged.there:,} there, {merged.came:,} carried, {merged.both:,} of these on both"
        terminal.say(f"    merged: entries {sides}; {merged.now:,} now")
    for each in apart:
        terminal.say(f"  {each.title}: {each.at}")
        show_list(terminal, each.differences)
    if attributes and attributes.compared:
        things = count(attributes.compared, "file or folder has", "files and folders have")
        kept = attributes.compared - len(attributes.lacking)
        same = "all" if not attributes.lacking else f"{kept:,}"
        terminal.say(f"  {things} tags, labels or dates of creation; {same} are the same as carried.")
        show_list(terminal, [f"different: {path}" for path in attributes.lacking], shown=4)


def _show_reverse(report: CheckReport, terminal: Terminal) -> None:
    media, alone = report.unknown_media, report.without_content
    if not (media or alone or report.unregistered):
        return
    terminal.say()
    terminal.heading("Media and content that nothing refers to")
    for before, told in ((True, ", as before the move"), (False, "")):
        paths = [each.at for each in media if each.before is before]
        if paths:
            terminal.say(f"  {count(len(paths), 'media file')} in no catalog{told}:")
            show_list(terminal, paths, shown=4)
    if report.unregistered:
        terminal.say(f"  {count(len(report.unregistered), 'content folder')} without a registration:")
        show_list(terminal, [each.at for each in report.unregistered], shown=4)
    if alone:
        terminal.say(f"  {count(len(alone), 'registration')} without content:")
        show_list(
            terminal, [f"{each.entry}: {each.at}{', as before' if each.before else ''}" for each in alone], shown=4
        )


def _show_spot_checks(report: CheckReport, terminal: Terminal) -> None:
    if not report.spot_checks:
        return
    chosen = [each for each in report.spot_checks if each.verdict != "left-out"]
    good = [each for each in chosen if each.is_good]
    told = [each for each in chosen if each.named or not each.is_good]
    as_they_were = ", the same as before" if report.from_computer else ""
    terminal.say()
    left = len(report.spot_checks) - len(chosen)
    out = f"; {left} outside the chosen scope" if left else ""
    terminal.heading(f"Spot checks: {len(good)} of {len(chosen)} opened and decoded{as_they_were}{out}")
    show_list(terminal, [f"{each.verdict}: {each.at} ({each.said})" for each in told], shown=12, indent="  ")


def _show_since(since: SinceHandOver, terminal: Terminal) -> None:
    terminal.say()
    terminal.heading(f"Since the hand-over of {day(since.handed_over)}")
    counted = (("new", since.files_new), ("edited", since.files_edited), ("gone", since.files_gone))
    if not any(paths for _, paths in counted) and not since.entries_new and not since.entries_gone:
        terminal.say("  Nothing changed.")
    for word, paths in counted:
        if paths:
            terminal.say(f"  {count(len(paths), 'file')} {word}:")
            show_list(terminal, paths, shown=4)
    if since.entries_new or since.entries_gone:
        terminal.say(f"  {since.entries_new:,} catalog entries new, {since.entries_gone:,} gone.")


def _show_not_looked_at(report: CheckReport, terminal: Terminal) -> None:
    show_not_looked_at(terminal, report.not_looked_at, {each.id: each.title for each in report.holdings})


def _show_end(report: CheckReport, terminal: Terminal, well: str) -> None:
    terminal.say()
    if not report.attention:
        nothing = "All well: what was carried is there, unchanged. It has no catalog entries."
        terminal.say(well if report.totals["entries"] else nothing)
        if report.not_covered:
            files = count(report.not_covered, "file")
            terminal.say(
                f"This says nothing of {files} on {report.from_computer} that no holding covers, and that stayed "
                "there: zesty survey CRATE --details coverage lists them."
            )
        if report.not_surveyed:
            places = count(report.not_surveyed, "place")
            terminal.say(
                f"This says nothing of {places} on {report.from_computer} that could not be looked at before the move: "
                "zesty survey CRATE lists them."
            )
    else:
        terminal.say(f"Needs attention: {', '.join(report.attention)}.")


def _entries_and_found(holding: CheckedHolding) -> list[str]:
    return [f"{holding.totals[name]:,}" if holding.totals["entries"] else "" for name in ("entries", "found")]
