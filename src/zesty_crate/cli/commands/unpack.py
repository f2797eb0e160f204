"""``zesty unpack CRATE --to SHEET``"""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from typing import TYPE_CHECKING

from ..json_text import fields_of
from ..options import add_changing, add_crate, add_into, add_parts, add_target, opened_move, target_of
from ..status import Status
from ..terminal import Terminal
from ..wording import count, show_list

if TYPE_CHECKING:
    from ...moving import UnpackReport


_MOST_LINKS = 8  # that are shown


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    add_crate(parser)
    add_target(parser)
    add_into(parser)
    add_parts(parser)
    add_changing(parser)


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Place everything as the plan says."""
    from ...crate import readable_size
    from ...moving import count_unpack, prepare_unpack, unpack

    with opened_move(args) as move:
        with terminal.progress() as tell:
            ask = None if args.yes else terminal.asker(_question)
            plan = prepare_unpack(move, tell, may_ask=ask is not None)
        if args.dry_run or not args.yes:
            report = count_unpack(move, plan)
        if not args.dry_run and not args.yes:
            what = f"{count(report.files, 'file')}, {readable_size(report.size_bytes)}"
            terminal.ask(f"Place {what} on {report.computer}?", yes=False)
        if not args.dry_run:
            with terminal.progress() as tell:
                report = unpack(move, plan, tell, ask)
    if terminal.json:
        terminal.document({"dry-run": args.dry_run, **fields_of(report)})
    else:
        show(report, terminal, would=args.dry_run)
        if report.blocked:
            terminal.say()
            terminal.heading("Not unpacked until this is cleared:")
            show_list(terminal, report.blocked)
        if not args.dry_run:
            terminal.next("zesty", "relink", str(args.crate), *target_of(args))
    return Status.ATTENTION if report.blocked or report.links_refused else Status.DONE


def _question(missing: Sequence[str]) -> list[str]:
    needed = (f"  {each}" for each in missing)
    return ["Still needed, in any order:", *needed, "Folder of one of them (empty to stop here): "]


def show(report: UnpackReport, terminal: Terminal, *, would: bool = False) -> None:
    """What was placed, or would be placed."""
    from ...crate import readable_size

    verb = "would be placed" if would else "placed"
    which = "it" if report.replaced == report.files == 1 else "them"
    others = f"; {report.replaced:,} of {which} replaced other files, which are kept aside" if report.replaced else ""
    terminal.heading(
        f"{count(report.files, 'file')}, {readable_size(report.size_bytes)}, {verb} on {report.computer}{others}"
    )
    if report.kept:
        terminal.say(f"{count(report.kept, 'file')} not placed: the file already there is kept, as decided.")
    if report.to_merge:
        them = "it into the one" if report.to_merge == 1 else "them into those"
        terminal.say(f"{count(report.to_merge, 'file')} not placed: zesty relink merges {them} already there.")
    if report.earlier:
        terminal.say(f"{count(report.earlier, 'file')} placed by an earlier run of this command, and still there.")
    if report.already_there:
        terminal.say(f"{count(report.already_there, 'file')} already there, identical.")
    if report.attributes_not_kept:
        things = count(report.attributes_not_kept, "file or folder has", "files and folders have")
        terminal.say(
            f"{things} tags or labels (extended attributes) that this volume cannot store; they stay in the crate."
        )
    _show_links(report.links_refused, terminal)
    if report.still_one:
        terminal.say(f"{count(report.still_one, 'name')} of files that have several (hard links), linked again.")
    if report.parted:
        names = count(report.parted, "file that was", "files that were")
        terminal.say(f"{names} only another name of one (hard links): files of their own now.")
    if not would:
        terminal.say("Every change is in the journal; zesty undo restores the state before.")


def _show_links(refused: Sequence[str], terminal: Terminal) -> None:
    if not refused:
        return
    links = count(len(refused), "symbolic link")
    terminal.say(f"{links} not made: this volume knows none, or this user may make none. Make those that are needed:")
    for each in refused[:_MOST_LINKS]:
        terminal.say(f"  {each}", hang=4)
    if len(refused) > _MOST_LINKS:
        terminal.say(f"  and {len(refused) - _MOST_LINKS:,} more; --json lists all")
