"""The records of a text with the characters that each takes up: for those who bring records of one into another."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, NamedTuple

from ..guides import EntriesPart, GroupsPart, HoldingPart
from ..machines import Disk
from ..paths import MachinePath, join_pieces
from .model import CatalogError, Syntax
from .pieces import piece_of, whole_key
from .reading import UnreadRecord
from .records import OuterRecord
from .spans import PlacedNestedRecords, Room, Span, SpannedRecords, Splice
from .text_file import TextFile, read_bytes_as_text, read_text_file


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
                each = [piece_of(record, piece) for piece in part.path]
            except UnreadRecord:
                continue
            if not (pieces := [piece for piece in each if piece is not None]):
                continue
            key = whole_key(part, record.text) or record.known_as or str(position)
            cell = next((each.cell for each in pieces if not each.cell.is_fixed), None)
            path = (int(cell.row), int(cell.row) + cell.length) if cell else (0, 0)
            recorded = join_pieces([each.text for each in pieces], self.at.system, part.spelling) or "."
            found.append(PlacedRecord(f"{prefix}{key}", recorded, record, *self.records.span_of(record), path))
        return found

    def records_of(self, each: str) -> list[PlacedRecord]:
        """The records that a selector selects, whatever they are about."""
        found = []
        part = EntriesPart.model_construct(each=each, path=())
        for position, record in enumerate(self.records.select(part), start=1):
            found.append(PlacedRecord(str(position), "", record, *self.records.span_of(record), (0, 0)))
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
            return self.records.lead(records[-1].record) if records else None
        return self.records.glue(self.file.text[records[-2].end : records[-1].start])

    def without(self, records: Sequence[PlacedRecord], leaves: Sequence[bool]) -> list[Splice]:
        """What takes away those records of one place that leave it, with what stands between them and others."""
        splices, at = list[Splice](), 0
        while at < len(records):
            if not leaves[at]:
                at += 1
                continue
            last = at
            while last + 1 < len(records) and leaves[last + 1] and self._are_neighbours(*records[last : last + 2]):
                last += 1
            start, end = records[at].start, records[last].end
            if at and self._are_neighbours(*records[at - 1 : at + 1]):
                start = records[at - 1].end
            elif last + 1 < len(records) and self._are_neighbours(*records[last : last + 2]):
                end = records[last + 1].start
            splices.append(Splice(start, end, ""))
            at = last + 1
        return splices

    def _are_neighbours(self, one: PlacedRecord, other: PlacedRecord) -> bool:
        between = self.file.text[one.end : other.start]
        return self.records.glue(between) == between

    def line_until(self, at: int) -> str:
        """What a line holds before a place."""
        return self.file.text[max(self.file.text.rfind("\n", 0, at), self.file.text.rfind("\r", 0, at)) + 1 : at]

    def joined(self, glue: str, text: str, before: str, column: int) -> str:
        """A record of another document, where it began at a column, as it follows what is ``before`` it here."""
        if self.part.syntax not in _BY_LINE:
            return glue + self.records.fitted(text, column, before, glue)
        lacks_end = glue == "" and before[-1:] not in ("", "\r", "\n")
        return (self.line_end if lacks_end else glue) + self._with_line_ends(text)

    @property
    def line_end(self) -> str:
        """How its lines end."""
        return "\r\n" if "\r\n" in self.file.text else "\n"

    def _with_line_ends(self, text: str) -> str:
        """A record whose lines end as those of this document do; but not inside of quoted fields."""
        if self.part.syntax == "delimited":
            return text.rstrip("\r\n") + self.line_end
        ended = _LINE_END.sub(self.line_end, text)
        return ended if ended.endswith(self.line_end) else ended + self.line_end

    def added(
        self, name: str, there: PlacedRecord, other: TextRecords, carried: PlacedRecord
    ) -> tuple[int, str] | None:
        """Where a value goes that a record lacks and a carried one has, and with what text."""
        found = carried.record.value(name)
        if found is None or found.cell is None or there.path == (0, 0):
            return None
        return self.records.added(name, there.path, other.records.written(found.cell))

    def has_place(self, record: PlacedRecord, container: str) -> bool:
        """Whether there is a place here like that of another document's record, though none of its kind is at it."""
        return self.records.place_like(record.record, container) is not None

    def room_for(
        self,
        each: str,
        within: PlacedRecord | None,
        record: PlacedRecord,
        container: str,
        records: Sequence[PlacedRecord],
    ) -> Room:
        """Where a record of another document goes, beside those of its kind that are here. Raises `CatalogError`.

        ``container`` tells the place that it is at in its own document.
        """
        if records:
            return Room(records[-1].end, records[-1].end)
        found = self.records.room(each, within.record) if within is not None else None
        found = found or self.records.place_like(record.record, container) or self.records.room(each, None)
        if found is None:
            raise CatalogError(
                "It has no record of this kind where the carried one is in its own, so that nothing tells where that "
                "goes.",
                next_step="Choose bring-in or both for this catalog.",
            )
        return found


_LINE_END = re.compile(r"\r\n|\r|\n")
_BY_LINE = ("lines", "delimited", "ini", "properties", "reg")


def text_file_of(path: Path, part: HoldingPart, disk: Disk) -> TextFile:
    """The text of a document, whatever its syntax."""
    return read_bytes_as_text(path, disk) if part.syntax == "tagged" else read_text_file(path, disk, part.encoding)


def text_records(path: Path, part: HoldingPart, at: MachinePath, disk: Disk) -> TextRecords:
    """Read a document. Raises `CatalogError` for one whose records have no places."""
    from .syntaxes import reader_of, syntax_of

    file = text_file_of(path, part, disk)
    records = reader_of(part)(file, part, str(path))
    if not isinstance(records, SpannedRecords):
        raise CatalogError(f"Catalogs in {part.syntax} cannot be merged by this version.")
    return TextRecords(file, part, at, records, syntax_of(part))
