"""Bring the entries of one text into another, and compare the values of those that both have."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ..catalogs import CatalogError, Cell, PlacedRecord, RecordName, Splice, moment
from ..guides import EntriesPart
from .model import MergedTable
from .text_keys import TextKeys, next_free, no_free_key, with_number_of
from .text_work import Fresh, Kind, TextWork, by_place, cell_of, respliced
from .values import Record
from .values import Sides as ValueSides
from .who import Pairs

Were = Mapping[str, PlacedRecord]  # records at a common origin, by their keys


class EntriesMerge:
    """The entries of both; ``before`` and ``left`` are those of the carried and of the other one at their origin."""

    def __init__(self, work: TextWork, pairs: Pairs, before: Were, left: Were) -> None:
        self._work = work
        self._pairs = pairs
        self._before = before
        self._left = left
        self._names: dict[str, set[str]] = {}

    def merge(self, part: EntriesPart, prefix: str) -> MergedTable:
        """Bring in what is new, and take over what counts of what both have."""
        kind = Kind(self._work.there.entries(part, prefix), self._work.carried.entries(part, prefix))
        keys = TextKeys(prefix, {each.key for each in kind.there} | set(self._pairs.one.values()))
        by_key, fresh = {each.key: each for each in kind.there}, list[Fresh]()
        chosen = None if self._work.sides.scope is None else set(self._work.sides.scope[0])
        for record in kind.carried:
            if chosen is not None and record.key not in chosen:
                continue
            other = self._pairs.one.get(record.key)
            if other is not None and other in by_key:
                kind.same += 1
                self._work.keys.entries[record.key] = other
                self._compare(part, record, by_key[other])
                continue
            kind.new += 1
            key, text = self._with_free_key(part, record, keys)
            self._work.keys.entries[record.key] = key
            self._work.keys.new.add(record.key)
            fresh.append(Fresh(record, text))
        self._put_each_in(part, kind, fresh)
        before = len(kind.there)
        return MergedTable(
            part.each or "rows", "entries", len(kind.carried), before, kind.new, kind.same, before + kind.new
        )

    def _with_free_key(self, part: EntriesPart, record: PlacedRecord, keys: TextKeys) -> tuple[str, str]:
        """The key that a new record gets, and its text with it."""
        splices, key = list[Splice](), record.key
        name, cell = self._work.carried.records.name_of(record.record), cell_of(record, part.key)
        if not (part.key or record.record.known_as):  # known by its place alone, which comes after all that are there
            key = keys.next_number()
        elif key in keys:
            key = keys.free(record)
            if cell is not None:
                splices.append(self._work.rewritten(cell, keys.own(key)))
            elif name is None or not keys.own(record.key).endswith(name.known_as):
                raise no_free_key(record, keys.own(record.key))
        keys.take(key)
        if name is not None:
            splices += self._with_free_name(record, name, keys, key)
        return key, respliced(self._work.carried, record, splices)

    def _with_free_name(self, record: PlacedRecord, name: RecordName, keys: TextKeys, key: str) -> list[Splice]:
        """What gives a record a name that no other at its place has: that of its key, where the two are one."""
        place = self._work.carried.records.container_of(record.record)
        taken, text = self._names.setdefault(place, set(self._work.there.records.names_at(place))), name.text
        old, new = keys.own(record.key), keys.own(key)
        if old != new and old.endswith(name.known_as):
            text = with_number_of(name.text, new)
        elif name.known_as in taken:
            text = next_free(name.text, taken, record)
        taken.add(text if text != name.text else name.known_as)
        cell = Cell("", name.quoting, name.start, name.end - name.start)
        return [] if text == name.text else [self._work.rewritten(cell, text)]

    def _put_each_in(self, part: EntriesPart, kind: Kind, fresh: Sequence[Fresh]) -> None:
        """Put new records to those of their kind that are at the same place as they were in their own document."""
        there, carried = by_place(self._work.there, kind.there), by_place(self._work.carried, kind.carried)
        if (
            max(len(there), len(carried)) > 1
            and not part.key
            and not all(each.record.record.known_as for each in fresh)
        ):
            raise CatalogError(
                f"Its records ({part.each}) are at several places of it, and nothing but their order tells them apart.",
                next_step="Name their key in the guide, or choose bring-in or both for this catalog.",
            )
        for place, some in by_place(self._work.carried, [each.record for each in fresh]).items():
            wanted = {each.key for each in some}
            beside = there.get(place, [])
            if not beside and len(there) == len(carried) == 1 and not self._work.there.has_place(some[0], place):
                (beside,) = there.values()
            self._work.put_in(
                part.each, None, beside, carried[place], [each for each in fresh if each.record.key in wanted]
            )

    def _compare(self, part: EntriesPart, carried: PlacedRecord, there: PlacedRecord) -> None:
        record = Record(carried.recorded, self._changed(part, there), self._changed(part, carried))
        for name in part.annotations:
            came, here = carried.record.value(name), there.record.value(name)
            sides = self._sides_of(name, carried.key, there.key, here.text if here else None, came and came.text)
            takes = self._work.values.takes_carried(record, name, sides, is_work=True)
            if takes and came is not None:
                self._take(name, came.text, there, carried)
            elif came is not None and came.text and (here is None or here.text != came.text):
                self._work.keys.stays.add((carried.key, name))

    def _sides_of(self, name: str, carried: str, there: str, here: str | None, came: str | None) -> ValueSides:
        """A value on all sides."""
        before, left = self._before.get(carried), self._left.get(there)
        if before is None or left is None or self._work.sides.origin is None:
            return ValueSides(here, came)
        was = left.record.text(name), before.record.text(name)
        return ValueSides(here, came, True, *was, self._work.sides.origin.is_back)  # noqa: FBT003  they are known

    def _take(self, name: str, text: str, there: PlacedRecord, carried: PlacedRecord) -> None:
        here = there.record.value(name)
        if here is not None and here.cell is not None:
            self._work.write(here.cell, text)
            return
        added = self._work.there.added(name, there, self._work.carried, carried)
        if added is None:
            raise CatalogError(
                f"{name} of {there.recorded} has no place in the document there, so the carried one cannot be written.",
                next_step="Choose --values keep, or decide about this value with --decisions FILE.csv.",
            )
        self._work.splices.append(Splice(added[0], added[0], added[1]))

    def _changed(self, part: EntriesPart, record: PlacedRecord) -> int | None:
        return moment(record.record.text(part.changed.at), part.changed.form) if part.changed else None
