"""``zesty report CRATE --to SHEET``"""

from __future__ import annotations

import argparse
from pathlib import Path

from ..options import add_crate, add_into, add_target, opened_move
from ..status import Status
from ..terminal import Terminal


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    add_crate(parser)
    add_target(parser)
    add_into(parser)
    parser.add_argument(
        "-o",
        "--output",
        metavar="FILE",
        type=Path,
        help="where to write the page (default: report/report.html in the folder of this move in the crate)",
    )
    parser.add_argument(
        "--pdf", metavar="FILE", type=Path, help="also write the page as a PDF (needs WeasyPrint and Pango)"
    )
    parser.add_argument(
        "--anonymous",
        action="store_true",
        help="leave out the names of users, the serial numbers of disks and the pictures, to send it to somebody else",
    )
    parser.add_argument("--csv", metavar="DIR", type=Path, help="also write each table as a CSV file into this folder")


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Write the page, and the tables if requested."""
    from ...machines import make_folders
    from ...report import anonymous, as_page, as_pdf, gather, require_pdf, write_csv

    if args.pdf:
        require_pdf()
    with opened_move(args) as move:
        gathered = gather(move)
        if args.anonymous:
            gathered = anonymous(gathered, move)
        page = args.output or move.folder / "report" / "report.html"
        disk = move.outside.disk
        make_folders(disk, page.absolute().parent)
        text = as_page(gathered)
        disk.write_text(page, text)
        if args.pdf:
            make_folders(disk, args.pdf.absolute().parent)
            disk.write_bytes(args.pdf, as_pdf(text))
        tables = write_csv(gathered, args.csv, disk) if args.csv else []
    report = gathered.check.report
    if terminal.json:
        said = {
            "page": str(page),
            "pdf": str(args.pdf or ""),
            "tables": [str(each) for each in tables],
            "checked": gathered.check.checked,
        }
        steps = [step for step in gathered.steps if not step.done]
        terminal.document({**said, "totals": report.totals, "attention": list(report.attention), "open-steps": steps})
    else:
        terminal.say(f"The report is in {page}")
        for each in ([args.pdf] if args.pdf else []) + tables:
            terminal.say(f"  {each}")
        printed = "" if args.pdf else " Print it from any browser, or use --pdf."
        terminal.say(f"It needs no other file and can be sent as it is.{printed}")
        terminal.next("zesty", "retire", str(args.crate), "--from", "SHEET", why="When every step is ticked off")
    return Status.ATTENTION if report.attention else Status.DONE
