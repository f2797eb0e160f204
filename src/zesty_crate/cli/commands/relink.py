"""``zesty relink CRATE --to SHEET`` and ``zesty relink --at SHEET --look-in DIR``"""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from ..json_text import fields_of
from ..options import add_changing, add_guides, add_into, opened_move, target_of
from ..status import Status
from ..terminal import Terminal
from ..wording import count, show_list

if TYPE_CHECKING:
    from ...catalogs import Cell
    from ...relink import Registrations, RelinkedCatalog, RelinkReport

_SHOWN = 4


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    parser.add_argument("crate", metavar="CRATE", type=Path, nargs="?", help="the crate that was unpacked")
    parser.add_argument("--to", metavar="SHEET", type=Path, help="the new computer's sheet, or this-computer")
    parser.add_argument(
        "--at", metavar="SHEET", type=Path, help="relink the catalogs of this one computer, with no crate"
    )
    parser.add_argument(
        "--look-in", metavar="DIR", action="append", default=[],
        help="with --at: a folder of that computer in which files may be that went elsewhere (may be repeated)",
    )  # fmt: skip
    parser.add_argument(
        "--route", metavar="OLD=NEW", action="append", default=[],
        help="with --at: what lay in this folder is in that one now, where files of the right size are (repeatable)",
    )  # fmt: skip
    parser.add_argument(
        "--rehome", metavar="OLD=NEW",
        help="with --at: move this folder to its final place, and take all recorded paths along",
    )  # fmt: skip
    parser.add_argument(
        "--decisions", metavar="FILE.csv", type=Path,
        help="with --at: the table of what is not sure; written when it is not there, else read with your choices",
    )  # fmt: skip
    parser.add_argument(
        "--keep-in", metavar="DIR", type=Path, default=Path(),
        help="with --at: where the crate is made that keeps the catalogs as they were (default: here)",
    )  # fmt: skip
    add_into(parser)
    add_guides(parser)
    add_changing(parser)
    parser.set_defaults(wrong=parser.error)


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Decide the new paths, show them, and write them."""
    if (args.at is None) == (args.crate is None) or (args.crate is None) != (args.to is None):
        args.wrong("either CRATE and --to SHEET, or --at SHEET and --look-in DIR")
    looking = bool(args.look_in or args.route)
    if args.decisions and not looking:
        args.wrong("--decisions goes with --at SHEET and --look-in DIR")
    if bool(args.at) != bool(looking or args.rehome):
        args.wrong("--at SHEET goes with --look-in DIR, --route OLD=NEW or --rehome OLD=NEW, and these with it")
    if args.rehome:
        if looking or args.decisions:
            args.wrong("--rehome moves what is found, so it goes without --look-in, --route and --decisions")
        from ..rehome_alone import run_rehome

        return run_rehome(args, terminal)
    return _run_alone(args, terminal) if args.at else _run_move(args, terminal)


def _run_alone(args: argparse.Namespace, terminal: Terminal) -> Status:
    from ..evidence_screen import as_document
    from ..relink_alone import relink_alone

    evidence, report, kept = relink_alone(args, terminal)
    if terminal.json:
        written = {"kept": None if kept is None else str(kept), "relinked": report}
        terminal.document({"dry-run": args.dry_run, **as_document(evidence), **written})
    elif report is not None:
        show(report, terminal)
        terminal.say(f"\nThe catalogs as they were are in {kept}.")
        terminal.next(f'zesty undo "{kept}" --to "{args.at}"', "To take it back")
        terminal.next(f'zesty check --at "{args.at}"')
    return Status.ATTENTION if evidence.left else Status.DONE


def _run_move(args: argparse.Namespace, terminal: Terminal) -> Status:
    from ...relink import Merging, relink

    if args.guides:
        args.wrong("a crate brings the guides that it was made with; --guides goes with --at")
    with opened_move(args) as move:
        with terminal.progress() as tell:
            report = relink(move, tell, dry_run=args.dry_run or not args.yes)
        pending = [catalog for catalog in report.catalogs if not catalog.already]
        branches = [each for each in report.registrations if each.state is Merging.PENDING]
        if (pending or branches) and not (args.dry_run or args.yes):
            if not terminal.json:
                show(report, terminal)
            merging = f" and merge {count(len(branches), 'branch', 'branches')} of the registry" if branches else ""
            texts = count(sum(each.cells for each in pending), "new path text")
            terminal.ask(f"Write {texts}{merging}?", yes=False)
            with terminal.progress() as tell:
                report = relink(move, tell)
    if terminal.json:
        terminal.document({"dry-run": args.dry_run, **fields_of(report)})
    else:
        show(report, terminal)
        if not args.dry_run:
            terminal.next(f'zesty check "{args.crate}" {target_of(args)}')
    return Status.DONE


def show(report: RelinkReport, terminal: Terminal) -> None:
    """Each catalog: what changes in it, and the proof."""
    if not report.catalogs:
        terminal.say(f"No catalog of this crate was unpacked on {report.computer}.")
    still = [each for each in report.catalogs if not (each.cells or each.untouched or each.already)]
    for catalog in report.catalogs:
        if catalog not in still:
            _show_catalog(catalog, terminal)
    if still:
        terminal.heading(f"{count(len(still), 'catalog')} without a path to change: what is relative stays right")
        show_list(terminal, (each.at for each in still), indent="  ")
    for each in report.registrations:
        _show_registrations(each, report.computer, terminal)


def _place(cell: Cell) -> str:
    """Where a text stands, for people."""
    if cell.table:
        return f"{cell.table}.{cell.column}"
    return f"character {cell.row}" if isinstance(cell.row, int) else cell.row


def _show_catalog(catalog: RelinkedCatalog, terminal: Terminal) -> None:
    terminal.heading(f"{catalog.title}, {catalog.at}")
    if catalog.already:
        terminal.say("  relinked already; nothing to do")
        return
    entries = count(catalog.entries_moved, "entry", "entries")
    if catalog.changed:
        terminal.say("  it was changed since it was unpacked, and is read as it is now")
    if catalog.differences:
        _show_differences(catalog, terminal)
    elif catalog.cells:
        terminal.say(f"  {entries} moved by {count(catalog.cells, 'changed text')}, for example")
    for change in catalog.examples[:4] if not catalog.differences else ():
        where = _place(change.cell)
        terminal.say(f"    {where}: {_shown(change.old)}")
        terminal.say(f"    {'':>{len(where)}}  {_shown(change.new)}")
    if catalog.rows_added:
        rows = count(catalog.rows_added, "new row")
        terminal.say(f"  {rows} for entries that shared one and part, as the guide allows")
    if catalog.proof:
        new = ", and nothing is new but what was added" if catalog.proof.rows_added else ""
        terminal.say(
            f"  compared afterwards: {count(catalog.proof.rows_compared, 'row')} "
            f"in {count(catalog.proof.tables, 'table')}; nothing differs but what was changed{new}"
        )
        if names := catalog.proof.triggers_not_run:
            terminal.say(f"  its program's triggers on what was changed were not run: {', '.join(names)}")
            terminal.say("  should the program still show an old path somewhere, have it rebuild its index")
    if catalog.untouched:
        terminal.say(f"  left as it was: {count(len(catalog.untouched), 'entry', 'entries')}")
        show_list(terminal, (f"{each.recorded}: {each.why}" for each in catalog.untouched))


def _shown(text: str) -> str:
    return text or "(empty: what is shared with others says it all)"


def _show_differences(catalog: RelinkedCatalog, terminal: Terminal) -> None:
    """Which beginnings of paths become which, and how often, before anything is written."""
    entries = count(catalog.entries_moved, "entry", "entries")
    terminal.say(f"  {entries} would move by {count(catalog.cells, 'changed text')}")
    for number, each in enumerate(catalog.differences[:_SHOWN]):
        where = f" in {each.where}" if each.where else ""
        terminal.say(f"    {count(each.texts, 'text')}{where}")
        terminal.say(f"      from  {_shown(each.old)}\n      to    {_shown(each.new)}")
        if number == 0 and each.example != (each.old, each.new):
            terminal.say(f"      as in {each.example[0]}\n            {each.example[1]}")
    if len(catalog.differences) > _SHOWN:
        terminal.say(f"    and {len(catalog.differences) - _SHOWN:,} more kinds; --json lists all")


def _show_registrations(each: Registrations, computer: str, terminal: Terminal) -> None:
    """One branch of the registry: what became of it, and what it does not fit to."""
    from ...relink import Merging

    terminal.heading(f"{each.title}, {each.branch}")
    size = f"{count(each.keys, 'key')}, {count(each.values, 'value')}"
    if each.state is Merging.ELSEWHERE:
        terminal.say(f"  {size}: {computer} has no registry, so nothing is registered there")
    elif each.state is Merging.BY_HAND:
        terminal.say(f"  {size}, with the new paths, to be imported by hand on {computer}: {each.file}")
    else:
        terminal.say(f"  {size}: {each.state}; {count(each.entries_moved, 'entry', 'entries')} with a new path")
    for change in each.examples if each.state is not Merging.ELSEWHERE else ():
        terminal.say(f"    {change.old}\n    {change.new}")
    for title, names in (("Registered without content", each.without_content), ("Not registered", each.unregistered)):
        if names:
            terminal.say(f"  {title}: {count(len(names), 'thing')}")
            show_list(terminal, names)
