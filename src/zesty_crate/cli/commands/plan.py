"""``zesty plan CRATE --to SHEET``"""

from __future__ import annotations

import argparse

from ..json_text import fields_of
from ..options import add_crate, add_target, opened_move, target_of
from ..plan_screen import show_plan
from ..status import Status
from ..terminal import Terminal


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    add_crate(parser)
    add_target(parser)
    parser.add_argument(
        "--route",
        metavar="OLD=NEW",
        action="append",
        default=[],
        help="map folder OLD of the old computer to folder NEW of the new one (may be repeated)",
    )
    parser.add_argument(
        "--decide",
        metavar="[WHAT=]CHOICE",
        action="append",
        default=[],
        help="what to do about files that are already on the new computer: keep, bring-in, both or newer; for all, or "
        "for a program, a holding or a path (may be repeated)",
    )
    parser.add_argument(
        "--fold-in",
        action="store_true",
        help="place strays and outside media in the library's own folder",
    )
    parser.add_argument(
        "--leave-entries",
        action="store_true",
        help="leave entries behind whose new paths their catalogs cannot say; the plan names them",
    )


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Write the plan, and show it."""
    from ...plan import PlanOptions, make_plan

    with opened_move(args) as move:
        report = make_plan(move, PlanOptions(tuple(args.route), tuple(args.decide), args.fold_in, args.leave_entries))
    if terminal.json:
        terminal.document(fields_of(report))
    else:
        show_plan(report, terminal)
        if not report.blockers:
            terminal.next("zesty", "unpack", str(args.crate), *target_of(args))
    return Status.REFUSED if report.blockers else Status.DONE
