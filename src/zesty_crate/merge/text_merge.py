"""Merge the records of one text into another: carried records are spliced in as they were written.

They come after the last record of their kind, with the keys of those that are taken given anew. Of what was there not
a byte changes, but for values that were decided.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from contextlib import closing
from dataclasses import dataclass, field
from itertools import pairwise
from pathlib import Path
from typing import NamedTuple

from ..catalogs import Catalog, CatalogError, Cell, PlacedRecord, RecordName, TextRecords, moment, text_records
from ..catalogs.quoting import QUOTINGS
from ..guides import EntriesPart, GroupsPart
from ..machines import Disk
from .model import KeyMap, MergedTable, MergeOptions, MergeReport
from .sides import Sides
from .text_keys import TextKeys, next_free, no_free_key, with_number_of
from .values import Record, Values
from .values import Sides as ValueSides
from .who import Pairs, light, pair, pairs_of_origin

ENTRIES = "entries"  # the one table of a text in what a merge keeps
_EXAMPLES = 8


class Splice(NamedTuple):
    """A new text in place of the characters from ``start`` to ``end``; it is put in where both are one."""

    start: int
    end: int
    text: str


@dataclass(slots=True)
class TextMerged:
    """What was done: the report, the keys, and every splice."""

    report: MergeReport
    keys: KeyMap
    splices: list[Splice]
    entries_before: int


@dataclass(slots=True)
class _Kind:
    """The records of one kind on both sides, and what came of them."""

    there: list[PlacedRecord]
    carried: list[PlacedRecord]
    new: int = 0
    same: int = 0
    maps: dict[str, str] = field(default_factory=dict)


def merge_text(sides: Sides, options: MergeOptions, disk: Disk, scratch: Path) -> TextMerged:
    """Merge. Raises `CatalogError` for what cannot be put into the text that is there."""
    return _TextMerge(sides, options, disk, scratch).run()


class _Fresh(NamedTuple):
    """A carried record that is new there, and its text for there."""

    record: PlacedRecord
    text: str


class _TextMerge:
    def __init__(self, sides: Sides, options: MergeOptions, disk: Disk, scratch: Path) -> None:
        self._sides = sides
        self._part = sides.part
        self._disk = disk
        self._values = Values(options)
        self._splices: list[Splice] = []
        self._keys = KeyMap()
        self._were: dict[str, dict[str, PlacedRecord]] = {"carried": {}, "left": {}}
        self._there = text_records(sides.there, sides.part, sides.at, disk)
        self._carried = text_records(sides.carried, sides.part, sides.at, disk)
        self._require_one_head()
        self._pairs = self._paired(scratch)
        self._names: dict[str, set[str]] = {}
        self._groups_new: list[str] = []
        self._groups_grown: list[str] = []

    def _require_one_head(self) -> None:
        """Rows with other columns cannot stand below the head that is there."""
        heads = [each.file.text.partition("\n")[0].strip() for each in (self._there, self._carried)]
        if self._part.syntax == "delimited" and heads[0] != heads[1]:
            raise CatalogError(
                f"The catalogs have other columns: {heads[0]} there, and {heads[1]} carried.",
                next_step="Have both programs at one version, or choose keep or both.",
            )

    def run(self) -> TextMerged:
        """Everything, written into the target."""
        tables = [self._merge_entries(number, part) for number, part in enumerate(self._part.entries, start=1)]
        for number, groups in enumerate(self._part.groups, start=1):
            if not groups.whole:
                tables.append(self._merge_groups(number, groups))
        self._disk.write_bytes(self._sides.target, self._there.file.encoded(self._spliced()))
        return TextMerged(self._report(tables), self._keys, self._splices, self._pairs.there)

    def _paired(self, scratch: Path) -> Pairs:
        """Which entries are one; where documents know no keys, as many of a file as both have."""
        syntax, part = self._there.syntax, light(self._part)
        has_keys = all(each.key or self._all_are_known(each) for each in self._part.entries)
        with (
            closing(syntax.open(self._sides.carried, part, self._sides.at, self._disk, scratch)) as carried,
            closing(syntax.open(self._sides.there, part, self._sides.at, self._disk, scratch)) as there,
        ):
            by_origin = self._by_origin(carried, there) if has_keys else {}
            return pair(carried, there, self._sides.computer, by_origin, in_order=not has_keys)

    def _all_are_known(self, part: EntriesPart) -> bool:
        """Whether every record is known by itself, without a key that the guide names."""
        return all(each.record.known_as for side in (self._there, self._carried) for each in side.entries(part, ""))

    def _by_origin(self, carried: Catalog, there: Catalog) -> dict[str, str]:
        """Keys of entries that were one at the origin, and still show it."""
        origin, syntax, part = self._sides.origin, self._there.syntax, light(self._part)
        if origin is None:
            return {}
        keys = None
        if origin.rows is not None:
            keys = {str(old): str(new) for (old,), (new,) in origin.rows.get(ENTRIES, {}).items()}
        with (
            closing(syntax.open(origin.carried, part, self._sides.at, self._disk, Path())) as before,
            closing(syntax.open(origin.left, part, self._sides.at, self._disk, Path())) as left,
        ):
            found = pairs_of_origin(before, left, carried, there, self._sides.computer, keys)
        for name, path, wanted in (
            ("carried", origin.carried, set(found)),
            ("left", origin.left, set(found.values())),
        ):
            records = text_records(path, self._part, self._sides.at, self._disk)
            self._were[name] = {each.key: each for each in self._all_of(records) if each.key in wanted}
        return found

    def _all_of(self, records: TextRecords) -> Iterator[PlacedRecord]:
        for number, part in enumerate(self._part.entries, start=1):
            yield from records.entries(part, f"{number}:" if len(self._part.entries) > 1 else "")

    def _spliced(self) -> str:
        text, at, parts = self._there.file.text, 0, list[str]()
        for start, end, new in sorted(self._splices, key=lambda each: each[:2]):
            parts += text[at:start], new
            at = end
        return "".join([*parts, text[at:]])

    # -- entries --------------------------------------------------------------------------------------------------

    def _merge_entries(self, number: int, part: EntriesPart) -> MergedTable:
        prefix = f"{number}:" if len(self._part.entries) > 1 else ""
        kind = _Kind(self._there.entries(part, prefix), self._carried.entries(part, prefix))
        keys = TextKeys(prefix, {each.key for each in kind.there} | set(self._pairs.one.values()))
        by_key, fresh = {each.key: each for each in kind.there}, list[_Fresh]()
        chosen = None if self._sides.scope is None else set(self._sides.scope[0])
        for record in kind.carried:
            if chosen is not None and record.key not in chosen:
                continue
            other = self._pairs.one.get(record.key)
            if other is not None and other in by_key:
                kind.same += 1
                self._keys.entries[record.key] = other
                self._compare(part, record, by_key[other])
                continue
            kind.new += 1
            key, text = self._with_free_key(part, record, keys)
            self._keys.entries[record.key] = key
            self._keys.new.add(record.key)
            fresh.append(_Fresh(record, text))
        self._put_each_in(part, kind, fresh)
        before = len(kind.there)
        return MergedTable(
            part.each or "rows", "entries", len(kind.carried), before, kind.new, kind.same, before + kind.new
        )

    def _with_free_key(self, part: EntriesPart, record: PlacedRecord, keys: TextKeys) -> tuple[str, str]:
        """The key that a new record gets, and its text with it."""
        splices, key = list[Splice](), record.key
        name, cell = self._carried.records.name_of(record.record), _cell_of(record, part.key)
        if not (part.key or record.record.known_as):  # known by its place alone, which comes after all that are there
            key = keys.next_number()
        elif key in keys:
            key = keys.free(record)
            if cell is not None:
                splices.append(self._rewritten(cell, keys.own(key)))
            elif name is None or not keys.own(record.key).endswith(name.known_as):
                raise no_free_key(record, keys.own(record.key))
        keys.take(key)
        if name is not None:
            splices += self._with_free_name(record, name, keys, key)
        return key, _respliced(self._carried.file.text, record, splices)

    def _rewritten(self, cell: Cell, text: str) -> Splice:
        """Another text in a cell of the carried document."""
        start, end = int(cell.row), int(cell.row) + cell.length
        return Splice(start, end, QUOTINGS[cell.column].rewrite(self._carried.file.text[start:end], text))

    def _with_free_name(self, record: PlacedRecord, name: RecordName, keys: TextKeys, key: str) -> list[Splice]:
        """What gives a record a name that no other at its place has: that of its key, where the two are one."""
        place = self._carried.records.container_of(record.record)
        taken, text = self._names.setdefault(place, set(self._there.records.names_at(place))), name.text
        old, new = keys.own(record.key), keys.own(key)
        if old != new and old.endswith(name.known_as):
            text = with_number_of(name.text, new)
        elif name.known_as in taken:
            text = next_free(name.text, taken, record)
        taken.add(text if text != name.text else name.known_as)
        cell = Cell("", name.quoting, name.start, name.end - name.start)
        return [] if text == name.text else [self._rewritten(cell, text)]

    def _put_each_in(self, part: EntriesPart, kind: _Kind, fresh: Sequence[_Fresh]) -> None:
        """Put new records to those of their kind that are at the same place as they were in their own document."""
        there, carried = _by_place(self._there, kind.there), _by_place(self._carried, kind.carried)
        if (
            max(len(there), len(carried)) > 1
            and not part.key
            and not all(each.record.record.known_as for each in fresh)
        ):
            raise CatalogError(
                f"Its records ({part.each}) are at several places of it, and nothing but their order tells them apart.",
                next_step="Name their key in the guide, or choose bring-in or both for this catalog.",
            )
        for place, some in _by_place(self._carried, [each.record for each in fresh]).items():
            wanted = {each.key for each in some}
            beside = there.get(place, [])
            if not beside and len(there) == len(carried) == 1 and not self._there.has_place(some[0], place):
                (beside,) = there.values()
            self._put_in(part.each, None, beside, carried[place], [each for each in fresh if each.record.key in wanted])

    def _put_in(
        self,
        each: str,
        within: PlacedRecord | None,
        records: Sequence[PlacedRecord],
        others: Sequence[PlacedRecord],
        fresh: Sequence[_Fresh],
    ) -> None:
        """Put records after the last of their kind, with what is between two of them."""
        if not fresh:
            return
        container = self._carried.records.container_of(fresh[0].record.record)
        room = self._there.room_for(each, within, fresh[0].record, container, records)
        own = self._there.between(records)
        glue = own if own is not None else self._carried.between(others)
        if glue is None:
            glue = self._there.records.glue("\n")
        put = ""
        for one in fresh:
            before = put or room.before or self._there.file.text[: room.start][-1:]
            put += self._there.joined(glue if records or put else "", one.text, before)
        self._splices.append(Splice(room.start, room.end, f"{room.before}{put}{room.after}"))

    # -- values ---------------------------------------------------------------------------------------------------

    def _compare(self, part: EntriesPart, carried: PlacedRecord, there: PlacedRecord) -> None:
        record = Record(carried.recorded, self._changed(part, there), self._changed(part, carried))
        for name in part.annotations:
            came, here = carried.record.value(name), there.record.value(name)
            sides = self._sides_of(name, carried.key, there.key, here.text if here else None, came and came.text)
            takes = self._values.takes_carried(record, name, sides, is_work=True)
            if takes and came is not None:
                self._take(name, came.text, there, carried)
            elif came is not None and came.text and (here is None or here.text != came.text):
                self._keys.stays.add((carried.key, name))

    def _sides_of(self, name: str, carried: str, there: str, here: str | None, came: str | None) -> ValueSides:
        """A value on all sides."""
        before, left = self._were["carried"].get(carried), self._were["left"].get(there)
        if before is None or left is None or self._sides.origin is None:
            return ValueSides(here, came)
        was = left.record.text(name), before.record.text(name)
        return ValueSides(here, came, True, *was, self._sides.origin.is_back)  # noqa: FBT003  they are known

    def _take(self, name: str, text: str, there: PlacedRecord, carried: PlacedRecord) -> None:
        here = there.record.value(name)
        if here is not None and here.cell is not None:
            start, length = int(here.cell.row), here.cell.length
            raw = self._there.file.text[start : start + length]
            self._splices.append(Splice(start, start + length, QUOTINGS[here.cell.column].rewrite(raw, text)))
            return
        added = self._there.added(name, there, self._carried, carried)
        if added is None:
            raise CatalogError(
                f"{name} of {there.recorded} has no place in the document there, so the carried one cannot be written.",
                next_step="Choose --values keep, or decide about this value with --decisions FILE.csv.",
            )
        self._splices.append(Splice(added[0], added[0], added[1]))

    def _changed(self, part: EntriesPart, record: PlacedRecord) -> int | None:
        return moment(record.record.text(part.changed.at), part.changed.form) if part.changed else None

    # -- groups ---------------------------------------------------------------------------------------------------

    def _merge_groups(self, number: int, part: GroupsPart) -> MergedTable:
        """Groups of one name, and in groups of one name, are one; others come whole, with their members' keys."""
        prefix = f"{number}:" if len(self._part.groups) > 1 else ""
        kind = _Kind(self._there.groups(part, prefix), self._carried.groups(part, prefix))
        names = [{each.key: each for each in records} for records in (kind.there, kind.carried)]
        there = {_chain(each, names[0]): each for each in kind.there}
        fresh, keys = dict[str, list[_Fresh]](), TextKeys(prefix, {each.key for each in kind.there})
        chosen, done = None if self._sides.scope is None else set(self._sides.scope[1]), set[str]()
        for group in kind.carried:
            if group.key in done or (chosen is not None and group.key not in chosen):
                continue
            other = there.get(_chain(group, names[1]))
            if other is not None:
                kind.same += 1
                self._keys.groups[group.key] = other.key
                self._grow(part, group, other)
                continue
            whole = [group, *(each for each in kind.carried if group.start < each.start and each.end <= group.end)]
            kind.new += len(whole)
            done |= {each.key for each in whole}
            text = self._new_groups(part, whole, keys)
            self._groups_new.append(group.recorded)
            fresh.setdefault(self._keys.groups.get(group.parent, ""), []).append(_Fresh(group, text))
        for parent, groups in fresh.items():
            self._put_in(part.each, None, _siblings(kind.there, parent), kind.carried[:1], groups)
        before = len(kind.there)
        return MergedTable(part.each, "groups", len(kind.carried), before, kind.new, kind.same, before + kind.new)

    def _grow(self, part: GroupsPart, group: PlacedRecord, there: PlacedRecord) -> None:
        """Bring members into a group that both have, after those that are there."""
        mine, theirs = self._carried.members(part, group), self._there.members(part, there)
        left, fresh = Counter(each.key for each in theirs), list[_Fresh]()
        for member in mine:
            key = self._member_key(member.key)
            if key is None:
                continue
            if left[key] > 0:
                left[key] -= 1
                continue
            fresh.append(_Fresh(member, self._with_member_key(part, member, key)))
        if fresh:
            self._groups_grown.append(group.recorded)
            self._put_in(part.members.each if part.members else "", there, theirs, mine, fresh)

    def _member_key(self, key: str) -> str | None:
        """The key there of an entry that a carried member names, as members write it."""
        several = len(self._part.entries) > 1
        found = next((k for k in self._keys.entries if (k.partition(":")[2] if several else k) == key), None)
        if found is None:
            return None
        new = self._keys.entries[found]
        return new.partition(":")[2] if several else new

    def _new_groups(self, part: GroupsPart, groups: Sequence[PlacedRecord], keys: TextKeys) -> str:
        """A carried group with those inside, and the keys that they and their entries have there."""
        splices: list[Splice] = []
        for group in groups:
            splices += self._own_key(part, group, keys)
            for member in self._carried.members(part, group):
                key = self._member_key(member.key)
                if key is None:
                    splices.append(Splice(member.start, member.end, ""))
                elif key != member.key and (cell := _cell_of(member, part.members.entry if part.members else "")):
                    splices.append(self._rewritten(cell, key))
        return _respliced(self._carried.file.text, groups[0], splices)

    def _own_key(self, part: GroupsPart, group: PlacedRecord, keys: TextKeys) -> list[Splice]:
        """What gives a new group its own key, and that of the group around it."""
        key, splices = group.key, list[Splice]()
        if not part.key:
            key = keys.next_number()
        elif key in keys:
            key, cell = keys.free(group), _cell_of(group, part.key)
            if cell is None:
                raise CatalogError(f"The key of the carried group {group.recorded} is taken, and no new one fits.")
            splices.append(self._rewritten(cell, keys.own(key)))
        keys.take(key)
        self._keys.groups[group.key] = key
        above = self._keys.groups.get(group.parent)
        cell = _cell_of(group, part.parent) if part.parent and above not in (None, group.parent) else None
        if cell is not None and above is not None and group.start <= int(cell.row) < group.end:
            splices.append(self._rewritten(cell, keys.own(above)))
        return splices

    def _with_member_key(self, part: GroupsPart, member: PlacedRecord, key: str) -> str:
        cell = _cell_of(member, part.members.entry if part.members else "")
        changed = key != member.key and cell is not None
        return _respliced(self._carried.file.text, member, [self._rewritten(cell, key)] if changed and cell else [])

    # -- the report -----------------------------------------------------------------------------------------------

    def _report(self, tables: Iterable[MergedTable]) -> MergeReport:
        told, values = tuple(tables), self._values
        entries = [each for each in told if each.role == "entries"]
        fresh = [each.recorded for each in self._pairs.carried if each.key in self._keys.new]
        return MergeReport(
            tables=told,
            new=sum(each.new for each in entries),
            same=sum(each.same for each in entries),
            only_there=values.only_there,
            only_carried=values.only_carried,
            facts=values.facts,
            conflicts=tuple(values.conflicts),
            groups_new=tuple(self._groups_new),
            groups_grown=tuple(self._groups_grown),
            examples=tuple(fresh[:_EXAMPLES]),
            unsure=self._pairs.unsure,
            three_sides=self._sides.origin is not None,
        )


def _cell_of(record: PlacedRecord, selector: str | None) -> Cell | None:
    found = record.record.value(selector) if selector else None
    return None if found is None else found.cell


def _respliced(text: str, record: PlacedRecord, splices: Iterable[Splice]) -> str:
    """The text of a record with splices in it."""
    at, parts = record.start, list[str]()
    for start, end, new in sorted(splices):
        parts += text[at:start], new
        at = end
    return "".join([*parts, text[at : record.end]])


def _by_place(document: TextRecords, records: Iterable[PlacedRecord]) -> dict[str, list[PlacedRecord]]:
    """Records by the place of their document that they are at."""
    found: dict[str, list[PlacedRecord]] = {}
    for each in records:
        found.setdefault(document.records.container_of(each.record), []).append(each)
    return found


def _siblings(groups: Sequence[PlacedRecord], parent: str) -> list[PlacedRecord]:
    """The groups after which a new one goes: those around which the same group is, if any group is inside another."""
    is_nested = any(one.start < other.start < one.end for one, other in pairwise(groups))
    return [each for each in groups if each.parent == parent] if is_nested else list(groups)


def _chain(group: PlacedRecord, groups: dict[str, PlacedRecord]) -> tuple[str, ...]:
    """The names of a group and of those around it."""
    names, seen = [group.recorded], {group.key}
    while group.parent in groups and group.parent not in seen:
        group = groups[group.parent]
        seen.add(group.key)
        names.append(group.recorded)
    return tuple(names)
