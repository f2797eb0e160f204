"""``zesty check CRATE --to SHEET`` and ``zesty check --at SHEET``"""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from ..options import add_guides, add_into, find_guides, opened_move, read_sheet
from ..status import Status
from ..terminal import Terminal, as_json
from ..wording import STATES, count, show_problems, states

if TYPE_CHECKING:
    from ...check import CheckedHolding, CheckReport


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    parser.add_argument("crate", metavar="CRATE", type=Path, nargs="?", help="the crate that was unpacked")
    parser.add_argument("--to", metavar="SHEET", type=Path, help="the new computer's sheet, or this-computer")
    parser.add_argument("--at", metavar="SHEET", type=Path, help="check this one computer by itself, with no crate")
    add_into(parser)
    add_guides(parser)
    parser.set_defaults(wrong=parser.error)


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Judge everything, and show it."""
    if (args.at is None) == (args.crate is None) or (args.crate is None) != (args.to is None):
        args.wrong("either CRATE and --to SHEET, or --at SHEET")
    report = _check_alone(args, terminal) if args.at else _check_move(args, terminal)
    if terminal.json:
        terminal.document({"totals": report.totals, **as_json(report)})
    elif args.at:
        show_alone(report, terminal)
    else:
        show(report, terminal)
    return status_of(report)


def _check_move(args: argparse.Namespace, terminal: Terminal) -> CheckReport:
    from ...check import check

    if args.guides:
        args.wrong("a crate brings the guides that it was made with; --guides goes with --at")
    with opened_move(args) as move, terminal.progress() as tell:
        return check(move, tell)


def _check_alone(args: argparse.Namespace, terminal: Terminal) -> CheckReport:
    import platformdirs

    from ...check import check_alone
    from ...machines import Outside

    outside = Outside()
    sheet, guides = read_sheet(args.at, outside.disk), find_guides(args.guides, outside.disk)
    with terminal.progress() as tell:
        return check_alone(sheet, guides, outside, platformdirs.user_cache_path("zesty-crate"), tell)


def show_alone(report: CheckReport, terminal: Terminal) -> None:
    """The sum, then each holding with a catalog, then what needs attention."""
    entries = count(report.totals["entries"], "catalog entry", "catalog entries")
    terminal.heading(f"{report.computer}: {entries}: {states(report.totals)}")
    terminal.say()
    rows = [
        [each.id, each.kind, f"{each.files_found:,}" if each.files_found else "", *_entries_and_found(each)]
        for each in report.holdings
    ]
    terminal.table(["holding", "kind", "files", "entries", "found"], rows, numbers=3)
    show_problems(terminal, "Not simply found", report.problems)
    for line in (*report.unread, *(f"Take care: {warning}" for warning in report.warnings)):
        terminal.say(f"\n{line}")
    terminal.say()
    if status_of(report) is Status.DONE:
        terminal.say("All well: no entry lacks its file.")
    else:
        terminal.say("Something needs attention: see the lines above.")


def status_of(report: CheckReport) -> Status:
    """Whether anything needs attention."""
    from ...survey import NEEDS_ATTENTION

    attention = report.unread or any(
        problem.state in NEEDS_ATTENTION and not problem.chosen for problem in report.problems
    )
    return Status.ATTENTION if attention else Status.DONE


def show(report: CheckReport, terminal: Terminal) -> None:
    """The sum, then each holding before and now, then what needs attention."""
    from ...survey import summed

    entries = count(report.totals["entries"], "catalog entry", "catalog entries")
    terminal.heading(f"{report.computer}: {entries}: {states(report.totals)}")
    compared = count(report.contents_compared, "file")
    terminal.say(f"{compared} read and compared with what was carried from {report.from_computer}.")
    terminal.say()
    columns = ["holding", "files carried", "here", "entries", "found before", "now"]
    terminal.table(columns, [_row(each) for each in report.holdings], numbers=5)
    before = summed(each.before for each in report.holdings)
    occurring = [state for state in ("entries", *STATES) if report.totals[state] or before[state]]
    terminal.say()
    table = [[state, f"{before[state]:,}", f"{report.totals[state]:,}"] for state in occurring]
    terminal.table(["all catalogs", "before", "now"], table, numbers=2)
    show_problems(terminal, "As was chosen", [each for each in report.problems if each.chosen])
    show_problems(terminal, "Not simply found", [each for each in report.problems if not each.chosen])
    terminal.say()
    if status_of(report) is Status.DONE:
        terminal.say("All well: every entry that found its media before finds it now.")
    else:
        terminal.say("Something needs attention: see the last lines of the list.")


def _entries_and_found(holding: CheckedHolding) -> list[str]:
    return [f"{holding.totals[name]:,}" if holding.totals["entries"] else "" for name in ("entries", "found")]


def _row(holding: CheckedHolding) -> list[str]:
    files = [f"{holding.files_carried:,}", f"{holding.files_found:,}"]
    if not holding.before["entries"] and not holding.totals["entries"]:
        return [holding.title, *files, "", "", ""]
    found = [f"{totals['found']:,}" for totals in (holding.before, holding.totals)]
    return [holding.title, *files, f"{holding.totals['entries']:,}", *found]
