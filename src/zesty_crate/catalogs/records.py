"""What a text syntax finds: records, and in each the values that a guide selects, with where they are."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple, Protocol, runtime_checkable

from ..guides import EntriesPart, PiecePart
from .model import Found
from .text_file import Value


class Record(Protocol):
    """One entry as its syntax has it."""

    __slots__ = ()

    def value(self, selector: str) -> Found | None:
        """The first value that a selector of the syntax selects, or None."""

    def text(self, selector: str) -> str | None:
        """The text of that value, without its location."""
        found = self.value(selector)
        return found.text if found else None

    def name_list(self, selector: str) -> Found | None:
        """The path that a list of names is, where the selector selects one."""
        del selector
        return None

    @property
    def known_as(self) -> str:
        """What tells it from all others of its document by itself; empty where only its position does."""
        return ""

    def why_not(self, selector: str) -> str:
        """Why a selector that selects something selects no text; empty when it selects nothing."""
        del selector
        return ""


class OuterRecord(Record, Protocol):
    """A record that has others inside."""

    __slots__ = ()

    def inside(self, selector: str) -> Iterator[Record]:
        """The records that a selector selects from here, in the order of the document."""


class Records(Protocol):
    """A document of one syntax, read whole or line by line. It ``is_empty`` when it holds nothing to select from."""

    @property
    def is_empty(self) -> bool:
        """Whether there is nothing to select from."""

    def select(self, part: EntriesPart) -> Iterator[Record]:
        """The records of an entries part, in the order of the document. Raises `CatalogError` for a bad selector."""


# What a document may offer besides is said apart: to ask whether it follows a protocol is to ask for all that this has,
# and whether it is empty may take a while to tell.


@runtime_checkable
class ToldRecords(Protocol):
    """A document that is read much sooner when nobody asks where things are in it."""

    def told(self, part: EntriesPart) -> Iterator[Record]:
        """The same records, of which only texts may be asked."""


@runtime_checkable
class PathRecords(Protocol):
    """A document that takes less room when nobody asks where other things than paths are in it."""

    def select_paths(self, part: EntriesPart) -> Iterator[Record]:
        """The same records, of which only the places of paths may be asked."""


@runtime_checkable
class ValuedRecords(Protocol):
    """A document that knows all its values, whatever a guide selects; by these a rewritten one is compared."""

    def values(self) -> Iterator[Value]:
        """Every value as a text, in the order of the document; of a rewritten one as many as before."""


@runtime_checkable
class NestedRecords(Protocol):
    """A document whose records may have others inside."""

    def outer(self, each: str) -> Iterator[OuterRecord]:
        """The records that a selector selects, to look inside."""


class Inclusion(NamedTuple):
    """A place at which another document is read as part of one: its path as it is written, and what holds there."""

    text: str
    given: dict[str, Found]


@runtime_checkable
class IncludingRecords(Protocol):
    """A document that other documents may be read as part of."""

    def inclusions(self) -> Iterator[Inclusion]:
        """What it includes."""

    def included(self, given: dict[str, Found]) -> Records:
        """The same document as part of another one. Nothing can be written in it from there."""


def value_of_piece(record: Record, piece: PiecePart) -> Found | None:
    """The value of a record that is a piece of its path."""
    return record.name_list(piece.at) if piece.holds == "names" else record.value(piece.at)


def text_of_piece(record: Record, piece: PiecePart) -> str | None:
    """The text of that value."""
    if piece.holds != "names":
        return record.text(piece.at)
    found = record.name_list(piece.at)
    return found.text if found else None
