"""Merge the rows of one database into another: keys given anew, references followed, nothing else touched.

The new computer's catalog is ``main``; what was carried, relinked already, is attached as ``carried``. Where it is
known what both came from, ``origin`` has it as the carried one was then, and ``left`` as the one there was.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import apsw

from ..catalogs import CatalogError, quoted, reading_condition
from ..guides import HoldingPart
from .model import Handle
from .schema import Table, key_of, tables_of
from .structure import Merged, Reference, Role, Structure
from .values import Record, Sides, Values

Row = dict[str, Any]


@dataclass(slots=True)
class TableCount:
    """The rows of a table: how many were carried, and of these are new, or one with a row there."""

    carried: int = 0
    new: int = 0
    same: int = 0


@dataclass(slots=True)
class Origin:
    """What both sides came from: by tables, the rows there for the rows of the origin."""

    rows: Mapping[str, Mapping[Handle, Handle]] | None = None  # None: all have the keys that they had
    is_back: bool = False

    def there(self, table: str, handle: Handle) -> Handle | None:
        """The row on the new computer for a row of the origin, as the earlier move left it."""
        return handle if self.rows is None else self.rows.get(table.lower(), {}).get(handle)


@dataclass(slots=True)
class RowMerge:
    """One merge of rows.

    ``pairs`` are the entries that both have, by tables and rows, and ``entries`` all that come, in the order of their
    catalog; ``groups`` are the keys of those that were chosen, None for all. ``names`` and moments of change are for
    people and for what is newer.
    """

    database: apsw.Connection
    structure: Structure
    part: HoldingPart
    pairs: Mapping[str, Mapping[Handle, Handle]]
    values: Values
    origin: Origin | None = None
    entries: Mapping[str, Sequence[Handle]] = field(default_factory=dict)  # in the order of the catalog
    changed: Mapping[tuple[str, Handle], tuple[int | None, int | None]] = field(default_factory=dict)
    names: Mapping[tuple[str, Handle], str] = field(default_factory=dict)
    groups: frozenset[str] | None = None
    maps: dict[str, dict[Handle, Handle]] = field(default_factory=dict)
    counts: dict[str, TableCount] = field(default_factory=dict)
    fresh: dict[str, set[Handle]] = field(default_factory=dict)
    written: list[tuple[str, Handle, str]] = field(default_factory=list)
    _next: dict[tuple[str, str], int] = field(default_factory=dict)
    _under_way: set[tuple[str, Handle]] = field(default_factory=set)
    _listed: set[str] = field(default_factory=set)

    def run(self) -> None:
        """Merge everything. Raises `CatalogError` for what the database or its guide does not allow."""
        for merged in self.structure.merged:
            self.maps.setdefault(merged.name.lower(), {})
            self.fresh.setdefault(merged.name.lower(), set())
            self.counts[merged.name] = TableCount(carried=merged.table.count(self.database, "carried"))
        for role in (Role.ENTRIES, Role.GROUPS, Role.ATTACHED, Role.MEMBERS):
            for merged in (each for each in self.structure.merged if each.role is role):
                self._merge_table(merged)
        self._set_counters()

    # -- tables ---------------------------------------------------------------------------------------------------

    def _merge_table(self, merged: Merged) -> None:
        if merged.role is Role.MEMBERS:
            self._merge_members(merged)
        elif merged.role is Role.ENTRIES:
            for handle in self.entries.get(merged.name.lower(), ()):
                self._place(merged, handle)
        elif merged.role is Role.ATTACHED and not self._identity(merged):
            self._merge_alike(merged)
        else:
            for handle in list(self._handles(merged.table, "carried")):
                if self._has_owner(merged, handle) and self._is_chosen(merged, handle):
                    self._place(merged, handle)

    def _is_chosen(self, merged: Merged, handle: Handle) -> bool:
        """Whether a group is among those that were chosen."""
        if self.groups is None or merged.role is not Role.GROUPS:
            return True
        several = len(self.part.groups) > 1
        part = next(each for each in self.part.groups if each.table.lower() == merged.name.lower())
        key = self._row(merged.table, "carried", handle)[merged.table.column(part.key)]
        return f"{part.table}:{key}" in self.groups if several else str(key) in self.groups

    def _has_owner(self, merged: Merged, handle: Handle) -> bool:
        """Whether what a row hangs on came, or is there: without that it has no meaning."""
        if not merged.owners:
            return True
        row = self._row(merged.table, "carried", handle)
        return all(self._is_owned(merged, column, row[column]) for column in merged.owners)

    def _is_owned(self, merged: Merged, column: str, value: Any) -> bool:
        reference = next((each for each in merged.references if each.column == column), None)
        if reference is None or value is None:
            return value is not None
        other = self.structure.of(reference.table)
        handle = self._handle_at(reference, "carried", value)
        if other is None or handle is None:
            return False
        return other.role is Role.LOOKUPS or handle in self.maps[other.name.lower()]

    def _place(self, merged: Merged, handle: Handle) -> Handle:
        """Have a carried row in the database: the one there that it is one with, or a new one. Its handle there."""
        name = merged.name.lower()
        done = self.maps[name].get(handle)
        if done is not None:
            return done
        if (name, handle) in self._under_way:
            raise CatalogError(f"Rows of its table {merged.name} point to each other in a circle.")
        self._under_way.add((name, handle))
        row = self._mapped(merged, self._row(merged.table, "carried", handle))
        there = self._one_with(merged, handle, row)
        if there is None:
            there = self._insert(merged, row)
            self.fresh[name].add(there)
            self.counts[merged.name].new += 1
        else:
            self.counts[merged.name].same += 1
            self._compare(merged, handle, there, row)
        self._under_way.discard((name, handle))
        self.maps[name][handle] = there
        return there

    # -- who is who -----------------------------------------------------------------------------------------------

    def _one_with(self, merged: Merged, handle: Handle, row: Row) -> Handle | None:
        """The row there that a carried row is one with."""
        name = merged.name.lower()
        if merged.role is Role.ENTRIES and name in self.pairs:
            return self.pairs[name].get(handle)
        taken = set(self.maps[name].values()) if merged.role is Role.GROUPS else set()
        if merged.role is Role.GROUPS and (by_origin := self._group_by_origin(merged, handle)) not in (None, *taken):
            return by_origin
        identity = self._identity(merged) or self._all_but_key(merged.table)
        found = self._find(merged.table, {column: row[column] for column in identity})
        return next((each for each in found if each not in taken and each not in self.fresh[name]), None) or next(
            (each for each in found if each not in taken), None
        )

    def _identity(self, merged: Merged) -> tuple[str, ...]:
        """The columns by which rows of a table are one; nothing where only all of them together tell."""
        table = merged.table
        if merged.identity:
            return (*merged.owners, *merged.identity) if merged.role is Role.ATTACHED else merged.identity
        if merged.role is Role.GROUPS:
            part = next(each for each in self.part.groups if each.table.lower() == merged.name.lower())
            return tuple(table.column(each) for each in (part.name, part.parent) if each)
        if merged.role is Role.PIECES:
            columns = [
                p.at for e in self.part.entries for p in e.path if (p.table or "").lower() == merged.name.lower()
            ]
            own = [each.column for each in merged.references]
            return tuple(dict.fromkeys([*(table.column(each) for each in columns), *own]))
        if merged.role is Role.ATTACHED:
            sets = [*table.unique, *([table.keys] if table.keys else [])]
            return next((each for each in sets if set(each) & set(merged.owners)), ())
        if merged.role is Role.LOOKUPS:
            return next((each for each in table.unique if table.key not in each), ())
        return ()

    def _all_but_key(self, table: Table) -> tuple[str, ...]:
        return tuple(each for each in table.columns if each != table.key)

    def _group_by_origin(self, merged: Merged, handle: Handle) -> Handle | None:
        """The group there that was this one when both sides were one, and still shares its name or a member with it."""
        if self.origin is None or not self._exists(merged.table, "origin", handle):
            return None
        there = self.origin.there(merged.name, handle)
        if there is None or not self._exists(merged.table, "main", there):
            return None
        part = next(each for each in self.part.groups if each.table.lower() == merged.name.lower())
        column = merged.table.column(part.name)
        was, now = (self._row(merged.table, side, each)[column] for side, each in (("left", there), ("main", there)))
        came, origin = (self._row(merged.table, side, handle)[column] for side in ("carried", "origin"))
        return there if (was == now or self._shares_members(part, there)) and (came == origin or was == now) else None

    def _shares_members(self, part: Any, there: Handle) -> bool:
        members = part.members
        if members is None:
            return False
        group, entry, table = quoted(members.group), quoted(members.entry), quoted(members.table)
        query = (
            f"SELECT 1 FROM main.{table} AS a JOIN left.{table} AS b ON a.{entry} = b.{entry} "
            f"WHERE a.{group} = ? AND b.{group} = ? LIMIT 1"
        )
        return self.database.execute(query, (*there, *there)).get is not None

    # -- what hangs on entries, and has nothing by which it is known -----------------------------------------------

    def _merge_alike(self, merged: Merged) -> None:
        """Rows that are one only when they are alike in everything: of each kind as many as the side with more has."""
        table, name = merged.table, merged.name.lower()
        columns = self._all_but_key(table)
        self._index(table, merged.owners)
        used: Counter[tuple[Any, ...]] = Counter()
        for handle in list(self._handles(table, "carried")):
            if not self._has_owner(merged, handle):
                continue
            row = self._mapped(merged, self._row(table, "carried", handle))
            alike = self._find(table, {column: row[column] for column in columns})
            free = [each for each in alike if each not in self.fresh[name]]
            value = tuple(row[column] for column in columns)
            used[value] += 1
            if used[value] <= len(free):
                self.maps[name][handle] = free[used[value] - 1]
                self.counts[merged.name].same += 1
            else:
                there = self._insert(merged, row)
                self.fresh[name].add(there)
                self.maps[name][handle] = there
                self.counts[merged.name].new += 1

    def _merge_members(self, merged: Merged) -> None:
        """The members of each group: what is there stays in its order, and what is new comes after."""
        table, (group, _) = merged.table, merged.owners
        order = table.column(merged.order) if merged.order else ""
        lists: dict[Any, list[tuple[Handle, Row]]] = {}
        by = f" ORDER BY {quoted(group)}, {quoted(order)}" if order else ""
        for handle in list(self._handles(table, "carried", by)):
            if self._has_owner(merged, handle):
                row = self._row(table, "carried", handle)
                lists.setdefault(row[group], []).append((handle, row))
        self._index(table, (group,))
        for rows in lists.values():
            self._merge_list(merged, rows, order)

    def _merge_list(self, merged: Merged, rows: Iterable[tuple[Handle, Row]], order: str) -> None:
        table, name, (group, entry) = merged.table, merged.name.lower(), merged.owners
        mapped = [(handle, self._mapped(merged, row)) for handle, row in rows]
        left: dict[Any, list[Handle]] = {}
        last: float | None = None
        for number, (each, member, place) in enumerate(
            self._members_of(table, group, entry, order, mapped[0][1][group])
        ):
            left.setdefault(member, []).append(each)
            if order and isinstance(place, (int, float)):
                last = place if number == 0 or last is None else max(last, place)
        for handle, row in mapped:
            if left.get(row[entry]):
                self.maps[name][handle] = left[row[entry]].pop(0)
                self.counts[merged.name].same += 1
                continue
            if last is not None:
                last += 1
                row[order] = last
            self.maps[name][handle] = self._insert(merged, row)
            self.fresh[name].add(self.maps[name][handle])
            self.counts[merged.name].new += 1

    def _members_of(
        self, table: Table, group: str, entry: str, order: str, value: Any
    ) -> Iterator[tuple[Handle, Any, Any]]:
        """The rows of a group there, each with its entry and its place."""
        columns = [key_of(table, each) for each in self._handle_columns(table)]
        cells = ", ".join([*columns, quoted(entry), quoted(order) if order else "NULL"])
        query = (
            f"SELECT {cells} FROM main.{quoted(table.name)} WHERE {quoted(group)} IS ? ORDER BY {', '.join(columns)}"
        )
        for *handle, member, place in list(self.database.execute(query, (value,))):
            yield tuple(handle), member, place

    # -- values ---------------------------------------------------------------------------------------------------

    def _compare(self, merged: Merged, handle: Handle, there: Handle, row: Row) -> None:
        """Take over those values of a row that both sides have which count for more than the ones there."""
        table = merged.table
        work = self._work(merged)
        now = self._row(table, "main", there)
        known, was_there, was_carried = self._were(merged, handle, there)
        is_back = self.origin is not None and self.origin.is_back
        raw = self._row(table, "carried", handle)
        record = Record(self._name_of(merged, handle), *self.changed.get((merged.name.lower(), handle), (None, None)))
        for column in self._compared(merged):
            carried, origin = row[column], was_carried.get(column)
            if raw[column] != carried:  # a reference, which has another value here
                origin = carried if raw[column] == origin else origin
            sides = Sides(now[column], carried, known, was_there.get(column), origin, is_back)
            if self.values.takes_carried(record, self._told(merged, column), sides, is_work=column in work):
                self._write(table, there, column, carried)

    def _were(self, merged: Merged, handle: Handle, there: Handle) -> tuple[bool, Row, Row]:
        """What a row that both sides have was at their origin, there and as it was carried."""
        if self.origin is None or self.origin.there(merged.name, handle) != there:
            return False, {}, {}
        if not (self._exists(merged.table, "origin", handle) and self._exists(merged.table, "left", there)):
            return False, {}, {}
        return True, self._row(merged.table, "left", there), self._row(merged.table, "origin", handle)

    def _compared(self, merged: Merged) -> Iterator[str]:
        """The columns whose values may be taken over: neither keys nor paths, nor that by which a row is known."""
        known = {merged.table.key, *merged.table.keys, *merged.owners}
        if merged.role is Role.ENTRIES:
            part = self._entries_part(merged)
            own = (each.at for each in part.path if not each.table)
            vias = (each.via_column for each in part.path if each.via and not each.via_table)
            fixed = {*part.key_selectors, *own, *vias, *part.renumber, *part.besides}
            known |= {merged.table.column(each) for each in fixed if each}
        elif merged.role is not Role.GROUPS:
            known |= set(self._identity(merged))
        return (each for each in merged.table.columns if each not in known)

    def _work(self, merged: Merged) -> set[str]:
        """The columns in which a person's work is."""
        if merged.role is Role.ENTRIES:
            return {merged.table.column(each) for each in self._entries_part(merged).annotations}
        if merged.role is Role.GROUPS:
            part = next(each for each in self.part.groups if each.table.lower() == merged.name.lower())
            return {merged.table.column(part.name)}
        return set(merged.table.columns) if merged.role is Role.ATTACHED else set()

    def _entries_part(self, merged: Merged) -> Any:
        return next(each for each in self.part.entries if each.table.lower() == merged.name.lower())

    def _name_of(self, merged: Merged, handle: Handle) -> str:
        """What people know a record by: the entry that it is or hangs on, or its name."""
        name = self.names.get((merged.name.lower(), handle))
        if name is not None:
            return name
        row = self._row(merged.table, "carried", handle)
        for column in merged.owners:
            reference = next((each for each in merged.references if each.column == column), None)
            other = self.structure.of(reference.table) if reference else None
            owner = self._handle_at(reference, "carried", row[column]) if reference else None
            if other is not None and owner is not None:
                return self._name_of(other, owner)
        texts = [str(row[column]) for column in self._identity(merged) if row[column] is not None]
        return f"{merged.name} {', '.join(texts) or ', '.join(map(str, handle))}"

    def _told(self, merged: Merged, column: str) -> str:
        return column if merged.role is Role.ENTRIES else f"{merged.name}.{column}"

    # -- rows -----------------------------------------------------------------------------------------------------

    def _mapped(self, merged: Merged, row: Row) -> Row:
        """A carried row with its references as they are in the database that it goes into."""
        mapped = dict(row)
        for reference in merged.references:
            if row[reference.column] is not None:
                mapped[reference.column] = self._reference(merged, reference, row[reference.column])
        return mapped

    def _reference(self, merged: Merged, reference: Reference, value: Any) -> Any:
        other = self.structure.of(reference.table)
        handle = self._handle_at(reference, "carried", value)
        if other is None:
            return value
        if handle is None:
            self._require_nothing(merged, reference, value)
            return value
        if (
            other.role is Role.ENTRIES
            and handle not in self.maps[other.name.lower()]
            and not self._is_entry(other, handle)
        ):
            return self._row(other.table, "main", self._place(other, handle)).get(reference.target, value)
        there = self._place(other, handle)
        if other.table.key == reference.target:
            return there[0]
        return self._row(other.table, "main", there)[reference.target]

    def _require_nothing(self, merged: Merged, reference: Reference, value: Any) -> None:
        """A reference to nothing, as some programs have it for none, must not come to mean something."""
        if self._handle_at(reference, "main", value) is not None:
            raise CatalogError(
                f"A row of its table {merged.name} points to {value!r} in {reference.table}, which is not there on the "
                "old computer, and is something else on the new one.",
                next_step="Let the program repair the catalog on the old computer, and carry it again.",
            )

    def _is_entry(self, merged: Merged, handle: Handle) -> bool:
        return handle in self.pairs.get(merged.name.lower(), {}) or handle in set(
            self.entries.get(merged.name.lower(), ())
        )

    def _insert(self, merged: Merged, row: Row) -> Handle:
        """Add a row, with a new number where its key is one."""
        table = merged.table
        values = {column: row[column] for column in table.columns}
        if table.numbered and table.key not in {each.column for each in merged.references}:
            number = self._next_number(table, table.key)
            if table.key in values:
                values[table.key] = number
            names, bound = [key_of(table), *(quoted(c) for c in values if c != table.key)], [number]
            bound += [value for column, value in values.items() if column != table.key]
            handle: Handle = (number,)
        else:
            names, bound = [quoted(column) for column in values], list(values.values())
            handle = tuple(values[column] for column in ((table.key,) if table.key else table.keys))
        if merged.role is Role.ENTRIES:
            for column in map(table.column, self._entries_part(merged).renumber):
                bound[names.index(quoted(column))] = self._next_number(table, column)
        places = ", ".join("?" * len(bound))
        try:
            self.database.execute(
                f"INSERT INTO main.{quoted(table.name)} ({', '.join(names)}) VALUES ({places})", bound
            )
        except apsw.ConstraintError as error:
            raise CatalogError(
                f"A carried row of its table {merged.name} cannot be added beside what is there: {error}.",
                next_step="Say in the guide what such rows are known by (identity, key or name), or which numbers are "
                "given anew (renumber).",
            ) from error
        return handle

    def _next_number(self, table: Table, column: str) -> int:
        known = self._next.get((table.name, column))
        if known is None:
            known = int(
                self.database.execute(
                    f"SELECT coalesce(max({key_of(table, column)}), 0) FROM main.{quoted(table.name)}"
                ).get
            )
            if table.counted and column == table.key:
                query = "SELECT seq FROM main.sqlite_sequence WHERE name = ?"
                known = max(known, int(self.database.execute(query, (table.name,)).get or 0))
        self._next[table.name, column] = known + 1
        return known + 1

    def _write(self, table: Table, there: Handle, column: str, value: Any) -> None:
        where = " AND ".join(f"{key_of(table, each)} IS ?" for each in self._handle_columns(table))
        self.database.execute(
            f"UPDATE main.{quoted(table.name)} SET {quoted(column)} = ? WHERE {where}", (value, *there)
        )
        self.written.append((table.name, there, column))

    def _row(self, table: Table, side: str, handle: Handle) -> Row:
        columns = [key_of(table, each) for each in self._handle_columns(table)]
        where = " AND ".join(f"{each} IS ?" for each in columns)
        query = f"SELECT {', '.join(map(quoted, table.columns))} FROM {side}.{quoted(table.name)} WHERE {where}"
        found = self.database.execute(query, handle).fetchone()
        row = dict(zip(table.columns, found or [None] * len(table.columns), strict=True))
        if table.key and table.key not in row:
            row[table.key] = handle[0]
        return row

    def _exists(self, table: Table, side: str, handle: Handle) -> bool:
        where = " AND ".join(f"{key_of(table, each)} IS ?" for each in self._handle_columns(table))
        return self.database.execute(f"SELECT 1 FROM {side}.{quoted(table.name)} WHERE {where}", handle).get is not None

    def _handles(self, table: Table, side: str, order: str = "") -> Iterator[Handle]:
        columns = ", ".join(key_of(table, each) for each in self._handle_columns(table))
        return iter(
            self.database.execute(f"SELECT {columns} FROM {side}.{quoted(table.name)}{order or f' ORDER BY {columns}'}")
        )

    def _handle_at(self, reference: Reference, side: str, value: Any) -> Handle | None:
        """The row that a reference leads to."""
        other = self.structure.of(reference.table)
        if other is None:
            return None
        table = other.table
        columns = ", ".join(key_of(table, each) for each in self._handle_columns(table))
        self._index(table, (reference.target,)) if reference.target != table.key and side == "main" else None
        query = f"SELECT {columns} FROM {side}.{quoted(table.name)} WHERE {key_of(table, reference.target)} = ? LIMIT 1"
        return self.database.execute(query, (value,)).fetchone()

    def _find(self, table: Table, wanted: Mapping[str, Any]) -> list[Handle]:
        """The rows there that have these values."""
        self._index(table, tuple(wanted))
        columns = ", ".join(key_of(table, each) for each in self._handle_columns(table))
        where = " AND ".join(f"{key_of(table, each)} IS ?" for each in wanted)
        query = f"SELECT {columns} FROM main.{quoted(table.name)} WHERE {where} ORDER BY {columns}"
        return list(self.database.execute(query, tuple(wanted.values())))

    def _index(self, table: Table, columns: Sequence[str]) -> None:
        """Have an index over columns of a table while it is merged; `without_own_indexes` takes it away again."""
        name = f"zesty {table.name} {' '.join(columns)}".lower()
        own = [each for each in columns if each in table.columns]
        if name in self._listed or not own or any(each[: len(own)] == tuple(own) for each in table.unique):
            return
        self._listed.add(name)
        if own != [table.key]:
            cells = ", ".join(map(quoted, own))
            self.database.execute(f"CREATE INDEX IF NOT EXISTS main.{quoted(name)} ON {quoted(table.name)} ({cells})")

    def without_own_indexes(self) -> None:
        """Take away the indexes that were made for the merge."""
        for name in self._listed:
            self.database.execute(f"DROP INDEX IF EXISTS main.{quoted(name)}")

    def _handle_columns(self, table: Table) -> tuple[str, ...]:
        return (table.key,) if table.key else table.keys

    # -- the program's own counters -------------------------------------------------------------------------------

    def _set_counters(self) -> None:
        """Have each counter behind the last number that its table has now; none goes back."""
        for counter in self.part.counters:
            of = self.structure.of(counter.of)
            tables = {each.name.lower(): each for each in tables_of(self.database)}
            table = tables.get(counter.table.lower())
            if of is None or table is None:
                raise CatalogError(
                    f"The guide has a counter {counter.table} of {counter.of}: one of them is not there."
                )
            last = int(self.database.execute(f"SELECT max({key_of(of.table)}) FROM main.{quoted(of.name)}").get or 0)
            wanted, column = last + (counter.holds == "next"), table.column(counter.column)
            condition = reading_condition(self.database, counter.where or "1", table.name)
            handle = ", ".join(key_of(table, each) for each in self._handle_columns(table))
            query = f"SELECT {handle}, {quoted(column)} FROM main.{quoted(table.name)} WHERE {condition}"
            for *there, value in list(self.database.execute(query)):
                if isinstance(value, int) and value < wanted:
                    self._write(table, tuple(there), column, wanted)
