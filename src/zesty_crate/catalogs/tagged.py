"""The syntax ``tagged``: binary records, selected by XPath 1.0 as if each were an element whose text is its payload."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import cached_property
from pathlib import Path
from typing import Any

from lxml import etree

from ..guides import HoldingPart, RecordsPart
from ..machines import Disk
from .bytes_quoting import bytes_quoting
from .changes import ChangeList
from .model import CatalogError, Cell, Found, Proof
from .quoting import QUOTINGS
from .records import Record
from .spans import Room, Span, Splice
from .tagged_lengths import Lengths
from .tagged_records import RecordsError, TaggedRecord, compared, read_records, rebuilt
from .text_file import BYTES, TextFile, read_bytes_as_text, read_whole
from .text_syntax import TextSyntax
from .xml_tree import Element, XmlDocument

_LONGEST_TEXT = 4096  # bytes of a payload that XPath itself may look at


class TaggedDocument(XmlDocument):
    """Records as elements. ``@form`` is what stands before the records in one; it is not written."""

    _kind = "tagged records"

    def _read(self, part: HoldingPart) -> Any:
        content, self._layout = self._text.encode(BYTES), _layout(part)
        self._encoding = part.encoding[0] if part.encoding else "utf-8"
        self._payloads: dict[int, TaggedRecord] = {}
        self._held: list[Any] = []  # so that each keeps its one identity while it is looked up
        try:
            self._outermost = read_records(content, self._layout)
        except RecordsError as why:
            raise self._bad(str(why)) from why
        root = etree.Element("file")
        for each in self._outermost:
            self._add(root, each)
        return root

    def _add(self, outer: Any, record: TaggedRecord) -> None:
        made = etree.SubElement(outer, record.name)
        if record.form:
            made.set("form", _printable(record.form))
        elif not record.is_nested and record.end - record.payload <= _LONGEST_TEXT:
            made.text = _printable(self._text[record.payload : record.end].encode(BYTES), self._encoding)
        self._payloads[id(made)] = record
        self._held.append(made)
        for each in record.inner:
            self._add(made, each)

    def attribute(self, element: Any, name: str, value: str) -> Found:  # noqa: ARG002
        """What a record is of."""
        return Found(value, None)

    def _text_of(self, element: Any) -> Found | None:
        """The payload of a record as a text."""
        record = self._payloads.get(id(element))
        if record is None or record.is_nested:
            return None
        raw = self._text[record.payload : record.end]
        quoting = bytes_quoting(self._encoding)
        text = QUOTINGS[quoting].decode(raw)
        is_text = bool(text) and QUOTINGS[quoting].rewrite(raw, text) == raw
        return Found(text, Cell("", quoting, record.payload, len(raw)) if is_text else None) if text else None

    @cached_property
    def _places(self) -> dict[int, int]:
        return {each: record.start for each, record in self._payloads.items()}

    @cached_property
    def _ends(self) -> dict[int, int]:
        return {record.start: record.next for record in self._payloads.values()}

    def span_of(self, record: Record) -> tuple[int, int]:
        """A record with what is in it, and its padding."""
        start, end = super().span_of(record)
        self._lengths.note(end, self._above(record.element) if isinstance(record, Element) else None)
        return start, end

    def _above(self, element: Any) -> TaggedRecord | None:
        return self._payloads.get(id(element.getparent()))

    @cached_property
    def _lengths(self) -> Lengths:
        return Lengths(self._outermost, self._layout)

    def completed(self, splices: Sequence[Splice], within: Span) -> list[Splice]:
        """Splices in their order, with the lengths and the padding of the records around them."""
        try:
            return self._lengths.completed(splices, within)
        except RecordsError as why:
            raise CatalogError(f"It cannot be merged: {why}.", next_step="Choose keep, bring-in or both.") from why

    def glue(self, between: str) -> str:  # noqa: ARG002
        """Nothing stands between records."""
        return ""

    def added(self, name: str, path: Span, written: str) -> tuple[int, str] | None:  # noqa: ARG002
        """No record is made anew."""
        return None

    def container_of(self, record: Record) -> str:
        """The names of the records around one, with what they say they are of."""
        return self._start_tags(record.element.getparent()) if isinstance(record, Element) else ""

    def _start_tags(self, element: Any) -> str:
        around = [element, *element.iterancestors()]
        return "/".join(f"{each.tag} {each.get('form', '')}" for each in reversed(around))

    def _before_end(self, place: int) -> Room | None:
        record = next((each for each in self._payloads.values() if each.start == place), None)
        if record is None or not record.is_nested:
            return None
        self._lengths.note(record.end, record)
        return Room(record.end, record.end)

    def values(self) -> Iterator[str]:
        """Nothing that the proof needs: it compares records."""
        return iter(())


class TaggedSyntax(TextSyntax):
    """Files of tagged records."""

    def __init__(self) -> None:
        super().__init__(TaggedDocument)

    def _file(self, path: Path, part: HoldingPart, disk: Disk) -> TextFile:  # noqa: ARG002
        return read_bytes_as_text(path, disk)

    def rewrite(self, original: Path, target: Path, part: HoldingPart, changes: ChangeList, disk: Disk) -> None:
        """Write a copy with new payloads, and the lengths around them."""
        content, layout = read_whole(original, disk), _layout(part)
        try:
            new = rebuilt(content, read_records(content, layout), layout, dict(_payloads(content, changes)))
        except RecordsError as why:
            raise CatalogError(
                f"A new path cannot be written: {why}.", next_step="The catalog was not changed."
            ) from why
        disk.write_bytes(target, new)

    def prove(self, original: Path, rewritten: Path, part: HoldingPart, changes: ChangeList, disk: Disk) -> Proof:
        """The same records in the same order, but for the listed payloads, which hold what is listed."""
        old, new, layout = read_whole(original, disk), read_whole(rewritten, disk), _layout(part)
        listed = dict(_payloads(old, changes))

        def is_listed(record: TaggedRecord, payload: bytes) -> bool:
            return listed.pop(record.payload, None) == payload

        try:
            records, cells = compared(old, new, layout, is_listed)
        except (RecordsError, ValueError) as why:
            raise CatalogError(
                f"The rewritten catalog differs from the original in more than its paths: {why}. It was discarded.",
                next_step="The catalog was not changed. Please report this fault to the makers of Zesty Crate.",
            ) from why
        if listed:
            raise CatalogError("A listed path was not written.", next_step="Run the command again.")
        return Proof(1, records, cells)


def _payloads(content: bytes, changes: ChangeList) -> Iterator[tuple[int, bytes]]:
    """The new payloads of a change list, by where the old ones begin. Raises `CatalogError` for one that is gone."""
    for start, length, name, old, new in changes.spans():
        quoting, raw = QUOTINGS[name], content[start : start + length].decode(BYTES)
        if quoting.decode(raw) != old:
            raise CatalogError(
                f"The catalog no longer holds the text {old!r} where it was read.",
                next_step="The catalog changed while it was rewritten. Run the command again.",
            )
        yield start, quoting.rewrite(raw, new).encode(BYTES)


def _layout(part: HoldingPart) -> RecordsPart:
    if part.records is None:
        raise CatalogError("The guide does not say how its records are laid out.", next_step='Add "records" to it.')
    return part.records


def _printable(content: bytes, encoding: str = BYTES) -> str:
    """A text that a tree can hold, which is empty where bytes are none."""
    text = content.decode(encoding, "replace").rstrip("\0 ")
    return text if text.isprintable() else ""
