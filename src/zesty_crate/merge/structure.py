"""How the rows of a database hang together: by its guide, by its foreign keys, and by values that are keys of entries.

What none of these explains, and what seems to hang on entries all the same, stops a merge; what hangs on nothing stays
as it is on the new computer.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum

import apsw

from ..catalogs import CatalogError
from ..guides import EntriesPart, GroupsPart, HoldingPart
from .schema import Table, tables_of


class Role(StrEnum):
    """What the rows of a table are to a merge."""

    ENTRIES = "entries"
    PIECES = "pieces"  # shared parts of paths
    GROUPS = "groups"
    MEMBERS = "members"
    ATTACHED = "attached"  # hang on entries, groups, or on what hangs on these
    LOOKUPS = "lookups"  # are pointed to


@dataclass(frozen=True, slots=True)
class Reference:
    """A column whose value is that of the column ``target`` of a row of another table."""

    column: str
    table: str
    target: str


@dataclass(frozen=True, slots=True)
class Merged:
    """A table that takes part. Rows of it are one when they are alike in ``identity``, or else in everything.

    ``owners`` are those references without whose row a row of this table has no meaning. ``why`` tells what explains it
    where it is not the guide.
    """

    table: Table
    role: Role
    references: tuple[Reference, ...] = ()
    owners: tuple[str, ...] = ()
    identity: tuple[str, ...] = ()
    order: str = ""
    why: str = ""

    @property
    def name(self) -> str:
        """The table's own name."""
        return self.table.name


@dataclass(slots=True)
class Structure:
    """All that takes part, in an order in which what is pointed to comes first; and what does not.

    ``unexplained`` tables seem to hang on entries: each with its rows and the column that says so.
    """

    merged: list[Merged] = field(default_factory=list)
    aside: list[str] = field(default_factory=list)
    unexplained: list[tuple[str, int, str]] = field(default_factory=list)

    def of(self, name: str) -> Merged | None:
        """What is known of a table that takes part."""
        return next((each for each in self.merged if each.name.lower() == name.lower()), None)


def structure_of(carried: apsw.Connection, part: HoldingPart, without: Collection[str] = ()) -> Structure:
    """The structure of a database, as it was carried: its values tell where nothing else does.

    Tables ``without`` which it is to be merged take no part. Raises `CatalogError` when the guide names what is not
    there, or when tables point to each other in a circle.
    """
    return _Finder(carried, part, {each.lower() for each in without}).structure()


class _Finder:
    def __init__(self, database: apsw.Connection, part: HoldingPart, without: set[str]) -> None:
        self._database = database
        self._part = part
        self._without = without
        self._tables = {table.name.lower(): table for table in tables_of(database) if table.name.lower() not in without}
        self._found: dict[str, Merged] = {}

    def structure(self) -> Structure:
        self._by_guide()
        while self._by_foreign_keys():
            pass
        evident, unexplained = self._by_values()
        while evident and self._by_foreign_keys():
            pass
        aside = [table.name for name, table in self._tables.items() if name not in self._found and not table.is_shadow]
        named = {name for name, *_ in unexplained}
        return Structure(self._in_order(), [each for each in aside if each not in named], unexplained)

    # -- the guide ------------------------------------------------------------------------------------------------

    def _by_guide(self) -> None:
        part = self._part
        for entries in part.entries:
            self._add(entries.table, Role.ENTRIES, identity=entries.identity)
            self._pieces_by_guide(entries)
        for groups in part.groups:
            self._groups_by_guide(groups)
        for lookup in part.lookups:
            self._add(lookup.table, Role.LOOKUPS, identity=lookup.name)
        for attached in part.attached:
            of_table = attached.of or part.entries[0].table
            self._add(attached.table, Role.ATTACHED, owners=(attached.entry,), identity=attached.key)
            key = next((e.key for e in part.entries if e.table == of_table), "")
            self._refer(attached.table, attached.entry, of_table, key)
        for reference in part.references:
            self._refer(reference.table, reference.column, reference.to)

    def _pieces_by_guide(self, entries: EntriesPart) -> None:
        shared = [(piece.table, piece) for piece in entries.path if piece.table]
        for table, piece in shared:
            self._add(table, Role.PIECES)
            if piece.parent:
                self._refer(table, piece.parent, table)
        for table, piece in shared:  # once all of these tables are known, since they may point to each other
            self._refer(piece.via_table or entries.table, piece.via_column, table)

    def _groups_by_guide(self, groups: GroupsPart) -> None:
        members, entries = groups.members, self._part.entries
        if members is None:
            return
        self._add(groups.table, Role.GROUPS)
        if groups.parent:
            self._refer(groups.table, groups.parent, groups.table, groups.key)
        of = next(each for each in entries if each.table == (members.of or entries[0].table))
        self._add(members.table, Role.MEMBERS, owners=(members.group, members.entry), order=members.order)
        self._refer(members.table, members.group, groups.table, groups.key)
        self._refer(members.table, members.entry, of.table, of.key)

    def _add(
        self,
        name: str,
        role: Role,
        *,
        owners: Sequence[str] = (),
        identity: Sequence[str] = (),
        order: str = "",
        why: str = "",
    ) -> None:
        table = self._tables.get(name.lower())
        if table is None:
            if name.lower() in self._without:
                raise CatalogError(f"The table {name} cannot be left out: the guide tells of entries or groups by it.")
            raise CatalogError(f"The guide names the table {name!r}, but the catalog has none.")
        known = self._found.get(name.lower())
        if known is not None and known.role is not Role.LOOKUPS:
            return
        for column in (*owners, *identity, *([order] if order else [])):
            table.require(column)
        own = tuple(table.column(each) for each in owners)
        same = tuple(table.column(each) for each in identity)
        self._found[name.lower()] = Merged(
            table, role, () if known is None else known.references, own, same, order, why
        )

    def _refer(self, name: str, column: str, to: str, target: str = "") -> None:
        table, other = self._tables.get(name.lower()), self._tables.get(to.lower())
        if table is None or other is None:
            return
        table.require(column)
        if target and target.lower() != "rowid":
            other.require(target)
        mine = self._found.get(name.lower())
        if mine is None or any(each.column.lower() == column.lower() for each in mine.references):
            return
        reference = Reference(table.column(column), other.name, other.column(target) if target else other.key)
        self._found[name.lower()] = replace(mine, references=(*mine.references, reference))

    # -- foreign keys ---------------------------------------------------------------------------------------------

    def _by_foreign_keys(self) -> bool:
        """Take in what points to something that takes part, and what that points to; whether there was any."""
        more = False
        for name, table in self._tables.items():
            for column, to, target in table.foreign_keys:
                mine, other = self._found.get(name), self._found.get(to.lower())
                if to.lower() not in self._tables:
                    continue
                if mine is None and other is not None and name != to.lower():
                    hangs = table.is_needed(column)
                    self._add(name, Role.ATTACHED, owners=(column,) if hangs else (), why=f"a foreign key to {to}")
                    more = True
                elif mine is not None and other is None:
                    self._add(to, Role.LOOKUPS, why=f"a foreign key of {table.name}")
                    more = True
                if name in self._found and to.lower() in self._found:
                    before = self._found[name].references
                    self._refer(name, column, to, target)
                    more |= self._found[name].references != before
        return more

    # -- values ---------------------------------------------------------------------------------------------------

    def _by_values(self) -> tuple[bool, list[tuple[str, int, str]]]:
        """Tables that a column of entries' keys explains; and those of which only a person can say what they mean."""
        evident, doubtful = False, []
        entries = [
            (self._tables[e.table.lower()], e.key) for e in self._part.entries if e.table.lower() in self._tables
        ]
        for name, table in self._tables.items():
            if name in self._found or table.is_shadow or table.is_virtual:
                continue
            for of, key in entries:
                column, is_named = self._column_of_keys(table, of, key)
                if column and is_named:
                    self._add(name, Role.ATTACHED, owners=(column,), why=f"its column {column} holds keys of {of.name}")
                    self._refer(name, column, of.name, key)
                    evident = True
                    break
                if column:
                    doubtful.append((table.name, table.count(self._database), column))
                    break
        return evident, doubtful

    def _column_of_keys(self, table: Table, of: Table, key: str) -> tuple[str, bool]:
        """A column all of whose values are keys of entries, and whether its name or its values leave no doubt."""
        names = {
            key.lower(),
            of.name.lower(),
            f"{of.name}_id".lower(),
            f"{of.name}id".lower(),
            f"{of.name}_{key}".lower(),
        }
        found = ""
        for column in table.columns:
            values = table.values_among(self._database, column, of, of.column(key))
            if values is None or not values.all_there:
                continue
            named = column.lower() in names - {"id", "rowid"} or (values.are_texts and values.number > 0)
            if named:
                return column, True
            if values.number >= _MANY_VALUES and not found:
                found = column
        return found, False

    # -- order ----------------------------------------------------------------------------------------------------

    def _in_order(self) -> list[Merged]:
        order: list[Merged] = []
        waiting = dict(self._found)
        while waiting:
            free = [name for name, each in waiting.items() if not (set(_others(each)) & set(waiting))]
            if not free:
                raise CatalogError(
                    "Its tables point to each other in a circle, so that none can be merged before the others: "
                    + ", ".join(each.name for each in waiting.values())
                    + ".",
                    next_step="Leave one of them out with --without TABLE.",
                )
            order += [waiting.pop(name) for name in free]
        return order


_MANY_VALUES = 10  # fewer values that happen to be keys, too, say nothing


def _others(merged: Merged) -> Iterator[str]:
    """The tables that one points to, but for itself."""
    return (each.table.lower() for each in merged.references if each.table.lower() != merged.name.lower())
