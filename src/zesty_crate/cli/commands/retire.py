"""``zesty retire CRATE --from SHEET``"""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from ..json_text import fields_of
from ..options import add_crate
from ..status import Status
from ..terminal import Terminal
from ..wording import show_list

if TYPE_CHECKING:
    from ...retire import RetireReport


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    add_crate(parser)
    parser.add_argument(
        "--from",
        dest="source",
        metavar="SHEET",
        type=Path,
        required=True,
        help="the old computer's sheet, or this-computer",
    )
    second = parser.add_mutually_exclusive_group()
    second.add_argument("--second-copy", metavar="DIR", type=Path, help="the folder with the second copy of the crate")
    second.add_argument("--no-second-copy", action="store_true", help="the customer wants no second copy")


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Check every condition, and show the evidence."""
    import platformdirs

    from ...crate import Crate
    from ...machines import Outside, read_sheet
    from ...retire import Second, weigh

    outside = Outside()
    second = Second(args.second_copy, args.no_second_copy)
    with terminal.progress() as tell:
        report = weigh(
            Crate(args.crate),
            read_sheet(args.source, outside.disk),
            outside,
            platformdirs.user_cache_path("zesty-crate"),
            second,
            tell,
        )
    if terminal.json:
        terminal.document(fields_of(report))
    else:
        _show(report, terminal)
    return Status.DONE if report.may_be_wiped else Status.REFUSED


def _show(report: RetireReport, terminal: Terminal) -> None:
    from ...crate import readable_size

    standing = [each for each in report.evidence if each.holds]
    open_ends = [each for each in report.evidence if not each.holds]
    verdict = "may be wiped" if report.may_be_wiped else "must not be wiped yet"
    terminal.heading(f"{report.computer} {verdict}: {len(standing)} of {len(report.evidence)} conditions met")
    terminal.say()
    terminal.pairs([(f"met      {each.about}", each.found) for each in standing])
    if report.may_be_wiped:
        terminal.say()
        terminal.say("You may now delete, in this order (this program deletes nothing):")
        for number, each in enumerate(report.removable, start=1):
            size = f", {readable_size(each.size_bytes)}" if each.size_bytes is not None else ""
            terminal.say(f"  {number}. {each.what}{size}")
            show_list(terminal, each.where, shown=6, indent="       ")
    for condition in open_ends:
        terminal.say()
        terminal.say(f"  not met  {condition.about}: {condition.found}")
        show_list(terminal, condition.places, shown=8, indent="           ")
        terminal.say(f"           {condition.next_step}", hang=0)
