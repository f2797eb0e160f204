"""``zesty plan CRATE --to SHEET``"""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from ..options import add_crate, add_target, opened_move
from ..status import Status
from ..terminal import Terminal, as_json
from ..wording import count, show_list

if TYPE_CHECKING:
    from ...plan import PlanReport


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    add_crate(parser)
    add_target(parser)
    parser.add_argument(
        "--route", metavar="OLD=NEW", action="append", default=[],
        help="what lies in this folder of the old computer is to lie in that one of the new (may be repeated)",
    )  # fmt: skip


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Write the plan, and show it."""
    from ...plan import make_plan

    with opened_move(args) as move:
        report = make_plan(move, args.route)
    if terminal.json:
        terminal.document(as_json(report))
    else:
        show(report, terminal)
        if not report.blockers:
            terminal.next(f'zesty unpack "{args.crate}" --to "{args.to}"')
    return Status.REFUSED if report.blockers else Status.DONE


def show(report: PlanReport, terminal: Terminal) -> None:
    """The plan as a page: what goes where, what is there, what is in the way."""
    from ...crate import readable_size

    terminal.heading(f"{report.from_computer} to {report.to_computer}: what goes where")
    there = f"; {count(report.already_there, 'file')} there already" if report.already_there else ""
    terminal.say(f"{count(report.files, 'file')}, {readable_size(report.size_bytes)}{there}")
    terminal.say()
    for planned in report.routes:
        terminal.say(f"  {planned.route.old}")
        terminal.say(f"    to {planned.route.new}")
        terminal.say(f"    {count(planned.files, 'file')}, by {planned.route.why or 'a line of the plan'}")
    terminal.say()
    _show_programs(report, terminal)
    terminal.heading(f"On {report.to_computer} now")
    rows = [[each.title, each.at, f"{each.files:,}"] for each in report.baseline if each.files]
    if rows:
        terminal.table(["holding", "at", "files"], rows, numbers=1)
    others = count(len(report.baseline) - len(rows), "holding")
    terminal.say(f"Nothing is at the place of {others} yet; --json lists all.")
    terminal.say(f"\nThe plan is in {report.path}, to be read and edited.")
    if report.blockers:
        terminal.say()
        terminal.heading(f"{count(len(report.blockers), 'blocker')}, to be cleared first")
        for blocker in report.blockers:
            terminal.say(f"  {blocker.what}")
            show_list(terminal, blocker.places)
            alone = " Only what is its own waits for that; zesty unpack places the rest." if blocker.guide else ""
            terminal.say(f"    {blocker.clear}{alone}")
    else:
        terminal.say("Nothing is in the way.")


def _show_programs(report: PlanReport, terminal: Terminal) -> None:
    """How each program stands on the new computer, and what a person may have to do."""
    if not report.programs:
        return
    terminal.heading(f"Programs on {report.to_computer}")
    started = {True: "started before", False: "not started yet", None: ""}
    rows = [
        [each.title, each.old_version or "?", each.new_version or "?", each.rule, started[each.started],
         "running" if each.running else "closed"]
        for each in report.programs
    ]  # fmt: skip
    terminal.table(["program", f"on {report.from_computer}", f"on {report.to_computer}", "rule", "", "now"], rows)
    for step in (step for each in report.programs for step in each.to_do):
        terminal.say(f"  To do: {step}")
    terminal.say()
