"""How the records of a binary document are laid out: found by which lengths lead from tag to tag to its very end."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator
from itertools import product
from typing import get_args

from ..catalogs.tagged_records import RecordsError, TaggedRecord, read_records
from ..guides import RecordsPart
from ..guides.model import Length

_FEWEST = 3  # records, to be no accident
_TAGS = (4, 8)  # bytes; shorter ones, and lengths of one byte, are found anywhere
_LENGTHS = [each for each in get_args(Length) if each != "u8"]
_STARTS = (0, 4, 8, 12, 16, 20, 24, 32, 40, 48, 64)
_PADS = (1, 2, 4, 8)
_SKIPPED = (0, 4)  # before records in a record
_TAG = re.compile(rb"[A-Za-z_][A-Za-z0-9_.-]{2,}[ \0]*")
_MOST = 0.9

Layout = dict[str, object]


def records_of(content: bytes) -> str | Layout | None:
    """The layout of a document as a guide says it: a known form, or a table; None for what has none."""
    if content.startswith(b"FORM"):
        return "iff"
    return "riff" if content.startswith(b"RIFF") else next(_layouts(content), None)


def _layouts(content: bytes) -> Iterator[Layout]:
    counted = ("payload", "record")
    for start, tag, length, counts, pad in product(_STARTS, _TAGS, _LENGTHS, counted, _PADS):
        if not _TAG.fullmatch(content[start : start + tag]):
            continue
        told: Layout = {"tag": tag, "length": length, "counts": counts, "pad": pad, "start": start}
        found = _read(content, told)
        if found is not None and len(found) >= _FEWEST:
            nested = _nested(content, found, told)
            plain: Layout = {"tag": 4, "length": "u32-le", "counts": "payload", "pad": 1, "start": 0}
            said = {name: value for name, value in told.items() if value != plain[name]}
            yield {**said, "nested": nested} if nested else said or {"tag": tag}


def _read(content: bytes, layout: Layout) -> list[TaggedRecord] | None:
    """The records of a content that is nothing else; None where it is not."""
    try:
        found = read_records(content, RecordsPart.model_validate(layout))
    except RecordsError:
        return None
    is_whole = found[-1].next == len(content)
    return found if is_whole and all(_TAG.fullmatch(each.tag) for each in found) else None


def _nested(content: bytes, records: list[TaggedRecord], layout: Layout) -> dict[str, int]:
    """The tags whose payloads are records again, each with how many bytes come before these."""
    payloads: defaultdict[str, list[bytes]] = defaultdict(list)
    for each in records:
        payloads[each.tag.decode("latin-1")].append(content[each.payload : each.end])
    found: dict[str, int] = {}
    while payloads:
        tag, some = payloads.popitem()
        for skipped in _SKIPPED:
            inner = [(each[skipped:], _read(each[skipped:], layout | {"start": 0})) for each in some]
            if sum(each is not None for _, each in inner) < max(1, len(some) * _MOST):
                continue
            found[tag] = skipped
            for payload, deeper in inner:
                for each in deeper or ():
                    name = each.tag.decode("latin-1")
                    if name not in found:
                        payloads[name].append(payload[each.payload : each.end])
            break
    return dict(sorted(found.items()))
