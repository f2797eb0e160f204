"""Bring the groups of one text into another: those of one name are one, and the others come whole."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from itertools import pairwise

from ..catalogs import CatalogError, PlacedRecord, Splice
from ..guides import GroupsPart
from .model import MergedTable
from .text_keys import TextKeys
from .text_work import Fresh, Kind, TextWork, cell_of, respliced


class GroupsMerge:
    """The groups of both. ``new`` and ``grown`` are the names of those that came, and that have more members now."""

    def __init__(self, work: TextWork) -> None:
        self._work = work
        self.new: list[str] = []
        self.grown: list[str] = []

    def merge(self, part: GroupsPart, prefix: str) -> MergedTable:
        """Groups of one name, and in groups of one name, are one; others come whole, with their members' keys."""
        kind = Kind(self._work.there.groups(part, prefix), self._work.carried.groups(part, prefix))
        names = [{each.key: each for each in records} for records in (kind.there, kind.carried)]
        there = {_chain(each, names[0]): each for each in kind.there}
        fresh, keys = dict[str, list[Fresh]](), TextKeys(prefix, {each.key for each in kind.there})
        chosen, done = None if self._work.sides.scope is None else set(self._work.sides.scope[1]), set[str]()
        for group in kind.carried:
            if group.key in done or (chosen is not None and group.key not in chosen):
                continue
            other = there.get(_chain(group, names[1]))
            if other is not None:
                kind.same += 1
                self._work.keys.groups[group.key] = other.key
                self._grow(part, group, other)
                continue
            whole = [group, *(each for each in kind.carried if group.start < each.start and each.end <= group.end)]
            kind.new += len(whole)
            done |= {each.key for each in whole}
            text = self._new_groups(part, whole, keys)
            self.new.append(group.recorded)
            fresh.setdefault(self._work.keys.groups.get(group.parent, ""), []).append(Fresh(group, text))
        for parent, groups in fresh.items():
            self._work.put_in(part.each, None, _siblings(kind.there, parent), kind.carried[:1], groups)
        before = len(kind.there)
        return MergedTable(part.each, "groups", len(kind.carried), before, kind.new, kind.same, before + kind.new)

    def _grow(self, part: GroupsPart, group: PlacedRecord, there: PlacedRecord) -> None:
        """Bring members into a group that both have, after those that are there."""
        mine, theirs = self._work.carried.members(part, group), self._work.there.members(part, there)
        left, fresh = Counter(each.key for each in theirs), list[Fresh]()
        for member in mine:
            key = self._member_key(member.key)
            if key is None:
                continue
            if left[key] > 0:
                left[key] -= 1
                continue
            fresh.append(Fresh(member, self._with_member_key(part, member, key)))
        if fresh:
            self.grown.append(group.recorded)
            self._count(part, there, len(theirs) + len(fresh))
            self._work.put_in(part.members.each if part.members else "", there, theirs, mine, fresh)

    def _count(self, part: GroupsPart, there: PlacedRecord, number: int) -> None:
        """Correct what a group tells of how many members it has."""
        cell = cell_of(there, part.count)
        if cell is not None:
            self._work.write(cell, str(number))

    def _member_key(self, key: str) -> str | None:
        """The key there of an entry that a carried member names, as members write it."""
        return self._work.own_keys().get(key)

    def _new_groups(self, part: GroupsPart, groups: Sequence[PlacedRecord], keys: TextKeys) -> str:
        """A carried group with those inside, and the keys that they and their entries have there."""
        splices: list[Splice] = []
        for group in groups:
            splices += self._own_key(part, group, keys)
            members = self._work.carried.members(part, group)
            keys_there = [self._member_key(member.key) for member in members]
            for member, key in zip(members, keys_there, strict=True):
                cell = cell_of(member, part.members.entry if part.members else "")
                if key not in (None, member.key) and cell is not None:
                    splices.append(self._work.rewritten(cell, key or ""))
            splices += self._work.carried.without(members, [key is None for key in keys_there])
            stay = len(members) - keys_there.count(None)
            if stay != len(members) and (cell := cell_of(group, part.count)):
                splices.append(self._work.rewritten(cell, str(stay)))
        return respliced(self._work.carried, groups[0], splices)

    def _own_key(self, part: GroupsPart, group: PlacedRecord, keys: TextKeys) -> list[Splice]:
        """What gives a new group its own key, and that of the group around it."""
        key, splices = group.key, list[Splice]()
        if not part.key:
            key = keys.next_number()
        elif key in keys:
            key, cell = keys.free(group), cell_of(group, part.key)
            if cell is None:
                raise CatalogError(f"The key of the carried group {group.recorded} is taken, and no new one fits.")
            splices.append(self._work.rewritten(cell, keys.own(key)))
        keys.take(key)
        self._work.keys.groups[group.key] = key
        above = self._work.keys.groups.get(group.parent)
        cell = cell_of(group, part.parent) if part.parent and above not in (None, group.parent) else None
        if cell is not None and above is not None and group.start <= int(cell.row) < group.end:
            splices.append(self._work.rewritten(cell, keys.own(above)))
        return splices

    def _with_member_key(self, part: GroupsPart, member: PlacedRecord, key: str) -> str:
        cell = cell_of(member, part.members.entry if part.members else "")
        changed = key != member.key and cell is not None
        return respliced(self._work.carried, member, [self._work.rewritten(cell, key)] if changed and cell else [])


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
