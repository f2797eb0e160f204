"""Records with a tag, a length and a payload that may be records again: RIFF, IFF, and what is made in their manner.

The reader is bounded: it believes no length that goes beyond what is around it.
"""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field

from ..guides import RecordsPart

_DEEPEST = 32
_MOST_RECORDS = 1_000_000


@dataclass(slots=True)
class TaggedRecord:
    """A record: its places in the file, and what is in it. From ``end`` to ``next`` is padding."""

    tag: bytes
    start: int
    payload: int
    end: int
    next: int
    form: bytes = b""
    inner: list[TaggedRecord] = field(default_factory=list)
    is_nested: bool = False

    @property
    def name(self) -> str:
        """The tag as the name of an element: letters as they are, anything else in hexadecimal."""
        return element_name(self.tag)

    def all(self) -> Iterator[TaggedRecord]:
        """This record and all in it, in the order of the file."""
        yield self
        for each in self.inner:
            yield from each.all()


class RecordsError(ValueError):
    """What is wrong with the records of a file."""


def element_name(tag: bytes) -> str:
    """A tag as a name of XML."""
    text = tag.decode("latin-1").rstrip(" \0")
    return text if re.fullmatch("[A-Za-z_][A-Za-z0-9_.-]*", text) else f"x{tag.hex()}"


def read_records(content: bytes, layout: RecordsPart) -> list[TaggedRecord]:
    """The outermost records of a file. Raises `RecordsError`."""
    reader = _Reader(content, layout)
    found = reader.records(layout.start, len(content), 0)
    if not found or (layout.form and found[0].tag.decode("latin-1") not in layout.nested):
        raise RecordsError(f"it does not begin with a record {' or '.join(layout.nested) or 'of this layout'}")
    return found


class _Reader:
    def __init__(self, content: bytes, layout: RecordsPart) -> None:
        self._content = content
        self._layout = layout
        self._count = 0

    def records(self, start: int, end: int, depth: int) -> list[TaggedRecord]:
        """The records that follow one another; what is left at the end is too short for one."""
        if depth > _DEEPEST:
            raise RecordsError(f"its records are nested more than {_DEEPEST} deep")
        found, at = [], start
        while at + self._layout.header_bytes <= end:
            record = self._record(at, end, depth)
            found.append(record)
            at = record.next
        return found

    def _record(self, at: int, end: int, depth: int) -> TaggedRecord:
        layout = self._layout
        self._count += 1
        if self._count > _MOST_RECORDS:
            raise RecordsError(f"it holds more than {_MOST_RECORDS:,} records")
        tag = self._content[at : at + layout.tag]
        payload = at + layout.header_bytes
        said = int.from_bytes(self._content[at + layout.tag : payload], layout.byte_order)
        length = said - layout.header_bytes * (layout.counts == "record")
        if length < 0 or length > end - payload:
            left = end - payload
            raise RecordsError(f"the record {element_name(tag)} at {at} says {said:,} bytes, and {left:,} are left")
        if not any(tag):
            raise RecordsError(f"there is no record at {at}")
        stop = payload + length
        record = TaggedRecord(tag, at, payload, stop, min(stop + -length % layout.pad, end))
        skipped = layout.nested.get(tag.decode("latin-1"))
        if skipped is not None and skipped <= length:
            record.form, record.is_nested = self._content[payload : payload + skipped], True
            record.inner = self.records(payload + skipped, stop, depth + 1)
        return record


def rebuilt(content: bytes, records: list[TaggedRecord], layout: RecordsPart, payloads: Mapping[int, bytes]) -> bytes:
    """The file with new payloads, by the places where the old ones begin; lengths around them are made right.

    Raises `RecordsError` for a payload whose length cannot be told.
    """
    return _Writer(content, layout, payloads).written(records, 0, len(content))


class _Writer:
    def __init__(self, content: bytes, layout: RecordsPart, payloads: Mapping[int, bytes]) -> None:
        self._content = content
        self._layout = layout
        self._payloads = payloads
        self._places = sorted(payloads)

    def written(self, records: list[TaggedRecord], start: int, end: int) -> bytes:
        """A part of the file in which records are, with all that is between and after them."""
        parts, at = list[bytes](), start
        for record in records:
            parts += (self._content[at : record.start], self._record(record))
            at = record.next
        return b"".join([*parts, self._content[at:end]])

    def _record(self, record: TaggedRecord) -> bytes:
        first = bisect_left(self._places, record.payload)
        if first == len(self._places) or self._places[first] > record.end:
            return self._content[record.start : record.next]
        if record.is_nested:
            payload = self.written(record.inner, record.payload, record.end)
        else:
            payload = self._payloads[record.payload]
        layout = self._layout
        length = len(payload) + layout.header_bytes * (layout.counts == "record")
        try:
            said = length.to_bytes(layout.length_bytes, layout.byte_order)
        except OverflowError:
            raise RecordsError(f"the record {record.name} would have {length:,} bytes, more than it can say") from None
        padding = self._content[record.end : record.next] or b"\0"
        wanted = -len(payload) % layout.pad
        return record.tag + said + payload + (padding * wanted)[:wanted]


def compared(
    old: bytes, new: bytes, layout: RecordsPart, is_listed: Callable[[TaggedRecord, bytes], bool]
) -> tuple[int, int]:
    """How many records two files have, which must be the same but for listed payloads; and how many of these differ.

    ``is_listed`` is asked for each record of the old one whose payload differs. Raises `RecordsError`.
    """
    before, after = (_flat(content, read_records(content, layout)) for content in (old, new))
    records = listed = 0
    for one, other in zip(before, after, strict=True):
        records += 1
        if (one[0], one[1]) != (other[0], other[1]):
            raise RecordsError(f"something around the record {one[2].name} at {one[2].start} differs")
        if one[3:] != other[3:]:
            if one[3] == other[3] or not is_listed(one[2], other[3]):
                raise RecordsError(f"the payload of the record {one[2].name} at {one[2].start} differs")
            listed += 1
    return records, listed


def _flat(content: bytes, records: list[TaggedRecord]) -> Iterator[tuple[bytes, bytes, TaggedRecord, bytes, bytes]]:
    """Of each record its tag, what stands before it, itself, and unless that is records its payload with padding."""
    at = 0
    for record in (each for outermost in records for each in outermost.all()):
        before = content[at : record.start]
        if record.is_nested:
            yield record.tag, before, record, b"", b""
            at = record.payload
        else:
            yield record.tag, before, record, content[record.payload : record.end], content[record.end : record.next]
            at = record.next
    yield b"", content[at:], TaggedRecord(b"end", at, at, at, at), b"", b""
