"""Judge every entry of one computer by itself, with no crate: a baseline, or a look some time later."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import closing, contextmanager
from pathlib import Path

from ..guides import Guide
from ..machines import Outside, Sheet, own_folder, working_folder
from ..progress import Tell, silent
from ..survey import HoldingReport, SpotCheck, State, SurveyOptions, SurveyStore, no_totals, summarize, take_survey
from .model import CheckedDocument, CheckedHolding, CheckReport, Figures, OpenedSpotCheck
from .reverse import media_without_entry, registrations_without_content
from .spot_checks import described


def check_computer(
    sheet: Sheet, guides: Sequence[Guide], outside: Outside, folder: Path, tell: Tell = silent
) -> CheckReport:
    """Check one computer. ``folder`` is for working copies, and holds nothing of them afterwards."""
    with survey_aside(sheet, guides, outside, folder, tell) as store:
        report = summarize(store)
        media = tuple(media_without_entry(store, guides))
        alone = tuple(registrations_without_content(store))
    titles = {each.id: each.title for each in report.holdings}
    holdings = tuple(_checked(holding) for holding in report.holdings if holding.present and not holding.is_left)
    return CheckReport(
        report.computer,
        "",
        holdings,
        report.problems,
        unknown_media=media,
        unregistered=report.unregistered,
        without_content=alone,
        spot_checks=tuple(_opened(each) for each in report.spot_checks),
        documents=tuple(
            CheckedDocument(each.holding, titles[each.holding], each.at, each.verdict, each.unread, each.reasons)
            for each in report.documents
        ),
        warnings=report.warnings,
        not_looked_at=report.not_looked_at,
    )


@contextmanager
def survey_aside(
    sheet: Sheet,
    guides: Sequence[Guide],
    outside: Outside,
    folder: Path,
    tell: Tell = silent,
    *,
    before: bool = False,
    may_be_empty: bool = False,
    coverage: bool = False,
) -> Iterator[SurveyStore]:
    """A survey that is in no crate, and gone afterwards; ``before`` calls what has no file missing before.

    With ``coverage`` it counts what no guide covers. Raises `ZestyError` where no guide finds anything, unless it
    ``may_be_empty``.
    """
    gone = State.MISSING_BEFORE if before else State.MISSING
    options = SurveyOptions(duplicates=False, may_be_empty=may_be_empty, gone=gone, coverage=coverage)
    with (
        own_folder(outside, folder, "check") as work,
        working_folder(outside.disk, work / "scratch") as scratch,
    ):
        take_survey(work / "survey.db", sheet, guides, outside, scratch, tell, options)
        try:
            with closing(SurveyStore.open(work / "survey.db")) as store:
                yield store
        finally:
            outside.disk.remove(work / "survey.db")


def _checked(holding: HoldingReport) -> CheckedHolding:
    totals = holding.totals
    here = Figures(holding.files, holding.size_bytes, totals["entries"], holding.groups, holding.annotations)
    return CheckedHolding(
        id=holding.id,
        guide=holding.guide,
        kind=holding.kind,
        title=holding.title,
        at=holding.at,
        totals=totals,
        before=no_totals(),
        old=Figures(),
        carried=Figures(),
        new=here,
        files_found=holding.files,
    )


def _opened(spot_check: SpotCheck) -> OpenedSpotCheck:
    opened = spot_check.opened
    verdict = "slow" if opened.slow else "broken" if opened.fault else "opened" if opened.what else "not-there"
    said = opened.fault or described(opened)
    return OpenedSpotCheck(spot_check.holding, spot_check.entry, spot_check.at, spot_check.named, verdict, said, opened)
