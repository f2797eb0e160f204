"""What a carried text holds outside of its records, and so does not come."""

from __future__ import annotations

import re
from collections.abc import Iterable

from ..catalogs import PlacedRecord, TextRecords
from ..guides import HoldingPart
from .text_work import TextWork, cell_of

_WORD = re.compile(r"\w+|[^\w\s,]")  # what is between records is no word
_SHOWN = 12


def left_outside(work: TextWork) -> tuple[str, ...]:
    """Where the carried text begins to differ outside of its records from the one there; empty if it does not."""
    there, carried = (_outside(each, work.sides.part) for each in (work.there, work.carried))
    if there == carried or not carried:
        return ()
    start = next((at for at, (one, other) in enumerate(zip(there, carried, strict=False)) if one != other), len(there))
    words = carried[max(0, start - 1) : start + _SHOWN]
    return (f"what is outside of its records, as {' '.join(words)}",) if start < len(carried) else ()


def _outside(document: TextRecords, part: HoldingPart) -> list[str]:
    """The words of the text without its records, the counters, and what is between records."""
    at, kept = 0, list[str]()
    for start, end in sorted(_spans(document, part)):
        if start > at:
            kept.append(document.file.text[at:start])
        at = max(at, end)
    return _WORD.findall(" ".join([*kept, document.file.text[at:]]))


def _spans(document: TextRecords, part: HoldingPart) -> Iterable[tuple[int, int]]:
    records: list[PlacedRecord] = []
    for entries in part.entries:
        records += document.entries(entries, "")
    for groups in part.groups:
        records += [] if groups.whole else document.groups(groups, "")
    for attached in part.attached:
        records += document.records_of(attached.each)
    yield from ((each.start, each.end) for each in records)
    for counter in part.counters:
        for record in document.records_of(counter.each):
            if cell := cell_of(record, counter.at):
                yield int(cell.row), int(cell.row) + cell.length
