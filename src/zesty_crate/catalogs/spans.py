"""What a text must tell of its records so that some of another one can be put in: where each is, and where more go."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Sequence
from typing import NamedTuple, Protocol, runtime_checkable

from .model import Cell
from .records import OuterRecord, Record, Records

Span = tuple[int, int]


class Splice(NamedTuple):
    """A new text in place of the characters from ``start`` to ``end``; it is put in where both are one."""

    start: int
    end: int
    text: str


def in_order(splices: Iterable[Splice]) -> list[Splice]:
    """Splices in the order of the text; those at one place in the order in which they come."""
    return sorted(splices, key=lambda each: each[:2])


class RecordName(NamedTuple):
    """A name that a record has beside its values, as a member of an object or as a section has; its raw text's place.

    No other record at the same place may be ``known_as`` it.
    """

    start: int
    end: int
    quoting: str
    text: str
    known_as: str


class Room(NamedTuple):
    """Where the first record of a kind goes: in place of ``start`` to ``end``, between ``before`` and ``after``.

    What stands ``between`` more of them, where only the place tells that.
    """

    start: int
    end: int
    before: str = ""
    after: str = ""
    between: str | None = None


@runtime_checkable
class SpannedRecords(Records, Protocol):
    """A document that knows where each record begins and ends, and how records of one kind follow one another."""

    def span_of(self, record: Record) -> Span:
        """The first character of a record, and the one after its last; with its name, where it has one."""

    def name_of(self, record: Record) -> RecordName | None:
        """Its name, where it has one beside its values."""

    def names_at(self, container: str) -> Collection[str]:
        """What all that is in a container is known as by its name."""

    def container_of(self, record: Record) -> str:
        """What tells the place where a record stands from others that records of its kind stand in."""

    def place_like(self, record: Record, container: str) -> Room | None:
        """Where a record of another document goes that is in such a container there; None where there is none here."""

    def room(self, each: str, within: OuterRecord | None) -> Room | None:
        """Where the first record that a selector selects goes: in the document, or within a record of it."""

    def glue(self, between: str) -> str:
        """What stands between two records, of what stands between two of them in some document."""

    def lead(self, record: Record) -> str | None:
        """What stands before another record that follows one which is alone; None where that does not tell it."""

    def fitted(self, text: str, column: int, before: str, glue: str) -> str:
        """A record of another document, where it began at a column, as it goes behind what is ``before`` it."""

    def completed(self, splices: Sequence[Splice], within: Span) -> list[Splice]:
        """Splices ``within`` a part of the document in their order, with what goes with them: lengths around them."""

    def written(self, cell: Cell) -> str:
        """A value as it is written, with the marks around it that tell what it is."""

    def added(self, name: str, path: Span, written: str) -> tuple[int, str] | None:
        """Where a value that a record lacks goes, with what makes it one; None where none can be added.

        ``path`` is where the text of its path is, ``written`` the value as another document of the kind has it.
        """


@runtime_checkable
class PlacedNestedRecords(SpannedRecords, Protocol):
    """The same, whose records have others inside."""

    def placed_outer(self, each: str) -> Iterator[OuterRecord]:
        """The records that a selector selects, to look inside, with their places."""


class SelfStanding:
    """What holds of texts whose records stand for themselves, wherever they are put."""

    def lead(self, record: Record) -> str | None:  # noqa: ARG002
        """One record does not tell it."""
        return None

    def fitted(self, text: str, column: int, before: str, glue: str) -> str:  # noqa: ARG002
        """As it is."""
        return text

    def completed(self, splices: Sequence[Splice], within: Span) -> list[Splice]:  # noqa: ARG002
        """Nothing around them tells of them."""
        return in_order(splices)


class PlainSpans(SelfStanding):
    """What holds of texts whose records follow one another, line by line, and have no names."""

    _text: str

    def name_of(self, record: Record) -> RecordName | None:  # noqa: ARG002
        """None has a name."""
        return None

    def names_at(self, container: str) -> Collection[str]:  # noqa: ARG002
        """None has a name."""
        return ()

    def container_of(self, record: Record) -> str:  # noqa: ARG002
        """All are in the document itself."""
        return ""

    def place_like(self, record: Record, container: str) -> Room | None:  # noqa: ARG002
        """There is but one place."""
        return None

    def room(self, each: str, within: OuterRecord | None) -> Room | None:  # noqa: ARG002
        """The end of the document."""
        return Room(len(self._text), len(self._text))

    def glue(self, between: str) -> str:  # noqa: ARG002  a record ends with its line
        """Nothing stands between lines."""
        return ""

    def written(self, cell: Cell) -> str:
        """A value as it is written."""
        return self._text[int(cell.row) : int(cell.row) + cell.length]

    def added(self, name: str, path: Span, written: str) -> tuple[int, str] | None:  # noqa: ARG002
        """A line has no place for more."""
        return None
