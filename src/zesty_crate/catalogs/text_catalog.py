"""Catalogs that are texts: one way to turn the records of any text syntax into entries and groups."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from contextlib import suppress
from dataclasses import replace

from ..guides import EntriesPart, GroupsPart, HoldingPart, MembersPart
from ..paths import MachinePath, join_pieces
from .changes import ChangeList
from .copies import note_besides
from .known import known_of
from .model import (
    Brief,
    BriefTable,
    Copied,
    Entry,
    Found,
    Group,
    NewText,
    base_of,
)
from .path_texts import path_texts
from .pieces import piece_of, whole_key, with_whole_name
from .reading import LONGEST_PATH, Reading, UnreadRecord, path_text
from .records import (
    NestedRecords,
    OuterRecord,
    Record,
    Records,
    ToldRecords,
)


class RecordCatalog:
    """Entries from records. ``inner`` are the documents that it includes, each by its place."""

    def __init__(
        self, records: Records, part: HoldingPart, at: MachinePath, inner: Mapping[MachinePath, Records] | None = None
    ) -> None:
        self._records = records
        self._part = part
        self._at = at
        self._base = base_of(part, at)
        self._inner = inner or {}
        self.reading = Reading()

    def close(self) -> None:
        """Let go of the document, which may be large; whoever decided on its entries knows the catalog for longer."""
        with suppress(AttributeError):  # it was let go of before
            del self._records
        self._inner = {}

    def included(self) -> Iterator[MachinePath]:
        """The documents that are read as part of this one."""
        return iter(self._inner)

    def groups(self) -> Iterator[Group]:
        """Every group, in the order of the document; one without a key is known by its number."""
        several = len(self._part.groups) > 1
        known = self._keys_of_several()
        for number, part in enumerate(self._part.groups, start=1):
            prefix = f"{number}:" if several else ""
            if part.whole:
                yield Group(f"{prefix}whole", self._at.name, "", tuple(entry.key for entry in self.entries()))
            elif part.members is not None and isinstance(self._records, NestedRecords):
                for position, record in enumerate(self._records.outer(part.each), start=1):
                    group = _group(part, part.members, record, prefix, position)
                    yield replace(group, members=tuple(known.get(each, each) for each in group.members))

    def _keys_of_several(self) -> dict[str, str]:
        """Where entries come by several selectors: their whole keys, by what members call them."""
        if len(self._part.entries) < 2 or all(part.whole for part in self._part.groups):
            return {}
        keys = [entry.key for entry in self.entries()]
        return {key.partition(":")[2]: key for key in reversed(keys)}

    def entries(self, *, placed: bool = True) -> Iterator[Entry]:  # noqa: ARG002  places cost nothing here
        """Every entry, in the order of the document; one without a key is known by its number."""
        several = len(self._part.entries) > 1
        self.reading = reading = self._begun()
        for number, part in enumerate(self._part.entries, start=1):
            prefix = f"{number}:" if several else ""
            for position, record in enumerate(self._all_records(part), start=1):
                entry = self._counted(reading, part, record, prefix, position)
                if entry is not None:
                    yield entry

    def brief(self) -> Iterator[BriefTable]:
        """Every entry; in fewer words where no more is known of it than its path."""
        several = len(self._part.entries) > 1
        self.reading = reading = self._begun()
        for number, part in enumerate(self._part.entries, start=1):
            rows = self._brief(part, f"{number}:" if several else "", reading)
            yield BriefTable(rows, part.spelling, self._base)

    def _brief(self, part: EntriesPart, prefix: str, reading: Reading) -> Iterator[Entry | Brief]:
        at = part.path[0].at
        for position, record in enumerate(self._all_records(part, told=part.is_brief), start=1):
            if not part.is_brief:
                entry = self._counted(reading, part, record, prefix, position)
                if entry is not None:
                    yield entry
                continue
            try:
                recorded = path_text(record.text(at) or "")
            except UnreadRecord as why:
                reading.skip(f"record {position}", str(why))
                continue
            if recorded:
                key = whole_key(part, record.text)
                size = record.text(part.size) if part.size else None
                told = ((name, record.text(name)) for name in part.annotations)
                annotations = tuple((name, text) for name, text in told if text is not None) if part.annotations else ()
                reading.entries += 1
                yield f"{prefix}{key or record.known_as or position}", recorded, _number(size), annotations
            else:
                _note_pathless(reading, part, record, position)

    def _begun(self) -> Reading:
        return Reading(is_empty=self._records.is_empty)

    def _counted(self, reading: Reading, part: EntriesPart, record: Record, prefix: str, position: int) -> Entry | None:
        """The entry of a record; None for one that has no path, or cannot be read, which is counted."""
        try:
            entry = self._entry(part, record, prefix, position)
        except UnreadRecord as why:
            reading.skip(f"record {position}", str(why))
            return None
        if entry is None:
            _note_pathless(reading, part, record, position)
        else:
            reading.entries += 1
            if part.besides:
                note_besides(reading, entry)
        return entry

    def sweep(self, changes: ChangeList, new_text: NewText) -> bool:
        """Ask for the new text of each path, where an entry is no more than that, and all are in this document."""
        if self._inner or len(self._part.entries) > 1 or not self._part.entries[0].is_brief:
            return False
        changes.add_spans(self._renewed(self._part.entries[0], new_text))
        return True

    def _renewed(self, part: EntriesPart, new_text: NewText) -> Iterator[tuple[int | str, int, str, str, str]]:
        texts, spelling, position = path_texts(self._records, part), part.spelling, 0

        def ask() -> Entry | None:  # of the path at which we are
            return self._entry(part, texts.record(), "", position)

        for told in texts:
            position += 1
            if told is None:
                continue
            text, quoting, start, length = told
            if len(text) > LONGEST_PATH:
                continue
            new = new_text(text if quoting else "", spelling, ask)
            if new is not None and quoting:
                yield start, length, quoting, text, new

    def _all_records(self, part: EntriesPart, *, told: bool = False) -> Iterator[Record]:
        for records in (self._records, *self._inner.values()):
            yield from records_of(records, part, told=told)

    def _entry(self, part: EntriesPart, record: Record, prefix: str, position: int) -> Entry | None:
        pieces = with_whole_name(part, [piece_of(record, piece) for piece in part.path])
        if not any(pieces) and not (part.numbered and part.numbered.suffix):
            return None

        value = record.text
        key, size = whole_key(part, value), value(part.size) if part.size else None
        texts = [path_text(piece.text) for piece in pieces if piece]
        recorded = join_pieces(texts, self._at.system, part.spelling) or "."
        remote = bool(part.remote and record.value(part.remote))
        annotations = ((name, value(name)) for name in part.annotations)
        return Entry(
            key=prefix + (key or record.known_as or str(position)),
            pieces=pieces,
            recorded=recorded,
            spelling=part.spelling,
            remote=remote or bool(part.remote_like and re.search(part.remote_like, recorded)),
            size_bytes=_number(size),
            annotations=tuple((name, text) for name, text in annotations if text is not None),
            base=self._base,
            known=known_of(part, value, recorded),
            copies=tuple(
                Copied(found.cell, found.text, each)
                for each in part.copies
                if (found := record.value(each.at)) is not None and found.text
            ),
            pointers=tuple(
                found if each.empty else Found(found.text, None)
                for each in part.pointers
                if (found := record.value(each.at)) is not None and found.text
            ),
        )


def _group(part: GroupsPart, members: MembersPart, record: OuterRecord, prefix: str, position: int) -> Group:
    def value(selector: str | None) -> str:
        found = record.value(selector) if selector else None
        return found.text if found else ""

    keys = (member.value(members.entry) for member in record.inside(members.each))
    parent = value(part.parent)
    return Group(
        key=prefix + (value(part.key) or str(position)),
        name=value(part.name),
        parent=prefix + parent if parent else "",
        members=tuple(found.text for found in keys if found is not None),
    )


def _note_pathless(reading: Reading, part: EntriesPart, record: Record, position: int) -> None:
    """Count a record without a path, and as one that was not read when there is something in place of the path."""
    if why := next((why for piece in part.path if piece.at and (why := record.why_not(piece.at))), ""):
        reading.skip(f"record {position}", why)
    else:
        reading.without_path += 1


def records_of(records: Records, part: EntriesPart, *, told: bool) -> Iterator[Record]:
    """Records of a document, of which only texts will be asked if they are ``told``."""
    return records.told(part) if told and isinstance(records, ToldRecords) else records.select(part)


def _number(text: str | None) -> int | None:
    return int(text) if text and text.isascii() and text.isdigit() else None
