"""What all kinds of records of two texts are merged with: both documents, what is written, and the keys."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from ..catalogs import Cell, PlacedRecord, Splice, TextRecords
from ..catalogs.quoting import QUOTINGS
from .model import KeyMap
from .sides import Sides
from .values import Values


class Fresh(NamedTuple):
    """A carried record that is new there, and its text for there."""

    record: PlacedRecord
    text: str


@dataclass(slots=True)
class Kind:
    """The records of one kind on both sides, and what came of them."""

    there: list[PlacedRecord]
    carried: list[PlacedRecord]
    new: int = 0
    same: int = 0


@dataclass(slots=True)
class TextWork:
    """Both documents, and what is to be written into the one ``there``."""

    sides: Sides
    there: TextRecords
    carried: TextRecords
    values: Values
    keys: KeyMap = field(default_factory=KeyMap)
    splices: list[Splice] = field(default_factory=list)
    attached_stays: set[tuple[str, str]] = field(default_factory=set)

    def own_keys(self) -> dict[str, str]:
        """The keys there of carried entries, by those that they had, both as the documents write them."""
        if len(self.sides.part.entries) < 2:
            return self.keys.entries
        return {key.partition(":")[2]: new.partition(":")[2] for key, new in reversed(self.keys.entries.items())}

    def last_entries(self) -> list[PlacedRecord]:
        """The entries there of the last kind."""
        several, parts = len(self.sides.part.entries) > 1, self.sides.part.entries
        return self.there.entries(parts[-1], f"{len(parts)}:" if several else "")

    def put_in(
        self,
        each: str,
        within: PlacedRecord | None,
        records: Sequence[PlacedRecord],
        others: Sequence[PlacedRecord],
        fresh: Sequence[Fresh],
    ) -> None:
        """Put records after the last of their kind, with what is between two of them."""
        if not fresh:
            return
        container = self.carried.records.container_of(fresh[0].record.record)
        room = self.there.room_for(each, within, fresh[0].record, container, records)
        known = (self.there.between(records), room.between, self.carried.between(others), self.there.records.glue("\n"))
        glue = next(each for each in known if each is not None)
        put, line = "", self.there.line_until(room.start) + room.before
        for one in fresh:
            column = len(self.carried.line_until(one.record.start))
            put += self.there.joined(glue if records or put else "", one.text, put or line, column)
        self.splices.append(Splice(room.start, room.end, f"{room.before}{put}{room.after}"))

    def rewritten(self, cell: Cell, text: str) -> Splice:
        """Another text in a cell of the carried document."""
        return rewritten(self.carried, cell, text)

    def write(self, cell: Cell, text: str) -> None:
        """Have another text in a cell of the document there."""
        self.splices.append(rewritten(self.there, cell, text))

    def spliced(self) -> str:
        """The text there with all that is written into it."""
        text, at, parts = self.there.file.text, 0, list[str]()
        self.splices = self.there.records.completed(self.splices, (0, len(text)))
        for start, end, new in self.splices:
            parts += text[at:start], new
            at = end
        return "".join([*parts, text[at:]])


def rewritten(document: TextRecords, cell: Cell, text: str) -> Splice:
    """Another text in a cell, in the manner of the one that is in it."""
    start, end = int(cell.row), int(cell.row) + cell.length
    return Splice(start, end, QUOTINGS[cell.column].rewrite(document.file.text[start:end], text))


def cell_of(record: PlacedRecord, selector: str | None) -> Cell | None:
    """Where the value of a record is that a selector selects."""
    found = record.record.value(selector) if selector else None
    return None if found is None else found.cell


def respliced(document: TextRecords, record: PlacedRecord, splices: Sequence[Splice]) -> str:
    """The text of a record with splices in it."""
    text, at, parts = document.file.text, record.start, list[str]()
    for start, end, new in document.records.completed(splices, (record.start, record.end)):
        parts += text[at:start], new
        at = end
    return "".join([*parts, text[at : record.end]])


def by_place(document: TextRecords, records: Iterable[PlacedRecord]) -> dict[str, list[PlacedRecord]]:
    """Records by the place of their document that they are at."""
    found: dict[str, list[PlacedRecord]] = {}
    for each in records:
        found.setdefault(document.records.container_of(each.record), []).append(each)
    return found
