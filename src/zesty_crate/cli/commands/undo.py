"""``zesty undo CRATE --to SHEET``"""

from __future__ import annotations

import argparse

from ..json_text import fields_of
from ..options import add_changing, add_crate, add_into, add_parts, add_target, opened_move
from ..status import Status
from ..terminal import Terminal
from ..wording import count, day, show_list


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    add_crate(parser)
    add_target(parser)
    add_into(parser)
    add_parts(parser)
    parser.add_argument(
        "--only", metavar="STEP", choices=("last", "unpack", "relink"), default="all",
        help="take back the last step alone, or this one: last, unpack, relink (default: all, the newest first)",
    )  # fmt: skip
    add_changing(parser)


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Take back what stands, or one step of it."""
    from ...moving import plan_undo, undo

    with opened_move(args) as move:
        report = plan_undo(move, args.only)
        if not terminal.json:
            verb = "would be taken back" if args.dry_run else "to take back"
            for step in report.steps:
                terminal.say(f"{step.name}, begun {day(step.begun)}: {count(step.changes, 'change')} {verb}")
        if not args.dry_run:
            terminal.ask(f"Take all of this back on {move.new.name}?", yes=args.yes)
            report = undo(move, args.only)
    if terminal.json:
        terminal.document({"dry-run": args.dry_run, **fields_of(report)})
    elif not args.dry_run:
        but = ", but for what was put into it since" if report.kept_folders else ""
        taken = " and ".join(step.name for step in report.steps)
        what = "before" if args.only == "all" else f"before {taken}"
        terminal.heading(f"{report.computer} is as it was {what}{but}")
        if report.kept_folders:
            terminal.say("These folders were made by the move and hold something else by now, so they stay:")
            show_list(terminal, report.kept_folders)
    return Status.DONE
