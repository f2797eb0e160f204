"""``zesty check CRATE --to SHEET`` and ``zesty check --at SHEET``"""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from ..json_text import fields_of
from ..options import add_guides, add_into, find_guides, opened_move, read_sheet, target_of
from ..status import Status
from ..terminal import Terminal

if TYPE_CHECKING:
    from ...check import CheckReport


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    parser.add_argument("crate", metavar="CRATE", type=Path, nargs="?", help="the crate that was unpacked")
    parser.add_argument("--to", metavar="SHEET", type=Path, help="the new computer's sheet, or this-computer")
    parser.add_argument("--at", metavar="SHEET", type=Path, help="check this one computer by itself, with no crate")
    parser.add_argument(
        "--content",
        choices=("all", "changed", "sample"),
        help="whose contents are read: all, those with another size or date, or (usual) also a fair sample",
    )
    add_into(parser)
    add_guides(parser)
    parser.set_defaults(wrong=parser.error)


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Judge everything, and show it."""
    if (args.at is None) == (args.crate is None) or (args.crate is None) != (args.to is None):
        args.wrong("either CRATE and --to SHEET, or --at SHEET")
    if args.at is not None and args.content:
        args.wrong("--content goes with CRATE: without one nothing was carried that contents could be compared with")
    report = _check_alone(args, terminal) if args.at else _check_move(args, terminal)
    if terminal.json:
        terminal.document({"totals": report.totals, **fields_of(report)})
    else:
        from ..check_screen import show_alone, show_check

        show_alone(report, terminal) if args.at else show_check(report, terminal)
        if not args.at:
            terminal.next(f'zesty todo "{args.crate}" {target_of(args)}')
    return status_of(report)


def _check_move(args: argparse.Namespace, terminal: Terminal) -> CheckReport:
    from ...check import Content, check
    from ...todo import refresh_steps

    if args.guides:
        args.wrong("a crate brings the guides that it was made with; --guides goes with --at")
    with opened_move(args) as move, terminal.progress() as tell:
        report = check(move, tell, Content(args.content or Content.SAMPLE))
        if args.into is None:
            refresh_steps(move)
        return report


def _check_alone(args: argparse.Namespace, terminal: Terminal) -> CheckReport:
    import platformdirs

    from ...check import check_alone
    from ...machines import Outside

    outside = Outside()
    sheet, guides = read_sheet(args.at, outside.disk), find_guides(args.guides, outside.disk)
    with terminal.progress() as tell:
        return check_alone(sheet, guides, outside, platformdirs.user_cache_path("zesty-crate"), tell)


def status_of(report: CheckReport) -> Status:
    """Whether anything needs attention."""
    return Status.ATTENTION if report.attention else Status.DONE
