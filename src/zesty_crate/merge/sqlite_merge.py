"""Merge a carried database into a copy of the one there, and say what that came to."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import ExitStack, closing
from dataclasses import dataclass
from pathlib import Path

import apsw

from ..catalogs import (
    Catalog,
    CatalogError,
    in_step,
    indexes_over,
    moment,
    open_immutable,
    open_writable,
    quoted,
    rebuild,
    syntax_of,
)
from ..catalogs.pieces import KEY_MARK
from ..catalogs.sqlite_file import file_uri
from ..guides import EntriesPart, GroupsPart, HoldingPart
from ..machines import Disk
from .model import Handle, KeyMap, MergedTable, MergeOptions, MergeReport
from .schema import Table, key_of, tables_of
from .sides import OriginFiles, Sides
from .sqlite_rows import Origin, RowMerge
from .structure import Merged, Role, Structure, structure_of
from .values import Values
from .who import Pairs, light, pair, pairs_of_origin

_EXAMPLES = 8
_CACHE_KIB = 64 << 10


@dataclass(slots=True)
class SqliteMerged:
    """What was done: the report, the keys, and for the proof the rows and cells that were written."""

    report: MergeReport
    keys: KeyMap
    structure: Structure
    rows: dict[str, dict[Handle, Handle]]
    fresh: dict[str, set[Handle]]
    written: list[tuple[str, Handle, str]]
    entries_before: int


def merge_sqlite(sides: Sides, options: MergeOptions, disk: Disk, scratch: Path) -> SqliteMerged:
    """Merge. Raises `CatalogError` when versions of the schema differ, a table is not explained, or rows do not fit."""
    _require_one_schema(sides)
    with closing(open_immutable(sides.carried)) as carried:
        structure = structure_of(carried, sides.part, options.without)
    _require_explained(structure)
    who = _Who(sides, disk, scratch)
    with closing(open_writable(sides.target)) as database:
        _prepare(database, sides)
        touched = {(t.name.lower(), c.lower()) for t in tables_of(database) if structure.of(t.name) for c in t.columns}
        indexes = [each for each in indexes_over(database, touched) if in_step(database, each)]
        values = Values(options)
        merge = _rows_of(database, structure, sides, who, values)
        before = {each.name: each.table.count(database) for each in structure.merged}
        try:
            with database:
                merge.run()
                merge.without_own_indexes()
                rebuild(database, indexes)
        except apsw.Error as error:
            raise CatalogError(f"The catalogs cannot be merged: {error}.") from error
        report = _Report(database, merge, sides, who, before).made()
        keys = _keys(database, merge, sides)
    return SqliteMerged(report, keys, structure, merge.maps, merge.fresh, merge.written, who.pairs.there)


def _prepare(database: apsw.Connection, sides: Sides) -> None:
    if database.pragma("journal_mode") != "wal":
        database.pragma("journal_mode", "memory")
    database.pragma("synchronous", "off")
    database.pragma("cache_size", -_CACHE_KIB)
    database.pragma("foreign_keys", "off")
    files = {"carried": sides.carried}
    if sides.origin is not None:
        files |= {"origin": sides.origin.carried, "left": sides.origin.left}
    for name, path in files.items():
        database.execute(f"ATTACH ? AS {name}", (file_uri(path) + "?mode=ro&immutable=1",))


def _require_one_schema(sides: Sides) -> None:
    """Raise `CatalogError` unless both databases are of one version of their program's schema."""
    seen = []
    for path in (sides.target, sides.carried):
        with closing(open_immutable(path)) as database:
            version = database.pragma("user_version")
            tables = {each.name: ", ".join(each.columns) for each in tables_of(database) if not each.is_shadow}
            seen.append((version, tables))
    (version, there), (carried_version, carried) = seen
    differ = [f"table {name}: only there" for name in there.keys() - carried.keys()]
    differ += [f"table {name}: only carried" for name in carried.keys() - there.keys()]
    differ += [
        f"table {name}: {there[name]} there, {carried[name]} carried"
        for name in there.keys() & carried.keys()
        if there[name] != carried[name]
    ]
    if version != carried_version:
        differ.insert(0, f"schema version {version} there, {carried_version} carried")
    if differ:
        raise CatalogError(
            "The catalogs are of two versions of their program, and cannot be merged: "
            + "; ".join(sorted(differ)[:5])
            + ".",
            details=sorted(differ),
            next_step="Have both programs at one version, and open each catalog there; or choose keep or both.",
        )


class UnexplainedError(CatalogError):
    """Tables hang on entries, and nothing tells how."""


def _require_explained(structure: Structure) -> None:
    if not structure.unexplained:
        return
    told = [
        f"{name}: {rows:,} rows, whose column {column} holds keys of entries"
        for name, rows, column in structure.unexplained
    ]
    names = " ".join(f"--without {name}" for name, *_ in structure.unexplained)
    raise UnexplainedError(
        f"Tables that seem to hang on entries, and neither the guide nor foreign keys tell how: {'; '.join(told)}.",
        details=told,
        next_step=f"Tell of them in the guide with [[holding.attached]], or leave their carried rows out with {names}.",
    )


class _Who:
    """Both sides' entries, and which are one."""

    def __init__(self, sides: Sides, disk: Disk, scratch: Path) -> None:
        self._sides = sides
        self._disk = disk
        self._scratch = scratch
        self._part = light(sides.part)
        with self._opened(sides.carried) as carried, self._opened(sides.target) as there:
            self.pairs: Pairs = pair(carried, there, sides.computer, self._by_origin())
            chosen = None if sides.scope is None else set(sides.scope[0])
            self.carried = [each for each in self.pairs.carried if chosen is None or each.key in chosen]

    def _opened(self, path: Path) -> closing[Catalog]:
        sides = self._sides
        return closing(syntax_of(self._part).open(path, self._part, sides.at, self._disk, self._scratch))

    def _by_origin(self) -> dict[str, str]:
        """Keys of entries that were one at the origin, and still show it."""
        origin = self._sides.origin
        if origin is None:
            return {}
        keys = None if origin.rows is None else _keys_by_rows(origin, self._sides.part)
        paths = (origin.carried, origin.left, self._sides.carried, self._sides.target)
        with ExitStack() as stack:
            before, left, carried, there = (stack.enter_context(self._opened(path)) for path in paths)
            return pairs_of_origin(before, left, carried, there, self._sides.computer, keys)


def _keys_by_rows(origin: OriginFiles, part: HoldingPart) -> dict[str, str]:
    """The keys there for the keys that were carried, where the move that both came from gave new ones."""
    keys: dict[str, str] = {}
    for entries in part.entries:
        prefix = f"{entries.table}:" if len(part.entries) > 1 else ""
        rows = (origin.rows or {}).get(entries.table.lower(), {})
        with closing(open_immutable(origin.carried)) as before, closing(open_immutable(origin.left)) as left:
            mine, theirs = (dict(_rows_with_keys(each, entries)) for each in (before, left))
        keys |= {
            f"{prefix}{mine[one]}": f"{prefix}{theirs[other]}"
            for one, other in rows.items()
            if one in mine and other in theirs
        }
    return keys


def _rows_with_keys(database: apsw.Connection, part: EntriesPart, side: str = "main") -> Iterator[tuple[Handle, str]]:
    table = _table(database, part.table)
    columns = [table.key] if table.key else list(table.keys)
    query = ", ".join((*(key_of(table, each) for each in columns), _key(table, part)))
    for *handle, value in database.execute(f"SELECT {query} FROM {side}.{quoted(table.name)}"):
        yield tuple(handle), str(value)


def _rows_of(database: apsw.Connection, structure: Structure, sides: Sides, who: _Who, values: Values) -> RowMerge:
    """The merge of the rows, told which entries are one."""
    part, pairs, entries = sides.part, {}, {}
    changed: dict[tuple[str, Handle], tuple[int | None, int | None]] = {}
    names: dict[tuple[str, Handle], str] = {}
    known = {each.key: each for each in who.carried}
    for each in part.entries:
        prefix = f"{each.table}:" if len(part.entries) > 1 else ""
        name = each.table.lower()
        mine = {f"{prefix}{key}": handle for handle, key in _rows_with_keys(database, each, "carried")}
        one = {key: who.pairs.one[key] for key in mine if key in who.pairs.one and key in known}
        theirs = _handles_of(database, each, {key.removeprefix(prefix) for key in one.values()})
        entries[name] = [mine[key] for key in known if key in mine]
        pairs[name] = {mine[key]: theirs[there.removeprefix(prefix)] for key, there in one.items()}
        names |= {(name, mine[key]): known[key].recorded or key for key in known if key in mine}
        if each.changed is not None:
            changed |= _moments(database, each, pairs[name])
    origin = None if sides.origin is None else Origin(sides.origin.rows, sides.origin.is_back)
    groups = None if sides.scope is None else frozenset(sides.scope[1])
    return RowMerge(database, structure, part, pairs, values, origin, entries, changed, names, groups=groups)


def _table(database: apsw.Connection, name: str) -> Table:
    return next(each for each in tables_of(database) if each.name.lower() == name.lower())


def _key(table: Table, part: EntriesPart | GroupsPart) -> str:
    """The SQL of the key by which a guide knows rows, which may be of several columns."""
    names = part.key_selectors if isinstance(part, EntriesPart) else (part.key,)
    return f" || '{KEY_MARK}' || ".join(key_of(table, table.column(each)) for each in names)


def _handles_of(database: apsw.Connection, part: EntriesPart, keys: set[str]) -> dict[str, Handle]:
    """The rows there that have these keys: found in one pass, since a guide's key need have no index."""
    table = _table(database, part.table)
    columns = [key_of(table, each) for each in ([table.key] if table.key else table.keys)]
    database.execute("CREATE TEMP TABLE wanted (key TEXT PRIMARY KEY) WITHOUT ROWID")
    database.executemany("INSERT INTO wanted VALUES (?)", ((each,) for each in keys))
    key = _key(table, part)
    query = (
        f"SELECT CAST({key} AS TEXT), {', '.join(columns)} FROM main.{quoted(table.name)} "
        f"WHERE CAST({key} AS TEXT) IN (SELECT key FROM wanted)"
    )
    found = {row[0]: tuple(row[1:]) for row in database.execute(query)}
    database.execute("DROP TABLE wanted")
    return found


def _moments(
    database: apsw.Connection, part: EntriesPart, pairs: Mapping[Handle, Handle]
) -> dict[tuple[str, Handle], tuple[int | None, int | None]]:
    """When each of two entries that are one was changed, there and as it was carried."""
    if part.changed is None:
        return {}
    table, form = _table(database, part.table), part.changed.form
    column = key_of(table, table.column(part.changed.at))
    return {
        (part.table.lower(), mine): (
            moment(_value(database, table, "main", there, column), form),
            moment(_value(database, table, "carried", mine, column), form),
        )
        for mine, there in pairs.items()
    }


def _value(database: apsw.Connection, table: Table, side: str, handle: Handle, term: str) -> str | None:
    """What a term of SQL comes to in a row."""
    where = " AND ".join(f"{key_of(table, each)} IS ?" for each in ((table.key,) if table.key else table.keys))
    value = database.execute(f"SELECT {term} FROM {side}.{quoted(table.name)} WHERE {where}", handle).get
    return None if value is None else str(value)


def _keys(database: apsw.Connection, merge: RowMerge, sides: Sides) -> KeyMap:
    """By which keys the carried entries and groups are in the merged catalog, and what of theirs did not come."""
    keys = KeyMap()
    for parts, found in ((sides.part.entries, keys.entries), (sides.part.groups, keys.groups)):
        for each in parts:
            if not each.table:
                continue
            prefix, table = f"{each.table}:" if len(parts) > 1 else "", _table(database, each.table)
            key = _key(table, each)
            for one, other in merge.maps.get(each.table.lower(), {}).items():
                mine, theirs = (_value(database, table, *at, key) for at in (("carried", one), ("main", other)))
                found[f"{prefix}{mine}"] = f"{prefix}{theirs}"
                if parts is sides.part.entries and other in merge.fresh[each.table.lower()]:
                    keys.new.add(f"{prefix}{mine}")
    for part in sides.part.entries:
        prefix, table = f"{part.table}:" if len(sides.part.entries) > 1 else "", _table(database, part.table)
        for one, other in merge.pairs.get(part.table.lower(), {}).items():
            known_as = f"{prefix}{_value(database, table, 'carried', one, _key(table, part))}"
            for name in part.annotations:
                column = key_of(table, table.column(name))
                came, stays = (_value(database, table, *at, column) for at in (("carried", one), ("main", other)))
                if came is not None and came != stays:
                    keys.stays.add((known_as, name))
    return keys


class _Report:
    def __init__(
        self, database: apsw.Connection, merge: RowMerge, sides: Sides, who: _Who, before: Mapping[str, int]
    ) -> None:
        self._database = database
        self._merge = merge
        self._sides = sides
        self._who = who
        self._before = before

    def made(self) -> MergeReport:
        """The report."""
        merge, values = self._merge, self._merge.values
        entries = [each for each in merge.structure.merged if each.role is Role.ENTRIES]
        new = sum(merge.counts[each.name].new for each in entries)
        fresh = [each for each in self._who.carried if each.key not in self._who.pairs.one]
        new_groups, grown = self._groups()
        return MergeReport(
            tables=tuple(self._table(each) for each in merge.structure.merged),
            new=new,
            same=sum(merge.counts[each.name].same for each in entries),
            only_there=values.only_there,
            only_carried=values.only_carried,
            facts=values.facts,
            conflicts=tuple(values.conflicts),
            groups_new=new_groups,
            groups_grown=grown,
            examples=tuple(each.recorded for each in fresh[:_EXAMPLES]),
            unsure=self._who.pairs.unsure,
            deleted_there=self._deleted_there(),
            aside=tuple(merge.structure.aside),
            three_sides=self._sides.origin is not None,
        )

    def _table(self, merged: Merged) -> MergedTable:
        count = self._merge.counts[merged.name]
        after = merged.table.count(self._database)
        before = self._before[merged.name]
        return MergedTable(
            merged.name, str(merged.role), count.carried, before, count.new, count.same, after, merged.why
        )

    def _groups(self) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """The names of the groups that are new, and of those that have more members now."""
        new, grown = [], []
        for part in self._sides.part.groups:
            merged = self._merge.structure.of(part.table)
            members = self._merge.structure.of(part.members.table) if part.members else None
            if merged is None or members is None or part.members is None:
                continue
            fresh = self._merge.fresh[merged.name.lower()]
            more = {self._value(members, each, part.members.group) for each in self._merge.fresh[members.name.lower()]}
            for handle in self._merge.maps[merged.name.lower()].values():
                name = str(self._value(merged, handle, part.name))
                if handle in fresh:
                    new.append(name)
                elif self._value(merged, handle, part.key) in more:
                    grown.append(name)
        return tuple(new), tuple(grown)

    def _value(self, merged: Merged, handle: Handle, column: str) -> object:
        table = merged.table
        where = " AND ".join(f"{key_of(table, each)} IS ?" for each in ((table.key,) if table.key else table.keys))
        cell = key_of(table, table.column(column))
        return self._database.execute(f"SELECT {cell} FROM main.{quoted(table.name)} WHERE {where}", handle).get

    def _deleted_there(self) -> int:
        """Entries that are new though both sides had them once."""
        origin = self._sides.origin
        if origin is None:
            return 0
        number = 0
        for part in self._sides.part.entries:
            name = part.table.lower()
            placed = {
                handle for handle, other in self._merge.maps.get(name, {}).items() if other in self._merge.fresh[name]
            }
            with closing(open_immutable(origin.carried)) as before:
                was = {handle for handle, _ in _rows_with_keys(before, part)}
            number += len(placed & was)
        return number
