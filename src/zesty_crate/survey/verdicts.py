"""The verdicts on a document: how far it was read, and how far it was relinked. One table each: a new one is a row."""

from __future__ import annotations

from enum import StrEnum
from typing import NamedTuple

from ..catalogs import Reading
from ..guides import HoldingPart


class Verdict(StrEnum):
    """How far a document was read; the same word in text, JSON and every table."""

    READ = "read"
    PARTLY_READ = "partly-read"
    NOT_READ = "not-read"
    NOTHING_SELECTED = "nothing-selected"
    DOUBTFUL = "doubtful"

    @property
    def words(self) -> str:
        """For people."""
        return self.replace("-", " ")

    @property
    def remedy(self) -> str:
        """What a technician does about it; empty for what is read."""
        return VERDICTS[self].remedy


class VerdictRow(NamedTuple):
    """When a document has a verdict, and what a technician does about it."""

    when: str
    remedy: str


VERDICTS = {
    Verdict.READ: VerdictRow("every record that the guide selects was read", ""),
    Verdict.PARTLY_READ: VerdictRow(
        "some records could not be read; all others are carried, relinked and checked",
        "Look at these records in the program on the old computer, or correct the guide.",
    ),
    Verdict.NOT_READ: VerdictRow(
        "nobody could look at it, it is damaged or locked, or its guide describes another form",
        "See that its volume is connected, that this user may read it and that its program opens it, or correct the "
        "guide. Then take a new survey, or check again.",
    ),
    Verdict.NOTHING_SELECTED: VerdictRow(
        "the guide matches nothing in a document that is not empty",
        "Correct the selectors in the guide and take a new survey.",
    ),
    Verdict.DOUBTFUL: VerdictRow(
        "it was read, but what was read can hardly be right",
        "Compare some entries with the program. If the guide is wrong, correct it and take a new survey; if files were "
        "moved, find them with zesty relink --at SHEET --look-in DIR.",
    ),
}


class Relinked(StrEnum):
    """What relinking did with a document."""

    PROVEN = "proven"
    NOTHING_TO_CHANGE = "nothing-to-change"
    LEFT_BY_CHOICE = "left-by-choice"
    NOT_RELINKED = "not-relinked"

    @property
    def words(self) -> str:
        """For people."""
        return RELINKED[self]

    @property
    def is_settled(self) -> bool:
        """Whether nothing more is to be done."""
        return self is not Relinked.NOT_RELINKED


RELINKED = {
    Relinked.PROVEN: "relinked and proven",
    Relinked.NOTHING_TO_CHANGE: "nothing to change",
    Relinked.LEFT_BY_CHOICE: "left by choice",
    Relinked.NOT_RELINKED: "not relinked",
}


def verdict_of(reading: Reading, part: HoldingPart) -> Verdict:
    """The verdict on a document by its own records alone. A guide may say that a document ``may-have-none``."""
    if reading.unread:
        return Verdict.PARTLY_READ
    if reading.selects_nothing and (reading.without_path or not part.may_have_none):
        return Verdict.NOTHING_SELECTED
    return Verdict.READ
