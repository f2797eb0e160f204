"""``zesty compare CRATE --with SHEET|CRATE``"""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from contextlib import ExitStack, closing, contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from ..options import add_crate, read_sheet
from ..status import Status
from ..terminal import Terminal, as_json
from ..wording import count, show_list

if TYPE_CHECKING:
    from ...check import ComparedHolding, CompareReport, Side
    from ...crate import Crate
    from ...machines import Outside
    from ...progress import Tell

_STATES = (("only-here", "Only {here}"), ("only-there", "Only {there}"), ("differs", "Different"))


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    add_crate(parser)
    parser.add_argument(
        "--with", dest="other", metavar="SHEET|CRATE", type=Path, required=True,
        help="a computer's sheet, this-computer, or another crate",
    )  # fmt: skip


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Compare both, and show it."""
    from ...check import compare
    from ...crate import Crate
    from ...machines import Outside

    outside = Outside()
    here = Crate(args.crate)
    with terminal.progress() as tell, ExitStack() as stack:
        mine = stack.enter_context(_crate_side(here, outside))
        other = _crate_side(Crate(args.other), outside) if args.other.is_dir() else _computer_side(
            args.other, here, outside, tell
        )  # fmt: skip
        report = compare(mine, stack.enter_context(other), outside.disk, tell)
    if terminal.json:
        terminal.document(as_json(report))
    else:
        show(report, terminal)
    return Status.DONE


@contextmanager
def _crate_side(crate: Crate, outside: Outside) -> Iterator[Side]:
    from ...check import Side
    from ...machines import computer_of

    with closing(crate.open_survey(outside.disk)) as survey:
        sheet = crate.old_sheet(outside.disk, survey)
        guides = tuple(crate.guides(outside.disk))
        yield Side(f"in {crate.name}", survey, computer_of(sheet), sheet, guides)


@contextmanager
def _computer_side(name: Path, crate: Crate, outside: Outside, tell: Tell) -> Iterator[Side]:
    """A computer as it is now, by the guides of the crate that it is compared with."""
    import platformdirs

    from ...check import Side, survey_aside
    from ...machines import computer_of

    sheet, guides = read_sheet(name, outside.disk), crate.guides(outside.disk)
    computer = computer_of(sheet)
    with survey_aside(sheet, guides, outside, platformdirs.user_cache_path("zesty-crate"), tell) as survey:
        yield Side(f"on {computer.name}", survey, computer, sheet, tuple(guides))


def show(report: CompareReport, terminal: Terminal) -> None:
    """The sum, then each holding that differs, then the files by states."""
    same = sum(holding.same for holding in report.holdings)
    total = same + len(report.differences)
    terminal.heading(f"{count(total, 'file')} {report.here} (here) or {report.there} (there): {same:,} the same")
    different = [each for each in report.holdings if each.only_here or each.only_there or each.differs]
    if different:
        terminal.say()
        columns = ["holding", "same", "only here", "only there", "newer here", "newer there", "other"]
        terminal.table(columns, [_row(each) for each in different], numbers=6)
        terminal.say(f"All is the same in {count(len(report.holdings) - len(different), 'other holding')}.")
    for each in report.holdings:
        if each.entries_only_here or each.entries_only_there:
            entries = count(each.entries_here, "catalog entry", "catalog entries")
            only = f"{each.entries_only_here:,} only here, {each.entries_only_there:,} only there"
            terminal.say(f"{each.id}: {entries} here, {each.entries_there:,} there; {only}.")
    for state, title in _STATES:
        _show_files(report, state, title.format(here=report.here, there=report.there), terminal)
    if not report.differences:
        terminal.say("No file differs.")


def _row(each: ComparedHolding) -> list[str]:
    other = each.differs - each.newer_here - each.newer_there
    numbers = (each.only_here, each.only_there, each.newer_here, each.newer_there, other)
    return [each.id, f"{each.same:,}", *(f"{number:,}" if number else "" for number in numbers)]


def _show_files(report: CompareReport, state: str, title: str, terminal: Terminal) -> None:
    files = [each for each in report.differences if each.state == state]
    if not files:
        return
    terminal.heading(f"\n{title}: {count(len(files), 'file')}")
    newer = {"here": f", newer {report.here}", "there": f", newer {report.there}", "": ""}
    lines = (f"{each.here or each.there}" + (f": {each.why}{newer[each.newer]}" if each.why else "") for each in files)
    show_list(terminal, lines, shown=20)
