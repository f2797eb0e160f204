"""``zesty survey CRATE --from SHEET``"""

from __future__ import annotations

import argparse
from contextlib import closing
from pathlib import Path
from typing import TYPE_CHECKING

from ..coverage_screen import show_all_coverage, show_earlier_choices
from ..json_text import fields_of
from ..options import add_crate, add_guides, add_parts
from ..status import Status
from ..survey_screen import show_details, show_holdings, show_survey
from ..terminal import Terminal
from ..wording import count

if TYPE_CHECKING:
    from ...crate import Crate
    from ...machines import Outside
    from ...survey import SurveyReport


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The command's own arguments."""
    parser.set_defaults(wrong=parser.error)
    add_crate(parser)
    parser.add_argument(
        "--from",
        dest="source",
        metavar="SHEET",
        type=Path,
        help="the old computer's sheet, or this-computer; without it, show the survey in the crate again",
    )
    add_guides(parser)
    parser.add_argument(
        "--spot-check",
        metavar="NAME",
        action="append",
        default=[],
        help="a file or entry to open and compare at the end, by name (may be repeated)",
    )
    parser.add_argument(
        "--also",
        metavar="FOLDER",
        action="append",
        default=[],
        help="also carry this folder of the old computer, which belongs to no guide; personal is short for documents, "
        "pictures, music, movies, desktop and downloads (may be repeated)",
    )
    parser.add_argument(
        "--again",
        action="store_true",
        help="replace the survey in this crate, with better guides or after a change, while nothing is packed; of a "
        "packed crate read the catalogs in it anew by corrected guides, without the old computer and without --from",
    )
    add_parts(parser)
    parser.add_argument("--no-duplicates", action="store_true", help="skip duplicate detection")
    parser.add_argument(
        "--details", metavar="ID", help="show one program or one holding in full; coverage shows what no holding covers"
    )
    parser.add_argument("--csv", metavar="DIR", type=Path, help="also write tables for a spreadsheet into this folder")


def run(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Take stock into a new crate, or show an earlier survey."""
    from ...crate import Crate, earlier_choices
    from ...machines import Outside
    from ...survey import details_of, faults_of_survey, summarize, write_tables

    outside, crate = Outside(), Crate(args.crate)
    anew = args.again and args.source is None
    if anew and not crate.is_finished(outside.disk):
        args.wrong("zesty survey --again needs --from SHEET, unless the crate is packed")
    report = _judge_anew(args, outside, terminal) if anew else None
    report = _take(args, crate, outside, terminal) if args.source is not None else report
    if report is None and args.spot_check:
        _name_spot_checks(args, crate, outside)
    with closing(crate.open_survey(outside.disk)) as store:
        with faults_of_survey(str(args.crate)):
            report = report or summarize(store)
        listed = [holding for holding in report.holdings if holding.guide == args.details]
        is_coverage = args.details == "coverage" and not listed
        details = details_of(store, report, args.details) if args.details and not listed and not is_coverage else None
        tables = write_tables(store, args.csv, outside.disk) if args.csv else []
    if terminal.json:
        whole = {"crate": args.crate, "totals": report.totals, **fields_of(report)}
        coverage = {
            name: whole[name]
            for name in ("uncovered", "uncovered-documents", "not-searched", "not-looked-into", "system-folders")
        }
        part = {"holdings": listed} if listed else coverage if is_coverage else None
        terminal.document(part or (fields_of(details) if details else whole))
    elif listed:
        show_holdings(listed, terminal)
    elif is_coverage:
        show_all_coverage(report, terminal)
    elif details:
        show_details(details, terminal)
    else:
        show_survey(report, terminal, str(args.source or "SHEET"))
        if report.to_decide and (earlier := earlier_choices(crate, outside.disk)):
            show_earlier_choices(earlier, terminal)
    if not terminal.json and tables:
        terminal.say()
        terminal.say(f"{count(len(tables), 'table')} written to {args.csv}")
    if not terminal.json and args.source is not None:
        _show_next(args, report, terminal)
    return Status.ATTENTION if _needs_attention(report) else Status.DONE


def _show_next(args: argparse.Namespace, report: SurveyReport, terminal: Terminal) -> None:
    if not report.lookalikes:
        terminal.next("zesty", "pack", str(args.crate))
        return
    guides = [word for each in args.guides for word in ("--guides", str(each))]
    words = ["zesty", "survey", str(args.crate), "--from", str(args.source), *guides, "--again"]
    terminal.next(*words, why="After correcting the sheet")


def _take(args: argparse.Namespace, crate: Crate, outside: Outside, terminal: Terminal) -> SurveyReport:
    from ...crate import create_crate
    from ...guides import find_guides
    from ...machines import read_sheet
    from ...survey import SurveyOptions

    sheet = read_sheet(args.source, outside.disk)
    guides = find_guides(args.guides, outside.disk)
    options = SurveyOptions(spot_checks=tuple(args.spot_check), duplicates=not args.no_duplicates)
    with terminal.progress() as tell:
        return create_crate(crate, sheet, guides, outside, tell, options, args.also, again=args.again)


def _judge_anew(args: argparse.Namespace, outside: Outside, terminal: Terminal) -> SurveyReport:
    from ...crate import judge_anew
    from ...guides import load_guides

    guides = load_guides(args.guides, outside.disk)
    with terminal.progress() as tell:
        report, corrected = judge_anew(args.crate, guides, args.part, outside, tell)
    if not terminal.json:
        terminal.say(f"Read anew by corrected guides, from the catalogs in the crate: {', '.join(corrected)}")
    return report


def _name_spot_checks(args: argparse.Namespace, crate: Crate, outside: Outside) -> None:
    from ...errors import ZestyError
    from ...survey import name_spot_checks, written

    if crate.is_finished(outside.disk):
        raise ZestyError("This crate is packed and cannot be changed any more.", next_step="Take a new survey.")
    with written(crate.open_survey(outside.disk, writable=True)) as store:
        unknown = name_spot_checks(store, args.spot_check)
    if unknown:
        raise ZestyError(
            f"There is no item named {unknown[0]}.",
            details=[f"not found: {each}" for each in unknown],
            next_step="Name an entry or a file as the customer calls it, with or without its ending.",
        )


def _needs_attention(report: SurveyReport) -> bool:
    from ...survey import State

    noted = report.warnings, report.unsettled, report.to_decide, report.lookalikes
    unseen = (each for each in report.not_looked_at if not each.is_away)
    return any(noted) or any(unseen) or any(report.totals[state] for state in State if state.needs_attention)
