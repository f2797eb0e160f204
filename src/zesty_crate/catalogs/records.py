"""What a text syntax finds: records, and in each the values that a guide selects, with where they stand."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Protocol

from .model import Cell


@dataclass(frozen=True, slots=True)
class Found:
    """A value of a record; ``cell`` is None when nothing else could ever be written in its place."""

    text: str
    cell: Cell | None


class Record(Protocol):
    """One entry as its syntax has it."""

    def value(self, selector: str) -> Found | None:
        """The first value that a selector of the syntax selects, or None."""


class Records(Protocol):
    """A document of one syntax, read whole or line by line."""

    def select(self, each: str) -> Iterator[Record]:
        """The records that a selector selects, in the order of the document. Raises `CatalogError` for a bad one."""
