"""The places in which documents name files of a computer, and that no guide covers."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from ..machines import Computer, Outside
from ..paths import MachinePath
from ..survey import SurveyReport
from .draft import Drafter
from .places import Templates


def places_not_covered(made: Drafter, outside: Outside, folder: Path) -> Iterator[list[str]]:
    """For each folder of a program with such documents, what to look into."""
    report = survey_of_all(made, outside, folder)
    computer = made.judge.computer
    tops: dict[MachinePath, None] = {}
    for document in report.uncovered_documents:
        if document.found > 1 or document.paths == document.found:
            tops[_top_of(computer, computer.parse(document.at))] = None
    yield from ([str(each)] for each in tops)


def survey_of_all(made: Drafter, outside: Outside, folder: Path) -> SurveyReport:
    """What a survey with every guide that is known finds, and what it does not cover."""
    from ..check import survey_aside
    from ..survey import summarize

    with survey_aside(
        made.sheet, made.known, outside, folder, made.tell, before=True, may_be_empty=True, coverage=True
    ) as store:
        return summarize(store)


def _top_of(computer: Computer, document: MachinePath) -> MachinePath:
    """The folder of one program around a document: the first that is no shared place; the document in a shared one."""
    templates, folder = Templates(computer, {}), document.parent
    if templates.is_shared_place(folder) or templates.is_a_place(folder):
        return document
    while not (templates.is_shared_place(folder.parent) or templates.is_a_place(folder.parent)):
        folder = folder.parent
    return folder
