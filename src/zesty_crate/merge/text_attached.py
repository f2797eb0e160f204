"""Records of a text that hang on its entries (titles, markers): they come with these, or are united."""

from __future__ import annotations

from typing import NamedTuple

from ..catalogs import PlacedRecord, Splice, TextRecords
from ..guides import AttachedPart
from .model import MergedTable
from .sides import Sides
from .text_work import Fresh, TextWork, cell_of, respliced
from .values import Record
from .values import Sides as ValueSides

Told = tuple[str, ...]


class Attached(NamedTuple):
    """A record, the key of its entry as it writes that, what is its own of the rest, and the rest."""

    record: PlacedRecord
    entry: str
    own: Told
    rest: str


def attached_records(document: TextRecords, part: AttachedPart) -> list[Attached]:
    """All of a part; the rest is the text without the key of its entry."""
    found = []
    for each in document.records_of(part.each):
        entry, key = cell_of(each, part.entry), each.record.text(part.entry)
        if key is None:
            continue
        own = tuple((each.record.text(name) or "").casefold() for name in part.key)
        without = [Splice(int(entry.row), int(entry.row) + entry.length, "")] if entry else []
        found.append(Attached(each, key, own, respliced(document, each, without).strip()))
    return found


def merge_attached(work: TextWork, part: AttachedPart) -> MergedTable:
    """Bring in what is new. What both have by the key of the part, and differently, is decided as a value is."""
    there, carried = attached_records(work.there, part), attached_records(work.carried, part)
    by_own = {(each.entry, *each.own): each for each in there}
    alike, by_key = {(each.entry, each.rest) for each in there}, work.own_keys()
    fresh, same = list[Fresh](), 0
    for each in carried:
        entry = by_key.get(each.entry)
        if entry is None:
            continue
        other = by_own.get((entry, *each.own)) if part.key else None
        if (entry, each.rest) in alike:
            same += 1
        elif other is not None:
            same += 1
            _decide(work, part, each, other)
        else:
            fresh.append(Fresh(each.record, _with_entry(work, part, each, entry)))
    beside = [each.record for each in there] or work.last_entries()
    work.put_in(part.each, None, beside, [each.record for each in carried], fresh)
    new = len(fresh)
    return MergedTable(part.each, "attached", len(carried), len(there), new, same, len(there) + new)


def _decide(work: TextWork, part: AttachedPart, carried: Attached, there: Attached) -> None:
    """Have what a person decides in place of the rest of a record."""
    sides = ValueSides(there.rest, carried.rest)
    name = ", ".join(carried.own) or part.each
    if work.values.takes_carried(Record(f"record of {there.entry}"), name, sides, is_work=True):
        text = _with_entry(work, part, carried, there.entry)
        old = work.there.file.text[there.record.start : there.record.end]
        ends = len(old) - len(old.rstrip("\r\n"))
        text = text.rstrip("\r\n") + old[len(old) - ends :] if ends else text
        work.splices.append(Splice(there.record.start, there.record.end, text))
    else:
        work.attached_stays.add((there.entry, carried.rest))


def _with_entry(work: TextWork, part: AttachedPart, each: Attached, entry: str) -> str:
    cell = cell_of(each.record, part.entry)
    if entry == each.entry or cell is None:
        return respliced(work.carried, each.record, [])
    return respliced(work.carried, each.record, [work.rewritten(cell, entry)])


def lost_attached(sides: Sides, work: TextWork, now: TextRecords) -> str:
    """What of the records that hang on entries is not in the merged text; empty when all is."""
    for part in sides.part.attached:
        there, carried, merged = (attached_records(each, part) for each in (work.there, work.carried, now))
        stand = {(each.entry, each.rest) for each in merged}
        by_key = work.own_keys()
        came = {(by_key[each.entry], each.rest) for each in carried if each.entry in by_key}
        lost = came - stand - work.attached_stays
        if lost:
            return f"{len(lost)} of the carried records of {part.each} are not in it"
        if len(
            {(each.entry, *(each.own or (each.rest,))) for each in there}
            - {(each.entry, *(each.own or (each.rest,))) for each in merged}
        ):
            return f"it has lost records of {part.each}"
    return ""
