"""What goes with splices in a file of tagged records: the lengths of the records around them, and their padding."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from ..guides import RecordsPart
from .spans import Span, Splice
from .tagged_records import RecordsError, TaggedRecord

_BYTES = "latin-1"


class _Ordered(NamedTuple):
    """A splice with what orders it among those at one place: what is deeper comes first, and padding last."""

    start: int
    end: int
    height: int
    is_padding: bool
    text: str


class Lengths:
    """The lengths in one file. Where several records end, `note` tells which takes one that is put in there."""

    def __init__(self, outermost: Sequence[TaggedRecord], layout: RecordsPart) -> None:
        self._outermost = outermost
        self._layout = layout
        self._takers: dict[int, list[TaggedRecord | None]] = {}

    def note(self, place: int, taker: TaggedRecord | None) -> None:
        """Remember what a record that is put in at a place would be in; None for the file itself."""
        known = self._takers.setdefault(place, [])
        if not any(each is taker for each in known):
            known.append(taker)

    def completed(self, splices: Sequence[Splice], within: Span) -> list[Splice]:
        """All that is written, in its order. Raises `RecordsError` where that cannot be told."""
        grown: dict[int, int] = {}
        around: dict[int, tuple[TaggedRecord, int]] = {}
        ordered = list[_Ordered]()
        for start, end, text in splices:
            chain = [each for each in self._chain(start, end) if within[0] <= each.start and each.next <= within[1]]
            ordered.append(_Ordered(start, end, -len(chain), False, text))  # noqa: FBT003
            for depth, each in enumerate(chain, start=1):
                grown[each.start] = grown.get(each.start, 0) + len(text) - (end - start)
                around[each.start] = each, depth
        for record, depth in sorted(around.values(), key=lambda each: -each[1]):
            ordered += self._of(record, depth, grown)
        return [Splice(each.start, each.end, each.text) for each in sorted(ordered, key=lambda each: each[:4])]

    def _of(self, record: TaggedRecord, depth: int, grown: dict[int, int]) -> Iterator[_Ordered]:
        """The new length of a record, and its padding, which makes what is around it longer or shorter."""
        layout = self._layout
        payload = record.end - record.payload + grown[record.start]
        said = payload + layout.header_bytes * (layout.counts == "record")
        try:
            length = said.to_bytes(layout.length_bytes, layout.byte_order).decode(_BYTES)
        except OverflowError:
            raise RecordsError(f"the record {record.name} would have {said:,} bytes, more than it can say") from None
        yield _Ordered(record.start + layout.tag, record.payload, -depth, False, length)  # noqa: FBT003
        old, new = record.next - record.end, -payload % layout.pad
        if old == new:
            return
        yield _Ordered(record.end, record.next, -depth, True, "\0" * new)  # noqa: FBT003
        for each in self._around(record.start, record.next):
            grown[each.start] = grown.get(each.start, 0) + new - old

    def _chain(self, start: int, end: int) -> list[TaggedRecord]:
        """The records in whose payload a splice is, the outermost first."""
        if start < end:
            return self._around(start, end)
        taker = self._taker(start)
        return [] if taker is None else [*self._around(taker.start, taker.next), taker]

    def _around(self, start: int, end: int) -> list[TaggedRecord]:
        """The records whose payload holds a part of the file."""
        chain, inner = list[TaggedRecord](), self._outermost
        while (number := bisect_right(inner, start, key=lambda each: each.start)) > 0:
            found = inner[number - 1]
            if not (found.payload <= start and end <= found.end):
                break
            chain.append(found)
            inner = found.inner
        return chain

    def _taker(self, place: int) -> TaggedRecord | None:
        known = self._takers.get(place, [])
        if len(known) != 1:
            raise RecordsError(f"several records end at {place}, and nothing tells into which a new one goes")
        return known[0]
