"""``zesty relink CRATE --to SHEET`` and ``zesty relink --at SHEET --look-in DIR``"""

from __future__ import annotations

import argparse
from pathlib import Path

from ..json_text import fields_of
from ..options import add_changing, add_guides, add_into, add_work, opened_move, target_of
from ..relink_screen import show_relinked
from ..status import Status
from ..terminal import Terminal
from ..wording import count


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    parser.add_argument("crate", metavar="CRATE", type=Path, nargs="?", help="the crate that was unpacked")
    parser.add_argument("--to", metavar="SHEET", type=Path, help="the new computer's sheet, or this-computer")
    parser.add_argument("--at", metavar="SHEET", type=Path, help="relink the catalogs of one computer without a crate")
    parser.add_argument(
        "--look-in",
        metavar="DIR",
        action="append",
        default=[],
        help="with --at: search this folder for files that were moved (may be repeated)",
    )
    parser.add_argument(
        "--route",
        metavar="OLD=NEW",
        action="append",
        default=[],
        help="with --at: files of folder OLD are in folder NEW now (may be repeated)",
    )
    parser.add_argument(
        "--rehome",
        metavar="OLD=NEW",
        help="with --at: move folder OLD to NEW, and update all recorded paths",
    )
    parser.add_argument(
        "--decisions",
        metavar="FILE.csv",
        type=Path,
        help="with --at: a table of uncertain matches; written if it does not exist, otherwise read with your choices",
    )
    parser.add_argument(
        "--keep-in",
        metavar="DIR",
        type=Path,
        default=Path(),
        help="with --at: where to create the crate with the original catalogs (default: current folder)",
    )
    parser.add_argument(
        "--only",
        metavar="NAME",
        action="append",
        default=[],
        help="with CRATE: only this program, holding or catalog, by id or path (may be repeated)",
    )
    parser.add_argument(
        "--leave-entries",
        action="store_true",
        help="with CRATE: relink a catalog although some of its entries would lead nowhere, since they share a piece "
        "of their path with others that go elsewhere; these are named",
    )
    parser.add_argument("--details", action="store_true", help="show each document, also where many are alike")
    add_into(parser)
    add_work(parser)
    add_guides(parser)
    add_changing(parser)
    parser.set_defaults(wrong=parser.error)


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Find the new paths, show them, and write them."""
    if (args.at is None) == (args.crate is None) or (args.crate is None) != (args.to is None):
        args.wrong("give either CRATE and --to SHEET, or --at SHEET and --look-in DIR")
    if args.at and args.only:
        args.wrong("--only needs CRATE and --to SHEET")
    if args.at and args.leave_entries:
        args.wrong("--leave-entries needs CRATE and --to SHEET")
    looking = bool(args.look_in or args.route)
    if args.decisions and not looking:
        args.wrong("--decisions needs --at SHEET and --look-in DIR")
    if bool(args.at) != bool(looking or args.rehome):
        args.wrong("--at SHEET needs --look-in DIR, --route OLD=NEW or --rehome OLD=NEW, and these need --at SHEET")
    if args.rehome:
        if looking or args.decisions:
            args.wrong("--rehome cannot be combined with --look-in, --route or --decisions")
        from ..rehome import run_rehome

        return run_rehome(args, terminal)
    return _run_in_place(args, terminal) if args.at else _run_move(args, terminal)


def _run_in_place(args: argparse.Namespace, terminal: Terminal) -> Status:
    from ..evidence_screen import as_document
    from ..relink_in_place import find_and_relink

    done = find_and_relink(args, terminal)
    evidence, report = done.evidence, done.report
    if terminal.json:
        written = {"kept": None if done.kept is None else str(done.kept), "relinked": report}
        cannot_say = [{"at": each.at, "entries": each.left.entries, "helps": each.helps} for each in done.left]
        terminal.document({"dry-run": args.dry_run, **as_document(evidence), "cannot-say": cannot_say, **written})
    elif report is not None:
        show_relinked(report, terminal, details=args.details)
        terminal.say()
        terminal.say(f"The original catalogs are in {done.kept}.")
        terminal.next("zesty", "undo", str(done.kept), "--to", str(args.at), why="To undo this")
        terminal.next("zesty", "check", "--at", str(args.at))
    is_well = not (evidence.left or done.left) and (report is None or report.is_complete)
    return Status.DONE if is_well else Status.ATTENTION


def _run_move(args: argparse.Namespace, terminal: Terminal) -> Status:
    from ...relink import Merging, relink

    if args.guides:
        args.wrong("--guides needs --at: a crate uses the guides that it was made with")
    with opened_move(args) as move:
        with terminal.progress() as tell:
            report = relink(
                move,
                tell,
                dry_run=args.dry_run or not args.yes,
                only=args.only,
                leave_entries=args.leave_entries,
            )
        pending = [catalog for catalog in report.catalogs if not catalog.already and not catalog.refused]
        branches = [each for each in report.registrations if each.state is Merging.PENDING]
        if (pending or branches) and not (args.dry_run or args.yes):
            if not terminal.json:
                show_relinked(report, terminal, details=args.details)
            merging = f" and merge {count(len(branches), 'branch', 'branches')} of the registry" if branches else ""
            texts = count(sum(each.cells for each in pending), "new path text")
            terminal.ask(f"Write {texts}{merging}?", yes=False)
            with terminal.progress() as tell:
                report = relink(move, tell, only=args.only, leave_entries=args.leave_entries)
    if terminal.json:
        outcomes = [{"holding": each.holding, "at": each.at, "outcome": each.outcome} for each in report.catalogs]
        done = None if args.dry_run else outcomes
        terminal.document({"dry-run": args.dry_run, "outcomes": done, **fields_of(report)})
    else:
        show_relinked(report, terminal, details=args.details)
        if not args.dry_run:
            terminal.next("zesty", "check", str(args.crate), *target_of(args))
    return Status.DONE if report.is_complete else Status.ATTENTION
