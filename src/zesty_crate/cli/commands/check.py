"""``zesty check CRATE --to SHEET`` and ``zesty check --at SHEET``"""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from ..json_text import fields_of
from ..options import add_guides, add_into, add_work, opened_move, target_of
from ..status import Status
from ..terminal import Terminal

if TYPE_CHECKING:
    from ...check import CheckReport


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    parser.add_argument("crate", metavar="CRATE", type=Path, nargs="?", help="the crate that was unpacked")
    parser.add_argument("--to", metavar="SHEET", type=Path, help="the new computer's sheet, or this-computer")
    parser.add_argument("--at", metavar="SHEET", type=Path, help="check one computer without a crate")
    parser.add_argument(
        "--content",
        choices=("all", "changed", "sample"),
        help="which files to read and compare: all; changed (other size or date); sample (default: changed ones and a "
        "random sample)",
    )
    add_into(parser)
    add_work(parser)
    add_guides(parser)
    parser.set_defaults(wrong=parser.error)


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Judge everything, and show it."""
    if (args.at is None) == (args.crate is None) or (args.crate is None) != (args.to is None):
        args.wrong("give either CRATE and --to SHEET, or --at SHEET")
    if args.at is not None and args.content:
        args.wrong("--content needs a CRATE to compare contents with")
    report = _check_computer(args, terminal) if args.at else _check_move(args, terminal)
    if terminal.json:
        terminal.document({"totals": report.totals, **fields_of(report)})
    else:
        from ..check_screen import show_check, show_computer

        show_computer(report, terminal) if args.at else show_check(report, terminal)
        if not args.at:
            terminal.next("zesty", "todo", str(args.crate), *target_of(args))
    return status_of(report)


def _check_move(args: argparse.Namespace, terminal: Terminal) -> CheckReport:
    from ...check import Content, check
    from ...todo import refresh_steps

    if args.guides:
        args.wrong("--guides needs --at: a crate uses the guides that it was made with")
    with opened_move(args) as move, terminal.progress() as tell:
        report = check(move, tell, Content(args.content or Content.SAMPLE))
        if args.into is None:
            refresh_steps(move)
        return report


def _check_computer(args: argparse.Namespace, terminal: Terminal) -> CheckReport:
    import platformdirs

    from ...check import check_computer
    from ...guides import find_guides
    from ...machines import Outside, read_sheet

    outside = Outside()
    sheet, guides = read_sheet(args.at, outside.disk), find_guides(args.guides, outside.disk)
    with terminal.progress() as tell:
        return check_computer(sheet, guides, outside, platformdirs.user_cache_path("zesty-crate"), tell)


def status_of(report: CheckReport) -> Status:
    """Whether anything needs attention."""
    return Status.ATTENTION if report.attention else Status.DONE
