"""``zesty survey CRATE --from SHEET``"""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from ..options import add_crate, find_guides, read_sheet
from ..status import Status
from ..terminal import Terminal
from ..wording import count, day, show_problems, states

if TYPE_CHECKING:
    from ...survey import SurveyReport


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
    parser.add_argument(
        "--guides", metavar="DIR", type=Path, action="append", default=[], help="a folder of guides (may be repeated)"
    )


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Take stock into a new crate."""
    from ...crate import Crate, create_crate
    from ...machines import Outside

    outside = Outside()
    sheet = read_sheet(args.source, outside.disk)
    guides = find_guides(args.guides, outside.disk)
    with terminal.progress() as tell:
        report = create_crate(Crate(args.crate), sheet, guides, outside, tell)
    if terminal.json:
        terminal.document({"crate": args.crate, "totals": report.totals, **vars_of(report)})
    else:
        show(report, terminal)
        terminal.next(f'zesty pack "{args.crate}"')
    return Status.ATTENTION if _needs_attention(report) else Status.DONE


def vars_of(report: SurveyReport) -> dict[str, object]:
    """The fields of a report, for JSON."""
    return {name: getattr(report, name) for name in report.__dataclass_fields__}


def show(report: SurveyReport, terminal: Terminal) -> None:
    """The survey as a first screen."""
    from ...crate import readable_size

    present = [holding for holding in report.holdings if holding.present and not holding.is_left]
    terminal.heading(f"{report.computer}: {report.system}, user {report.user}, taken {day(report.taken)}")
    files, size = sum(h.files for h in present), sum(h.size_bytes for h in present)
    entries = report.totals["entries"]
    terminal.say(
        f"{count(files, 'file')} in {count(len(present), 'holding')}, {readable_size(size)}; "
        f"{count(entries, 'catalog entry', 'catalog entries')}: {states(report.totals)}"
    )
    terminal.say()
    rows = [
        [h.title, h.at, f"{h.files:,}", readable_size(h.size_bytes), f"{h.totals['entries']:,}" if h.documents else ""]
        for h in present
    ]
    terminal.table(["holding", "at", "files", "size", "entries"], rows, numbers=3)
    _show_left(report, terminal)
    _show_not_found(report, terminal)
    show_problems(terminal, "Not simply found, before anything was moved", report.problems)
    if report.unread:
        terminal.say()
        terminal.heading(f"{count(len(report.unread), 'catalog')} that cannot be read")
        for unread in report.unread:
            terminal.say(f"  {unread}")
    for warning in report.warnings:
        terminal.say(f"\nTake care: {warning}")


def _show_left(report: SurveyReport, terminal: Terminal) -> None:
    from ...crate import readable_size

    lines = []
    for holding in report.holdings:
        if holding.is_left and holding.present:
            size = readable_size(holding.size_bytes)
            lines.append(f"{count(holding.files, 'file')} of {holding.title}, {size}: the program makes them again")
        if holding.factory_files:
            size = readable_size(holding.factory_bytes)
            files = count(holding.factory_files, "factory file")
            lines.append(f"{files} of {holding.title}, {size}: from the program's installer")
        if holding.outside_files:
            size = readable_size(holding.outside_bytes)
            files = count(holding.outside_files, "file")
            lines.append(f"{files} outside the program's folders, {size}: zesty pack --outside carries such files")
        if holding.unreadable:
            lines.append(f"{count(holding.unreadable, 'thing')} of {holding.title} that cannot be read")
    lines += [f"the volume {volume.anchor} is not plugged in" for volume in report.unplugged]
    if lines:
        terminal.say()
        terminal.heading("Not carried")
        for line in lines:
            terminal.say(f"  {line}")


def _show_not_found(report: SurveyReport, terminal: Terminal) -> None:
    absent = [holding for holding in report.holdings if not holding.present]
    if not absent:
        return
    terminal.say()
    terminal.heading("Looked for and not found")
    for holding in absent:
        if not holding.swept:
            terminal.say(f"  {holding.title}: {holding.at}")
    swept = [f"{holding.title} ({holding.at})" for holding in absent if holding.swept]
    if swept:
        terminal.say(f"  anywhere: {', '.join(swept)}")


def _needs_attention(report: SurveyReport) -> bool:
    from ...survey import NEEDS_ATTENTION

    return bool(report.warnings or report.unread) or any(report.totals[state] for state in NEEDS_ATTENTION)
