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
        "--only",
        metavar="STEP",
        choices=("last", "unpack", "relink"),
        default="all",
        help="undo only the last step, or the named one: last, unpack, relink (default: all, newest first)",
    )
    parser.add_argument(
        "--leave-what-changed",
        action="store_true",
        help="leave files that were changed since, and undo everything else",
    )
    add_changing(parser)


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Undo all steps of a move, or one of them."""
    from ...moving import plan_undo, undo

    with opened_move(args) as move:
        report = plan_undo(move, args.only, leave_changed=args.leave_what_changed)
        if not terminal.json:
            verb = "would be undone" if args.dry_run else "to undo"
            for step in report.steps:
                terminal.say(f"{step.name}, begun {day(step.begun)}: {count(step.changes, 'change')} {verb}")
        if not args.dry_run:
            terminal.ask(f"Undo all of this on {move.new.name}?", yes=args.yes)
            report = undo(move, args.only)
    if terminal.json:
        terminal.document({"dry-run": args.dry_run, **fields_of(report)})
    elif not args.dry_run:
        taken = " and ".join(step.name for step in report.steps)
        complete = not (report.left or report.gone or report.kept_folders)
        but = "" if complete else ", with what is listed here"
        terminal.heading(f"Undone on {report.computer}: {taken}{but}")
        if report.left:
            terminal.say(f"Changed since and left: {len(report.left):,}")
            show_list(terminal, report.left)
        if report.gone:
            terminal.say(f"Moved or deleted since, so not there any more: {len(report.gone):,}")
            show_list(terminal, report.gone)
        if not report.is_recorded:
            terminal.say(
                "The carrier is full or read-only, so its journal still lists these steps as done. Run the command "
                "again when it can be written, before anything else is done with this crate here."
            )
        if report.kept_folders:
            terminal.say("The move created these folders. They contain other files now, so they are kept:")
            show_list(terminal, report.kept_folders)
    return Status.DONE
