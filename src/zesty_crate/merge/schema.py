"""What a database says about its tables, as far as a merge must know it."""

from __future__ import annotations

import difflib
from collections.abc import Iterator
from dataclasses import dataclass
from typing import NamedTuple

import apsw

from ..catalogs import CatalogError, quoted

_INTERNAL = "sqlite_"


class Values(NamedTuple):
    """The values of a column, other than nothing: how many different ones, and whether all are among certain keys."""

    number: int
    all_there: bool
    are_texts: bool


@dataclass(frozen=True, slots=True)
class Table:
    """A table. ``columns`` are those that are stored; ``key`` is the column, or the alias, that names a row for good.

    ``keys`` are the columns of its primary key, ``unique`` the sets of columns of its unique indexes,
    ``foreign_keys`` are columns with the table and the column that they point to. ``numbered`` when the key is an
    INTEGER PRIMARY KEY or the row number itself.
    """

    name: str
    columns: tuple[str, ...]
    needed: frozenset[str]
    key: str
    keys: tuple[str, ...]
    numbered: bool
    counted: bool
    unique: tuple[tuple[str, ...], ...]
    foreign_keys: tuple[tuple[str, str, str], ...]
    is_virtual: bool
    is_shadow: bool

    def column(self, name: str) -> str:
        """A column by its own spelling. Raises `CatalogError` when there is none."""
        if name.lower() in ("rowid", self.key.lower()):
            return self.key
        self.require(name)
        return next(each for each in self.columns if each.lower() == name.lower())

    def require(self, column: str) -> None:
        """Raise `CatalogError` when the table lacks a column."""
        known = {each.lower() for each in self.columns} | {"rowid", self.key.lower()}
        if column.lower() not in known:
            near = difflib.get_close_matches(column, self.columns, n=1)
            raise CatalogError(
                f"The guide names the column {column!r} in the table {self.name!r}, which has none.",
                next_step=f'Did you mean "{near[0]}"?' if near else f"It has {', '.join(self.columns)}.",
            )

    def is_needed(self, column: str) -> bool:
        """Whether a column always has a value."""
        return column.lower() in self.needed

    def count(self, database: apsw.Connection, schema: str = "main") -> int:
        """How many rows it has."""
        return int(database.execute(f"SELECT count(*) FROM {schema}.{quoted(self.name)}").get)

    def values_among(self, database: apsw.Connection, column: str, other: Table, target: str) -> Values | None:
        """How a column's values stand to the keys of another table; None when it has none."""
        mine, cell = quoted(self.name), quoted(column)
        query = (
            f"SELECT count(*), sum(typeof(v) = 'text'), sum(NOT EXISTS (SELECT 1 FROM {quoted(other.name)} "
            f"WHERE {key_of(other, target)} = v)) FROM (SELECT DISTINCT {cell} AS v FROM {mine} WHERE v IS NOT NULL)"
        )
        number, texts, absent = database.execute(query).fetchone() or (0, 0, 0)
        return Values(number, not absent, texts == number) if number else None


def key_of(table: Table, column: str = "") -> str:
    """The SQL of a column, or of a table's key."""
    name = column or table.key
    return name if name in ("rowid", "_rowid_", "oid") and name not in table.columns else quoted(name)


def tables_of(database: apsw.Connection) -> Iterator[Table]:
    """Every table of a database but its own internal ones."""
    rows = database.execute("SELECT name, type, wr FROM pragma_table_list WHERE schema = 'main' AND type <> 'view'")
    counted = database.execute("SELECT count(*) FROM sqlite_schema WHERE name = 'sqlite_sequence'").get
    autoincremented = set()
    if counted:
        query = "SELECT name FROM sqlite_schema WHERE type = 'table' AND sql LIKE '%AUTOINCREMENT%'"
        autoincremented = {row[0].lower() for row in database.execute(query)}
    for name, kind, without_rowid in list(rows):
        if not name.lower().startswith(_INTERNAL):
            yield _table(database, name, kind, bool(without_rowid), counted=name.lower() in autoincremented)


def _table(database: apsw.Connection, name: str, kind: str, without_rowid: bool, *, counted: bool) -> Table:
    info = list(
        database.execute('SELECT name, type, "notnull", pk FROM pragma_table_xinfo(?) WHERE hidden = 0', (name,))
    )
    columns = tuple(row[0] for row in info)
    keys = tuple(row[0] for row in sorted((row for row in info if row[3]), key=lambda row: row[3]))
    is_alias = len(keys) == 1 and not without_rowid and next(r[1] for r in info if r[0] == keys[0]).upper() == "INTEGER"
    taken = {each.lower() for each in columns}
    row_number = next((alias for alias in ("rowid", "_rowid_", "oid") if alias not in taken), "")
    key = keys[0] if is_alias or (without_rowid and len(keys) == 1) else "" if without_rowid else row_number
    unique = []
    for index, origin in database.execute('SELECT name, origin FROM pragma_index_list(?) WHERE "unique"', (name,)):
        of = [row[0] for row in database.execute("SELECT name FROM pragma_index_info(?) ORDER BY seqno", (index,))]
        if all(of) and not (origin == "pk" and without_rowid and len(keys) == 1):
            unique.append(tuple(of))
    foreign = _foreign_keys(database, name)
    needed = frozenset(row[0].lower() for row in info if row[2] or row[3])
    numbered = bool(is_alias or (not without_rowid and key == row_number))
    is_virtual, is_shadow = kind == "virtual", kind == "shadow"
    return Table(name, columns, needed, key, keys, numbered, counted, tuple(unique), foreign, is_virtual, is_shadow)


def _foreign_keys(database: apsw.Connection, name: str) -> tuple[tuple[str, str, str], ...]:
    """Foreign keys of one column: the column, the table and the column that it points to."""
    rows = list(database.execute('SELECT id, "from", "table", "to" FROM pragma_foreign_key_list(?)', (name,)))
    several = {row[0] for row in rows if sum(other[0] == row[0] for other in rows) > 1}
    return tuple((column, table, to or "") for number, column, table, to in rows if number not in several)
