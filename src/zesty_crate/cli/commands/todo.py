"""``zesty todo CRATE``"""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from ..json_text import fields_of
from ..options import add_crate, add_into, add_work, opened_move, target_of
from ..status import Status
from ..terminal import Terminal
from ..wording import count

if TYPE_CHECKING:
    from ...crate import Crate, Step
    from ...machines import Outside
    from ...todo import TodoReport

_TITLES = {
    "before-pack": "Before packing",
    "before-unpack": "Before unpacking",
    "after-unpack": "After unpacking",
    "after-check": "After the check",
    "before-retire": "Before the old computer is retired",
}


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    add_crate(parser)
    parser.add_argument(
        "--to",
        metavar="SHEET",
        type=Path,
        help="the new computer's sheet, to update the steps for it",
    )
    add_into(parser)
    add_work(parser)
    parser.add_argument("--done", metavar="ID", action="append", default=[], help="tick off a step (may be repeated)")
    parser.add_argument("--undone", metavar="ID", action="append", default=[], help="remove a tick")
    parser.add_argument("--note", metavar="TEXT", default="", help="a note on the steps ticked now")
    parser.set_defaults(wrong=parser.error)


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """List the steps, or tick some of them."""
    from ...crate import Crate
    from ...machines import Outside

    if args.note and not (args.done or args.undone):
        args.wrong("--note needs --done or --undone")
    crate, outside = Crate(args.crate), Outside()
    report = _listed(args, crate, outside)
    if args.done or args.undone:
        from ...todo import tick

        report = tick(report, crate, outside, done=args.done, undone=args.undone, note=args.note)
    if terminal.json:
        terminal.document({"open": len(report.open), **fields_of(report)})
    else:
        _show(report, terminal, args)
    return Status.DONE


def _listed(args: argparse.Namespace, crate: Crate, outside: Outside) -> TodoReport:
    from ...todo import list_steps

    if args.to is not None:
        with opened_move(args) as move:
            return list_steps(crate, move.survey, outside, move)
    survey = crate.open_survey(outside.disk)
    try:
        return list_steps(crate, survey, outside)
    finally:
        survey.close()


def _show(report: TodoReport, terminal: Terminal, args: argparse.Namespace) -> None:
    done = len(report.steps) - len(report.open)
    terminal.heading(f"{count(len(report.steps), 'manual step')}, {done} done")
    wide = max((len(step.id) for step in report.steps), default=0)
    for when, title in _TITLES.items():
        steps = [step for step in report.steps if step.when == when]
        if steps:
            terminal.say()
            terminal.say(title)
            terminal.pairs([(f"{'done' if step.done else 'open'}  {step.id:<{wide}}", _said(step)) for step in steps])
    if report.open:
        more = target_of(args) if args.to else []
        terminal.next("zesty", "todo", str(args.crate), *more, "--done", report.open[0].id, why="To tick one off")
    else:
        terminal.say()
        terminal.say("All manual steps are done.")


def _said(step: Step) -> str:
    waiting = step.when.removeprefix("before-")
    gate = f" (zesty {waiting} waits for this)" if step.gates and not step.done else ""
    note = f": {step.note}" if step.note else ""
    who = " (customer)" if step.who == "customer" else ""
    return step.do + who + gate + (f" [{step.done}{note}]" if step.done else "")
