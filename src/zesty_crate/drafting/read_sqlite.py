"""A database as tables, with some rows of each from all over it, and the ways from one table to another."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import apsw

from ..catalogs import quoted
from ..catalogs.sqlite_file import Schema, open_readonly
from ..machines import Disk
from ..paths import MachinePath
from .tables import MOST_RECORDS, Field, Table, evenly

_MOST_TABLES = 300
_FEW = 200  # values by which a way is judged
_MOST_STEPS = 60  # from a row of a tree to the outermost one
_NOTHING = (None, "", 0, -1, "0", "-1")


@dataclass(frozen=True, slots=True)
class Way:
    """A column whose values are keys of another table, by that table's column ``target`` (as SQL).

    ``is_evident`` when the schema declares it, or both columns have one name; by values alone it may be an accident.
    """

    table: str
    via: str
    to: str
    target: str
    is_evident: bool = False
    is_declared: bool = False


@dataclass(slots=True)
class Database:
    """An open database: tables with some of their rows, ways between them, and which are within each other."""

    connection: apsw.Connection
    schema: Schema
    at: MachinePath
    tables: dict[str, Table] = field(default_factory=dict)
    keys: dict[str, tuple[str, ...]] = field(default_factory=dict)  # primary keys
    _ways: dict[str, list[Way]] = field(default_factory=dict)
    _rows: dict[tuple[str, str, str], dict[Any, Any]] = field(default_factory=dict)

    def close(self) -> None:
        """Let go of it."""
        self.connection.close()

    def ways_from(self, name: str) -> list[Way]:
        """The columns of a table whose values are keys of others."""
        known = self._ways.get(name)
        if known is None:
            known = self._ways[name] = [*self._ways_of(self.tables[name])]
        return known

    def _ways_of(self, table: Table) -> Iterator[Way]:
        declared = {
            (row[0].lower(), row[1].lower())
            for row in self.connection.execute('SELECT "from", "table" FROM pragma_foreign_key_list(?)', (table.each,))
        }
        for column in table:
            values = {each for each in column.values if each not in _NOTHING and not isinstance(each, bytes | float)}
            if not values or sum(isinstance(each, str) and len(each) > 64 for each in values):
                continue
            some = sorted(values, key=str)[:_FEW]
            for other in self.tables.values():
                is_declared = (column.selector.lower(), other.each.lower()) in declared
                if other is table and column.selector in self.keys[table.each]:
                    continue
                target = self._target(table, column.selector, other)
                if self._are_keys(some, other.each, target) and (is_declared or self._may_be_key(other.each, target)):
                    is_key = target.strip('"').lower() in {key.lower() for key in self.keys[other.each]}
                    is_named = other is not table and _is_named_for(column.selector, other.each, target)
                    is_evident = is_declared or (is_named and (is_key or target == "rowid"))
                    yield Way(table.each, column.selector, other.each, target, is_evident, is_declared)

    def _target(self, table: Table, column: str, other: Table) -> str:
        """The column to which a column would point, as the product itself has it."""
        if other is not table:
            return self.schema.target_of(table.each, column, other.each)
        keys = self.keys[table.each]
        return quoted(keys[0]) if len(keys) == 1 else self.schema.row_id(table.each)

    def _may_be_key(self, table: str, target: str) -> bool:
        """Whether no two rows have one value there."""
        if target.strip('"').lower() in {each.lower() for each in self.keys[table]} and len(self.keys[table]) == 1:
            return True
        name, cell = quoted(table), target
        query = f"SELECT count({cell}) = count(DISTINCT {cell}) FROM (SELECT {cell} FROM {name} LIMIT 20000)"
        return bool(self.connection.execute(query).get)

    def _are_keys(self, values: Sequence[Any], table: str, target: str) -> bool:
        query = f"SELECT 1 FROM {quoted(table)} WHERE {target} = ? LIMIT 1"
        found = 0
        for number, value in enumerate(values, start=1):
            found += self.connection.execute(query, (value,)).get is not None
            if number >= 20 and found * 10 < number * 9:
                return False
        return found * 100 >= len(values) * 95

    def through(self, way: Way, keys: Sequence[Any], column: str) -> list[Any]:
        """For each key the value of a column in the row that it points to."""
        known = self._rows.setdefault((way.to, way.target, column), {})
        query = f"SELECT {quoted(column)} FROM {quoted(way.to)} WHERE {way.target} = ?"
        for key in {each for each in keys if each not in known and each is not None}:
            known[key] = next((row[0] for row in self.connection.execute(query, (key,))), None)
        return [known.get(each) for each in keys]

    def branches(self, way: Way, keys: Sequence[Any], parent: str, column: str) -> list[list[Any]]:
        """For each key the values of a column in the row that it points to, and in those around it, outermost first."""
        up = Way(way.to, parent, way.to, way.target)
        found = []
        for key in keys:
            values, seen = list[Any](), set[Any]()
            step, at = way, key
            while at not in _NOTHING and at not in seen and len(values) < _MOST_STEPS:
                seen.add(at)
                values.append(self.through(step, [at], column)[0])
                at = self.through(step, [at], parent)[0]
                step = up
            found.append(values[::-1])
        return found

    def parents_in(self, name: str) -> list[str]:
        """The columns in which a table's rows name the row around them."""
        return [way.via for way in self.ways_from(name) if way.to == name]


def _is_named_for(column: str, table: str, target: str) -> bool:
    """Whether a column is called like the key of another table, or like it: ``book``, ``book_id``, ``idBook``."""
    name, key = column.lower(), target.strip('"').lower()
    if name == key and name not in ("id", "rowid", "key"):
        return True
    bare = re.sub(r"^id_?(?=.)|_?(?:id|key|ref|no)$", "", name)
    return len(bare) > 1 and bare.rstrip("s") == table.lower().rstrip("s")


def open_database(path: Path, at: MachinePath, disk: Disk, scratch: Path) -> Database:
    """Read some rows of every table. Raises `CatalogError` or `apsw.Error`."""
    connection = open_readonly(path, disk, scratch)
    database = Database(connection, Schema(connection, path), at)
    try:
        rows = connection.execute("SELECT name FROM pragma_table_list WHERE schema = 'main' AND type = 'table'")
        for name in [str(row[0]) for row in rows][:_MOST_TABLES]:
            if not name.startswith("sqlite_"):
                database.tables[name] = _table(database, name)
                database.keys[name] = tuple(database.schema.key_of(name))
    except (apsw.Error, UnicodeDecodeError):
        connection.close()
        raise
    return database


def _table(database: Database, name: str) -> Table:
    connection, table = database.connection, Table(name)
    query = "SELECT name FROM pragma_table_xinfo(?) WHERE hidden = 0"
    columns = [row[0] for row in connection.execute(query, (name,))]
    number = int(connection.execute(f"SELECT count(*) FROM {quoted(name)}").get)
    for row in _some_rows(database, name, columns, number):
        table.add(database.at, zip(columns, row, strict=True))
    table.count = number
    for column in columns:
        table.fields.setdefault(column, Field(column))
    return table.finish()


def _some_rows(database: Database, name: str, columns: Sequence[str], number: int) -> Iterator[tuple[Any, ...]]:
    cells = ", ".join(map(quoted, columns))
    connection, schema = database.connection, database.schema
    if number <= MOST_RECORDS:
        yield from _readable(connection, f"SELECT {cells} FROM {quoted(name)}")
    elif schema.has_key_only(name):
        step = number // MOST_RECORDS + 1
        inner = f"SELECT {cells}, row_number() OVER () AS n FROM {quoted(name)}"
        yield from _readable(connection, f"SELECT {cells} FROM ({inner}) WHERE n % {step} = 0")
    else:
        row = schema.row_id(name)
        first, last = connection.execute(f"SELECT min({row}), max({row}) FROM {quoted(name)}").fetchone() or (0, 0)
        seen = first - 1
        for step in evenly(last - first + 1, MOST_RECORDS):
            query = f"SELECT {row}, {cells} FROM {quoted(name)} WHERE {row} >= ? ORDER BY {row} LIMIT 1"
            for found in _readable(connection, query, (max(first + step, seen + 1),)):
                seen = found[0]
                yield found[1:]


def _readable(connection: apsw.Connection, query: str, bindings: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    with contextlib.suppress(UnicodeDecodeError):  # what is behind such a row is not looked at
        yield from connection.execute(query, bindings)
