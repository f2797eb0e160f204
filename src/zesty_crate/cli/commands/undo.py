"""``zesty undo CRATE --to SHEET``"""

from __future__ import annotations

import argparse

from ..options import add_changing, add_crate, add_parts, add_target, opened_move
from ..status import Status
from ..terminal import Terminal, as_json
from ..wording import count, day, show_list


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    add_crate(parser)
    add_target(parser)
    add_parts(parser)
    add_changing(parser)


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Take back every step that stands."""
    from ...moving import plan_undo, undo

    with opened_move(args) as move:
        report = plan_undo(move)
        if not terminal.json:
            verb = "would be taken back" if args.dry_run else "to take back"
            for step in report.steps:
                terminal.say(f"{step.name}, begun {day(step.begun)}: {count(step.changes, 'change')} {verb}")
        if not args.dry_run:
            terminal.ask(f"Take all of this back on {move.new.name}?", yes=args.yes)
            report = undo(move)
    if terminal.json:
        terminal.document({"dry-run": args.dry_run, **as_json(report)})
    elif not args.dry_run:
        but = ", but for what was put into it since" if report.kept_folders else ""
        terminal.heading(f"{report.computer} is as it was before{but}")
        if report.kept_folders:
            terminal.say("These folders were made by the move and hold something else by now, so they stay:")
            show_list(terminal, report.kept_folders)
    return Status.DONE
