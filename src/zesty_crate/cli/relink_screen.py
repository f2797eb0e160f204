"""What relinking changed, or would change: each catalog with its proof, and registrations."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from .merge_screen import show_merge
from .terminal import Terminal
from .wording import count, show_list

if TYPE_CHECKING:
    from ..catalogs import Cell, Proof
    from ..merge import MergeReport
    from ..relink import Registrations, RelinkedCatalog, RelinkReport

_SHOWN = 4
_MANY = 4  # so many alike documents of one holding are told in one block


def show_relinked(report: RelinkReport, terminal: Terminal, *, details: bool = False) -> None:
    """Every catalog; alike documents of one holding in one block, unless ``details`` are wanted."""
    if not report.catalogs:
        terminal.say(f"No catalog of this crate was unpacked on {report.computer}.")
    unchanged = [
        each
        for each in report.catalogs
        if not (each.cells or each.untouched or each.already or each.refused or each.merge)
    ]
    aside = {id(each) for each in unchanged}
    shown = [each for each in report.catalogs if id(each) not in aside and not each.refused]
    for alike in _blocks(shown, details=details):
        if len(alike) > 1:
            _show_alike(alike, terminal)
        else:
            _show_catalog(alike[0], terminal)
    if unchanged:
        terminal.heading(f"{count(len(unchanged), 'catalog')}: no changes needed, since their paths are relative")
        show_list(terminal, (each.at for each in unchanged), indent="  ")
    for each in report.registrations:
        _show_registrations(each, report.computer, terminal)
    if report.refused:
        terminal.say()
        terminal.heading(f"{count(len(report.refused), 'catalog')} not relinked, and left as before")
    for catalog in report.refused:
        terminal.say(f"  {catalog.at}")
        terminal.say(f"    {catalog.refused} {catalog.next_step}".rstrip())


def _blocks(catalogs: Sequence[RelinkedCatalog], *, details: bool) -> Iterator[list[RelinkedCatalog]]:
    """Catalogs that are told together: the plain ones of a holding that has many, else each by itself."""
    plain: dict[str, list[RelinkedCatalog]] = {}
    for each in catalogs:
        if not (details or each.untouched or each.already or each.changed or each.rows_added or each.merge):
            plain.setdefault(each.holding, []).append(each)
    alike = {holding: found for holding, found in plain.items() if len(found) >= _MANY}
    together = {id(each) for found in alike.values() for each in found}
    for each in catalogs:
        if id(each) not in together:
            yield [each]
        elif each is alike[each.holding][0]:
            yield alike[each.holding]


def _show_alike(catalogs: list[RelinkedCatalog], terminal: Terminal) -> None:
    first = catalogs[0]
    entries = count(sum(each.entries_moved for each in catalogs), "entry", "entries")
    texts = count(sum(each.cells for each in catalogs), "changed text")
    terminal.heading(f"{first.title}: {count(len(catalogs), 'document')}")
    moved = "would be updated" if first.prefix_changes else "updated"
    terminal.say(f"  {entries} {moved} by {texts}; --details shows each document")
    terminal.say(f"  for example {first.at}")
    _show_examples(first, terminal, 1)
    if all(each.proof for each in catalogs):
        terminal.say("  each compared with its original: nothing else differs")


def _show_catalog(catalog: RelinkedCatalog, terminal: Terminal) -> None:
    terminal.heading(f"{catalog.title}, {catalog.at}")
    if catalog.already:
        terminal.say("  relinked already; nothing to do")
        return
    if catalog.merge is not None:
        _show_merged(catalog, catalog.merge, terminal)
        return
    if catalog.changed:
        terminal.say("  changed after unpacking; its present state is relinked")
    if catalog.prefix_changes:
        _show_prefix_changes(catalog, terminal)
    elif catalog.cells:
        entries = count(catalog.entries_moved, "entry", "entries")
        terminal.say(f"  {entries} updated by {count(catalog.cells, 'changed text')}, for example")
        _show_examples(catalog, terminal, _SHOWN)
    if catalog.rows_added:
        rows = count(catalog.rows_added, "new row")
        terminal.say(f"  {rows} for entries that shared a row and now need different ones (the guide allows it)")
    if catalog.proof:
        compared = f"{count(catalog.proof.rows_compared, 'row')} in {count(catalog.proof.tables, 'table')}"
        if not any(change.cell.table for change in catalog.examples):  # a text has no tables
            compared = count(catalog.proof.rows_compared, "value")
        added = "; only the new rows were added" if catalog.proof.rows_added else ""
        terminal.say(f"  compared with the original: {compared}; nothing else differs{added}")
        _show_derived(catalog.proof, terminal)
    if catalog.untouched:
        terminal.say(f"  not updated: {count(len(catalog.untouched), 'entry', 'entries')}")
        show_list(terminal, (f"{each.recorded}: {each.why}" for each in catalog.untouched))


def _show_merged(catalog: RelinkedCatalog, report: MergeReport, terminal: Terminal) -> None:
    terminal.say("  merged with the one there" if catalog.proof else "  merging it with the one there comes to")
    show_merge(report, terminal)
    if catalog.proof:
        compared = count(catalog.proof.rows_compared, "row")
        terminal.say(f"    proven    {compared} compared: all of both is in it, and nothing else differs")


def _show_derived(proof: Proof, terminal: Terminal) -> None:
    """What the database derives from the changed texts, and how far that followed."""
    if names := proof.triggers_not_run:
        terminal.say(f"  not run: the program's triggers on the changed texts: {', '.join(names)}")
        terminal.say("  If the program still shows an old path, let it rebuild its index.")
    if names := proof.rebuilt:
        terminal.say(f"  search indexes built anew, and checked: {', '.join(names)}")
    if names := proof.out_of_step:
        terminal.say(f"  search indexes that may still find old paths: {', '.join(names)}")
        terminal.say("  They were not in step before, or only their program knows how to build them.")


def _show_examples(catalog: RelinkedCatalog, terminal: Terminal, most: int) -> None:
    for change in catalog.examples[:most]:
        where = _place(change.cell)
        terminal.say(f"    {where}: {_shown(change.old)}")
        terminal.say(f"    {'':>{len(where)}}  {_shown(change.new)}")


def _show_prefix_changes(catalog: RelinkedCatalog, terminal: Terminal) -> None:
    """Which beginnings of paths become which, and how often, before anything is written."""
    entries = count(catalog.entries_moved, "entry", "entries")
    terminal.say(f"  {entries} would be updated by {count(catalog.cells, 'changed text')}")
    for number, each in enumerate(catalog.prefix_changes[:_SHOWN]):
        where = f" in {each.where}" if each.where else ""
        terminal.say(f"    {count(each.texts, 'text')}{where}")
        terminal.say(f"      from  {_shown(each.old)}")
        terminal.say(f"      to    {_shown(each.new)}")
        if number == 0 and each.example != (each.old, each.new):
            terminal.say(f"      for example  {each.example[0]}")
            terminal.say(f"                   {each.example[1]}")
    if len(catalog.prefix_changes) > _SHOWN:
        more = count(len(catalog.prefix_changes) - _SHOWN, "other kind")
        terminal.say(f"    and {more}; --json lists all")


def _show_registrations(each: Registrations, computer: str, terminal: Terminal) -> None:
    """One branch of the registry: what became of it, and what has no counterpart."""
    from ..relink import Merging

    terminal.heading(f"{each.title}, {each.branch}")
    size = f"{count(each.keys, 'key')}, {count(each.values, 'value')}"
    if each.refused:
        terminal.say(f"  {size}: not merged. {each.refused}")
    elif each.state is Merging.ELSEWHERE:
        terminal.say(f"  {size}: not registered, because {computer} has no registry")
    elif each.state is Merging.MANUAL:
        terminal.say(f"  {size}, with the new paths; import this file on {computer}: {each.file}")
    else:
        terminal.say(f"  {size}: {each.state}; {count(each.entries_moved, 'entry', 'entries')} with a new path")
    for change in each.examples if each.state is not Merging.ELSEWHERE else ():
        terminal.say(f"    {change.old}")
        terminal.say(f"    {change.new}")
    if each.without_content:
        terminal.say(f"  {count(len(each.without_content), 'registration')} without content:")
        show_list(terminal, each.without_content)
    if each.unregistered:
        terminal.say(f"  {count(len(each.unregistered), 'content folder')} without a registration:")
        show_list(terminal, each.unregistered)


def _place(cell: Cell) -> str:
    """Where a text stands, for people."""
    if cell.table:
        return f"{cell.table}.{cell.column}"
    return f"character {cell.row}" if isinstance(cell.row, int) else cell.row


def _shown(text: str) -> str:
    return text or "(empty: the shared piece holds the whole path)"
