"""``zesty compare CRATE --with SHEET|CRATE``"""

from __future__ import annotations

import argparse
from contextlib import ExitStack
from pathlib import Path
from typing import TYPE_CHECKING

from ..json_text import fields_of
from ..options import add_crate
from ..status import Status
from ..terminal import Terminal
from ..wording import count, entries, show_list, show_not_looked_at, states

if TYPE_CHECKING:
    from ...check import ComparedHolding, CompareReport

_STATES = (
    ("only-here", "Only {here}"),
    ("only-there", "Only {there}"),
    ("differs", "Different"),
    ("unclear", "Not compared, since they may be on the other side, too"),
)


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    add_crate(parser)
    parser.add_argument(
        "--with",
        dest="other",
        metavar="SHEET|CRATE",
        type=Path,
        required=True,
        help="a computer's sheet, this-computer, or another crate",
    )


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Compare both, and show it."""
    import platformdirs

    from ...check import compare, computer_side, crate_side
    from ...crate import Crate
    from ...machines import Outside, read_sheet

    outside = Outside()
    here = Crate(args.crate)
    with terminal.progress() as tell, ExitStack() as stack:
        mine = stack.enter_context(crate_side(here, outside))
        if args.other.is_dir():
            other = crate_side(Crate(args.other), outside)
        else:
            sheet, aside = read_sheet(args.other, outside.disk), platformdirs.user_cache_path("zesty-crate")
            other = computer_side(sheet, here, outside, aside, tell)
        report = compare(mine, stack.enter_context(other), outside.disk, tell)
    if terminal.json:
        terminal.document(fields_of(report))
    else:
        show(report, terminal)
    return Status.DONE if report.is_whole else Status.ATTENTION


def show(report: CompareReport, terminal: Terminal) -> None:
    """The sum, then each holding that is different, then the files."""
    same = sum(holding.same for holding in report.holdings)
    total = same + len(report.differences)
    terminal.heading(
        f"{count(total, 'file')} compared, {report.here} (here) and {report.there} (there): {same:,} the same"
    )
    _show_holdings(report, terminal)
    _show_entries(report, terminal)
    for state, title in _STATES:
        _show_files(report, state, title.format(here=report.here, there=report.there), terminal)
    if not report.differences:
        terminal.say("No file is different.")
    titles = {each.id: each.title for each in report.holdings}
    for side, places in ((report.here, report.not_looked_at_here), (report.there, report.not_looked_at_there)):
        show_not_looked_at(terminal, places, titles, side)


def _show_holdings(report: CompareReport, terminal: Terminal) -> None:
    different = [each for each in report.holdings if each.only_here or each.only_there or each.differs or each.unclear]
    if not different:
        return
    terminal.say()
    columns = ["holding", "same", "only here", "only there", "newer here", "newer there", "different, same date"]
    columns += ["not known"] if any(each.unclear for each in different) else []
    terminal.table(columns, [_row(each)[: len(columns)] for each in different], numbers=len(columns) - 1)
    terminal.say(f"No difference in {count(len(report.holdings) - len(different), 'other holding')}.")


def _show_entries(report: CompareReport, terminal: Terminal) -> None:
    for name, totals in ((report.here, report.states_here), (report.there, report.states_there)):
        if totals["entries"]:
            terminal.say(f"Catalog entries {name}: {states(totals)}.")
    for each in report.holdings:
        both = f"{each.id}: {entries(each.entries_here)} here, {each.entries_there:,} there"
        if each.is_partly_unread and (each.entries_here or each.entries_there):
            terminal.say(f"{both}; not compared, since not all could be read.")
        elif each.entries_only_here or each.entries_only_there:
            terminal.say(f"{both}; {each.entries_only_here:,} only here, {each.entries_only_there:,} only there.")


def _row(each: ComparedHolding) -> list[str]:
    other = each.differs - each.newer_here - each.newer_there
    numbers = (each.only_here, each.only_there, each.newer_here, each.newer_there, other, each.unclear)
    return [each.id, f"{each.same:,}", *(f"{number:,}" if number else "" for number in numbers)]


def _show_files(report: CompareReport, state: str, title: str, terminal: Terminal) -> None:
    files = [each for each in report.differences if each.state == state]
    if not files:
        return
    terminal.say()
    terminal.heading(f"{title}: {count(len(files), 'file')}")
    newer = {"here": f", newer {report.here}", "there": f", newer {report.there}", "": ""}
    lines = (f"{each.here or each.there}" + (f": {each.why}{newer[each.newer]}" if each.why else "") for each in files)
    show_list(terminal, lines, shown=20)
