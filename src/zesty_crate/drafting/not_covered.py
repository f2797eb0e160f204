"""The places that no guide covers, each as what one guide would be drafted for."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from ..check import survey_aside
from ..machines import Outside
from ..paths import MachinePath
from ..survey import summarize
from .draft import Drafter
from .places import Templates


def places_not_covered(made: Drafter, outside: Outside, folder: Path) -> Iterator[list[str]]:
    """For each folder of one program, and each document in a folder that many share, what to look into.

    ``folder`` is for working copies.
    """
    aside = survey_aside(
        made.sheet, made.known, outside, folder, made.tell, before=True, may_be_empty=True, coverage=True
    )
    with aside as store:
        report = summarize(store)
    computer = made.judge.computer
    documents = [computer.parse(document.at) for document in report.uncovered_documents]
    tops: dict[MachinePath, None] = {}
    for each in report.uncovered:
        if not (each.left or each.fault):
            top = computer.parse(each.at)
            in_it = (document for document in documents if document.parent == top)
            tops.update(dict.fromkeys(in_it if each.is_split else _programs_in(top, made)))
    yield from ([str(top)] for top in tops)


def _programs_in(folder: MachinePath, made: Drafter) -> Iterator[MachinePath]:
    """A folder; of one in which people keep the things of several programs, those in it."""
    if not Templates(made.judge.computer, {}).is_a_place(folder):
        yield folder
        return
    inner: dict[MachinePath, None] = {}
    for path, is_file in made.judge.names.below(folder):
        if is_file:
            inner[path._replace(parts=path.parts[: len(folder.parts) + 1])] = None
    yield from inner
