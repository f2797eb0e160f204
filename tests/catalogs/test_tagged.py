"""Tagged records of any layout: read as they were drawn, rewritten as if drawn with the new payload, never trusted."""

from __future__ import annotations

from typing import Any, Literal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zesty_crate.catalogs.tagged_records import RecordsError, TaggedRecord, compared, read_records, rebuilt
from zesty_crate.guides import RecordsPart

Drawn = tuple[bytes, Any]  # a tag, and a payload or records
_LEAVES = st.tuples(st.sampled_from([b"data", b"path", b"x\0\0\1"]), st.binary(max_size=9))
_TREES = st.recursive(
    _LEAVES, lambda inner: st.tuples(st.sampled_from([b"LIST", b"PACK"]), st.lists(inner, max_size=4)), max_leaves=12
)
_LAYOUTS = st.builds(
    lambda length, counts, pad, start: RecordsPart.model_validate(
        {"length": length, "counts": counts, "pad": pad, "start": start, "nested": {"LIST": 0, "PACK": 3}}
    ),
    st.sampled_from(["u16-le", "u32-be", "u64-le"]),
    st.sampled_from(["payload", "record"]),
    st.sampled_from([1, 2, 4]),
    st.integers(0, 3),
)


def built(records: list[Drawn], layout: RecordsPart) -> bytes:
    """The bytes of records, by a few lines of another hand."""
    made = b""
    size = {"u8": 1, "u16-le": 2, "u32-be": 4, "u64-le": 8}[layout.length]
    byte_order: Literal["little", "big"] = "big" if layout.length == "u32-be" else "little"
    for tag, content in records:
        payload = content if isinstance(content, bytes) else b"abc"[: 3 * (tag == b"PACK")] + built(content, layout)
        length = len(payload) + (4 + size if layout.counts == "record" else 0)
        made += tag + length.to_bytes(size, byte_order) + payload + b"\0" * (-len(payload) % layout.pad)
    return made


def as_drawn(records: list[TaggedRecord], content: bytes) -> list[Drawn]:
    return [
        (each.tag, as_drawn(each.inner, content) if each.is_nested else content[each.payload : each.end])
        for each in records
    ]


def with_first_leaf(records: list[Drawn], new: bytes) -> list[Drawn]:
    """The same records, the first payload in them another one."""
    for number, (tag, content) in enumerate(records):
        if isinstance(content, bytes):
            return [*records[:number], (tag, new), *records[number + 1 :]]
        if (changed := with_first_leaf(content, new)) != content:
            return [*records[:number], (tag, changed), *records[number + 1 :]]
    return records


@given(st.lists(_TREES, min_size=1, max_size=4), _LAYOUTS, st.binary(min_size=10, max_size=30))
def test_records_are_read_and_lengths_around_a_new_payload_are_made_right(
    drawn: list[Drawn], layout: RecordsPart, new: bytes
) -> None:
    content = b"\xee" * layout.start + built(drawn, layout)
    records = read_records(content, layout)
    assert as_drawn(records, content) == drawn
    leaf = next((each for outer in records for each in outer.all() if not each.is_nested), None)
    if leaf is None:
        return
    written = rebuilt(content, records, layout, {leaf.payload: new})
    assert written == b"\xee" * layout.start + built(with_first_leaf(drawn, new), layout)
    assert (
        compared(content, written, layout, lambda record, payload: (record.start, payload) == (leaf.start, new))[1] == 1
    )
    with pytest.raises(RecordsError):
        compared(content, written, layout, lambda *_: False)


@given(st.binary(max_size=200), _LAYOUTS)
def test_no_length_is_trusted(content: bytes, layout: RecordsPart) -> None:
    try:
        records = read_records(content, layout)
    except RecordsError:
        return
    for each in (inner for outer in records for inner in outer.all()):
        assert layout.start <= each.start < each.payload <= each.end <= each.next <= len(content)


def test_what_is_nested_without_end_is_refused() -> None:
    layout = RecordsPart.model_validate({"form": "riff"})
    content = b""
    for _ in range(100):
        content = b"LIST" + (len(content) + 4).to_bytes(4, "little") + b"deep" + content
    with pytest.raises(RecordsError, match="deep"):
        read_records(content, layout)


def test_a_payload_that_a_length_cannot_tell_is_refused() -> None:
    layout = RecordsPart.model_validate({"length": "u8"})
    content = b"path\x01a"
    with pytest.raises(RecordsError, match="more than it can say"):
        rebuilt(content, read_records(content, layout), layout, {5: b"a" * 300})
