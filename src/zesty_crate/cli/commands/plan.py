"""``zesty plan CRATE --to SHEET``"""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from typing import TYPE_CHECKING

from ..json_text import fields_of
from ..options import add_crate, add_merging, add_target, opened_move, target_of
from ..plan_screen import show_plan
from ..status import Status
from ..terminal import Terminal

if TYPE_CHECKING:
    from ...plan import Move, PlanReport


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
        help="what to do about files that are already on the new computer: keep, bring-in, both or newer, and of "
        "catalogs merge; for all, or for a program, a holding or a path (may be repeated)",
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

    add_merging(parser)


def planned(args: argparse.Namespace, move: Move, decide: Sequence[str]) -> PlanReport:
    """Make the plan as the arguments say; the table of values is read first, or written in the end."""
    from ...merge import Taken
    from ...plan import MergingChoices, PlanOptions, make_plan, read_value_table, write_value_table

    disk, table = move.outside.disk, args.decisions
    handed_back = table is not None and disk.facts(table) is not None
    options = PlanOptions(
        tuple(args.route),
        tuple(decide),
        args.fold_in,
        args.leave_entries,
        MergingChoices(
            Taken(args.values) if args.values else None,
            read_value_table(table, disk) if handed_back else (),
            tuple(args.without),
        ),
    )
    report = make_plan(move, options)
    if table is not None and not handed_back:
        write_value_table(table, report.conflicts, disk)
    return report


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Write the plan, and show it."""
    with opened_move(args) as move:
        report = planned(args, move, args.decide)
    if terminal.json:
        terminal.document(fields_of(report))
    else:
        show_plan(report, terminal)
        if not report.blockers:
            terminal.next("zesty", "unpack", str(args.crate), *target_of(args))
    return Status.REFUSED if report.blockers else Status.DONE
