"""What became of a document's records while it was read: how many there are, and which could not be read, and why."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TypeGuard

_MOST_REASONS = 5
LONGEST_PATH = 300_000  # characters: the longest path of any system (32,767), with each of its bytes written as %XX


class UnreadRecord(Exception):  # noqa: N818  nothing failed but this one record
    """One record cannot be read as its guide says; the message says why."""


def path_text(text: str) -> str:
    """The text of a path. Raises `UnreadRecord` for one that is longer than the path of any system can be."""
    if len(text) > LONGEST_PATH:
        raise UnreadRecord(f"its path has {len(text):,} characters, more than that of any system")
    return text


def is_one_name(value: object) -> TypeGuard[str]:
    """Whether a value is a text that is the name of something in a folder, on any system, and no more."""
    if not isinstance(value, str) or not 0 < len(value) < LONGEST_PATH or value in (".", ".."):
        return False
    return "/" not in value and "\\" not in value and "\0" not in value


@dataclass(slots=True)
class Reading:
    """One pass over the records that a guide selects from a document.

    ``entries`` name a path; ``without_path`` are records that name none, which is no fault; ``unread`` could not be
    read, and ``reasons`` has the first of them. ``pointers`` are entries with something that only their program can
    follow, and ``stale`` those with a copy that was not made of their path. ``is_empty`` when the document holds
    nothing to select from.
    """

    entries: int = 0
    without_path: int = 0
    unread: int = 0
    reasons: list[str] = field(default_factory=list)
    is_empty: bool = False
    pointers: int = 0
    stale: int = 0

    def skip(self, record: str, why: str) -> None:
        """Count a record that could not be read."""
        self.unread += 1
        if len(self.reasons) < _MOST_REASONS:
            self.reasons.append(f"{record}: {why}")

    @property
    def selects_nothing(self) -> bool:
        """Whether no record of a document that holds something names a path."""
        return not (self.entries or self.unread or self.is_empty)
