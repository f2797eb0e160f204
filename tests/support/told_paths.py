"""The paths of a text with their places: told one after the other, and by records that may be asked for anything."""

from __future__ import annotations

from collections.abc import Iterator

from zesty_crate.catalogs.path_texts import PathText, path_texts
from zesty_crate.catalogs.records import Records
from zesty_crate.guides import EntriesPart

Told = tuple[PathText | None, list[str | None]]  # a path with its place, and annotations of its record


def paths_told(document: Records, part: EntriesPart) -> Iterator[Told]:
    """As they are told."""
    texts = path_texts(document, part)
    for told in texts:
        yield told, [texts.record().text(each) for each in part.annotations]


def paths_of_records(document: Records, part: EntriesPart) -> Iterator[Told]:
    """By the records."""
    for record in document.select(part):
        found = record.value(part.path[0].at or "")
        place = (found.cell.column, found.cell.row, found.cell.length) if found and found.cell else ("", 0, 0)
        told = (found.text, *place) if found and found.text else None
        yield told, [record.text(each) for each in part.annotations]
