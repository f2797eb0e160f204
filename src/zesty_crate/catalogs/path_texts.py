"""The paths of a text one after the other, each with its place, where nobody asks for what else its record says."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Protocol, runtime_checkable

from ..guides import EntriesPart
from .reading import UnreadRecord
from .records import PathRecords, Record, Records

# A text, how it is quoted, and its first character and how many there are. Without a quoting it cannot be written.
PathText = tuple[str, str, int | str, int]


class PathTexts(Protocol):
    """The path of each record that an entries part selects, in the order of the document; None for one without."""

    def __iter__(self) -> Iterator[PathText | None]:
        """Each path. Raises `CatalogError` for a bad selector, or what cannot be read."""

    def record(self) -> Record:
        """The record of the last one, whole."""


@runtime_checkable
class SweptRecords(Protocol):
    """A document that tells paths sooner than records."""

    def path_texts(self, part: EntriesPart) -> PathTexts | None:
        """The paths of an entries part; None where they are not told sooner."""


def path_texts(records: Records, part: EntriesPart) -> PathTexts:
    """The paths of any document, for an entries part whose paths are kept whole in one value."""
    sooner = records.path_texts(part) if isinstance(records, SweptRecords) else None
    if sooner is not None:
        return sooner
    selected = records.select_paths(part) if isinstance(records, PathRecords) else records.select(part)
    return RecordTexts(selected, part.path[0].at or "")


class RecordTexts:
    """The paths of whole records; a syntax may take less of them."""

    def __init__(self, records: Iterator[Record], at: str) -> None:
        self._records = records
        self._at = at
        self._record: Record | None = None

    def __iter__(self) -> Iterator[PathText | None]:
        for record in self._records:
            self._record = record
            yield self.path_of(record, self._at)

    def path_of(self, record: Record, at: str) -> PathText | None:
        """The path of a record."""
        try:
            found = record.value(at)
        except UnreadRecord:
            return None
        if found is None or not found.text:
            return None
        if found.cell is None:
            return found.text, "", 0, 0
        _, quoting, start, length, *_ = found.cell
        return found.text, quoting, start, length

    def record(self) -> Record:
        """The record of the last one, whole."""
        if self._record is None:
            raise LookupError("No path was told yet.")
        return self._record
