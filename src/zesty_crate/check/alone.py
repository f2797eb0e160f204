"""Judge every entry of one computer by itself, with no crate: a baseline, or a look some time later."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from contextlib import closing, contextmanager
from pathlib import Path

from ..guides import Guide
from ..machines import Outside, Sheet, working_folder
from ..progress import Tell, silent
from ..survey import HoldingReport, State, SurveyStore, Wishes, no_totals, summarize, take_survey
from .check import CheckedHolding, CheckReport


def check_alone(
    sheet: Sheet, guides: Sequence[Guide], outside: Outside, folder: Path, tell: Tell = silent
) -> CheckReport:
    """Check one computer. ``folder`` is for working copies, and holds nothing of them afterwards."""
    with survey_aside(sheet, guides, outside, folder, tell) as store:
        report = summarize(store)
    holdings = tuple(_checked(holding) for holding in report.holdings if holding.present and not holding.is_left)
    return CheckReport(
        report.computer, "", holdings, report.problems, contents_compared=0, unread=report.unread,
        warnings=report.warnings,
    )  # fmt: skip


@contextmanager
def survey_aside(
    sheet: Sheet,
    guides: Sequence[Guide],
    outside: Outside,
    folder: Path,
    tell: Tell = silent,
    *,
    before: bool = False,
) -> Iterator[SurveyStore]:
    """A survey that is in no crate, and gone afterwards; ``before`` calls what has no file missing before."""
    gone = State.MISSING_BEFORE if before else State.MISSING
    wishes = Wishes(duplicates=False, gone=gone, needs_catalog=False)
    with (
        working_folder(outside.disk, folder / f"check-{os.getpid()}") as work,
        working_folder(outside.disk, work / "scratch") as scratch,
    ):
        take_survey(work / "survey.db", sheet, guides, outside, scratch, tell, wishes)
        try:
            with closing(SurveyStore.open(work / "survey.db")) as store:
                yield store
        finally:
            outside.disk.remove(work / "survey.db")


def _checked(holding: HoldingReport) -> CheckedHolding:
    return CheckedHolding(
        id=holding.id,
        guide=holding.guide,
        kind=holding.kind,
        title=holding.title,
        at=holding.at,
        totals=holding.totals,
        before=no_totals(),
        files_carried=0,
        files_found=holding.files,
    )
