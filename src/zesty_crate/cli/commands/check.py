"""``zesty check CRATE --to SHEET``"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from ..options import add_crate, add_target, opened_move
from ..status import Status
from ..terminal import Terminal, as_json
from ..wording import STATES, count, show_problems, states

if TYPE_CHECKING:
    from ...check import CheckReport


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
    entries = count(report.totals["entries"], "catalog entry", "catalog entries")
    terminal.heading(f"{report.computer}: {entries}: {states(report.totals)}")
    compared = count(report.contents_compared, "file")
    terminal.say(f"{compared} read and compared with what was carried from {report.from_computer}.")
    terminal.say()
    rows = [[each.title, f"{each.files_carried:,}", f"{each.files_found:,}"] for each in report.holdings]
    terminal.table(["holding", "files carried", "found here"], rows, numbers=2)
    for each in report.holdings:
        if each.totals["entries"] or each.before["entries"]:
            terminal.say()
            terminal.heading(f"{each.title}, entry by entry")
            occurring = [state for state in STATES if each.totals[state] or each.before[state]]
            table = [[state, f"{each.before[state]:,}", f"{each.totals[state]:,}"] for state in occurring]
            sums = ["entries", f"{each.before['entries']:,}", f"{each.totals['entries']:,}"]
            terminal.table(["state", "before", "now"], [sums, *table], numbers=2)
    show_problems(terminal, "Not simply found", report.problems)
    terminal.say()
    if status_of(report) is Status.DONE:
        terminal.say("All well: every entry that found its media before finds it now.")
    else:
        terminal.say("Something needs attention: see the last lines of the list.")
