"""The records of a text with the characters that each takes up: for those who bring records of one into another."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, NamedTuple, Protocol, runtime_checkable

from ..guides import EntriesPart, GroupsPart, HoldingPart
from ..machines import Disk
from ..paths import MachinePath, join_pieces
from .model import CatalogError, Syntax
from .reading import UnreadRecord
from .records import OuterRecord, Record, Records
from .text_file import TextFile, read_text_file

Span = tuple[int, int]


@runtime_checkable
class SpannedRecords(Records, Protocol):
    """A document that knows where each record begins and ends, and how records of one kind follow one another."""

    def span_of(self, record: Record) -> Span:
        """The first character of a record, and the one after its last."""

    def glue(self, between: str) -> str:
        """What stands between two records, of what stands between two of them in some document."""

    def added(self, name: str, path: Span, raw: str) -> tuple[int, str] | None:
        """Where a value that a record lacks goes, with what makes it one; None where none can be added.

        ``path`` is where the text of its path stands, ``raw`` the value as another document of the kind writes it.
        """


@runtime_checkable
class PlacedNestedRecords(SpannedRecords, Protocol):
    """The same, whose records have others inside."""

    def placed_outer(self, each: str) -> Iterator[OuterRecord]:
        """The records that a selector selects, to look inside, with their places."""


class PlacedRecord(NamedTuple):
    """A record by its key, with its place; ``recorded`` is its path, or the name of a group, ``parent`` around that."""

    key: str
    recorded: str
    record: Any
    start: int
    end: int
    path: Span
    parent: str = ""


@dataclass(slots=True)
class TextRecords:
    """One document with all its records."""

    file: TextFile
    part: HoldingPart
    at: MachinePath
    records: SpannedRecords
    syntax: Syntax

    def entries(self, part: EntriesPart, prefix: str) -> list[PlacedRecord]:
        """The entries of a part that name a path, by the keys that a catalog has them under."""
        found = []
        for position, record in enumerate(self.records.select(part), start=1):
            try:
                values = [record.value(piece.at) for piece in part.path]
            except UnreadRecord:
                continue
            texts = [each.text for each in values if each is not None and each.text]
            if not texts:
                continue
            key = (record.text(part.key) if part.key else "") or record.known_as or str(position)
            cell = next((each.cell for each in values if each is not None and each.cell is not None), None)
            path = (int(cell.row), int(cell.row) + cell.length) if cell else (0, 0)
            recorded = join_pieces(texts, self.at.system, part.spelling) or "."
            found.append(PlacedRecord(f"{prefix}{key}", recorded, record, *self.records.span_of(record), path))
        return found

    def groups(self, part: GroupsPart, prefix: str) -> list[PlacedRecord]:
        """The groups of a part, by the keys that a catalog has them under."""
        found = []
        for position, record in enumerate(self._nested().placed_outer(part.each), start=1):
            key, parent = ((record.text(each) if each else "") or "" for each in (part.key, part.parent))
            name = record.text(part.name) or ""
            above = f"{prefix}{parent}" if parent else ""
            span = self.records.span_of(record)
            found.append(PlacedRecord(f"{prefix}{key or position}", name, record, *span, (0, 0), above))
        return found

    def members(self, part: GroupsPart, group: PlacedRecord) -> list[PlacedRecord]:
        """The members of a group, by the keys of their entries."""
        return list(self._members(part, group.record))

    def _members(self, part: GroupsPart, group: OuterRecord) -> Iterator[PlacedRecord]:
        if part.members is None:
            return
        for member in group.inside(part.members.each):
            key = member.text(part.members.entry)
            if key is not None:
                yield PlacedRecord(key, key, member, *self.records.span_of(member), (0, 0))

    def _nested(self) -> PlacedNestedRecords:
        if not isinstance(self.records, PlacedNestedRecords):
            raise CatalogError(f"Groups in {self.part.syntax} cannot be merged.")
        return self.records

    def between(self, records: Sequence[PlacedRecord]) -> str | None:
        """What stands between the last two records of a kind; None where there are not two."""
        if len(records) < 2:
            return None
        return self.records.glue(self.file.text[records[-2].end : records[-1].start])

    def joined(self, glue: str, text: str, end: int) -> str:
        """A record as it follows another one that ends at a place."""
        lacks_end = glue == "" and end > 0 and self.file.text[end - 1] not in "\r\n" and self.part.syntax in _BY_LINE
        return ("\n" if lacks_end else glue) + text

    def added(
        self, name: str, there: PlacedRecord, other: TextRecords, carried: PlacedRecord
    ) -> tuple[int, str] | None:
        """Where a value goes that a record lacks and a carried one has, and with what text."""
        found = carried.record.value(name)
        if found is None or found.cell is None or there.path == (0, 0):
            return None
        start = int(found.cell.row)
        return self.records.added(name, there.path, other.file.text[start : start + found.cell.length])


_BY_LINE = ("lines", "delimited")


def text_records(path: Path, part: HoldingPart, at: MachinePath, disk: Disk) -> TextRecords:
    """Read a document. Raises `CatalogError` for one whose records have no places."""
    from .syntaxes import reader_of, syntax_of

    file = read_text_file(path, disk, part.encoding)
    records = reader_of(part)(file, part, str(path))
    if not isinstance(records, SpannedRecords):
        raise CatalogError(f"Catalogs in {part.syntax} cannot be merged by this version.")
    return TextRecords(file, part, at, records, syntax_of(part))
