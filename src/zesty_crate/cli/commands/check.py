"""``zesty check CRATE --to SHEET``"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from ..options import add_crate, add_target, opened_move
from ..status import Status
from ..terminal import Terminal, as_json
from ..wording import STATES, count, show_problems, states

if TYPE_CHECKING:
    from ...check import CheckedHolding, CheckReport


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    add_crate(parser)
    add_target(parser)


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Judge everything, and show it."""
    from ...check import check

    with opened_move(args) as move, terminal.progress() as tell:
        report = check(move, tell)
    if terminal.json:
        terminal.document({"totals": report.totals, **as_json(report)})
    else:
        show(report, terminal)
    return status_of(report)


def status_of(report: CheckReport) -> Status:
    """Whether anything needs attention."""
    from ...survey import NEEDS_ATTENTION

    attention = any(problem.state in NEEDS_ATTENTION for problem in report.problems)
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
    show_problems(terminal, "Not simply found", report.problems)
    terminal.say()
    if status_of(report) is Status.DONE:
        terminal.say("All well: every entry that found its media before finds it now.")
    else:
        terminal.say("Something needs attention: see the last lines of the list.")


def _row(holding: CheckedHolding) -> list[str]:
    files = [f"{holding.files_carried:,}", f"{holding.files_found:,}"]
    if not holding.before["entries"] and not holding.totals["entries"]:
        return [holding.title, *files, "", "", ""]
    found = [f"{totals['found']:,}" for totals in (holding.before, holding.totals)]
    return [holding.title, *files, f"{holding.totals['entries']:,}", *found]
