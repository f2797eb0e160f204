"""An SQLite table without its indexes: a million texts are written far sooner when no index has to follow each one.

The rows get a second name with no index to it, in a working copy (sqlite.org/imposter.html); after the writing, the
indexes that it concerns are built anew, and refuse then what they would have refused row by row.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager
from typing import NamedTuple

import apsw

from .sqlite_file import quoted

_PLAIN = """SELECT type = 'table' AND NOT wr AND NOT strict FROM pragma_table_list
    WHERE schema = 'main' AND name = ? COLLATE NOCASE"""
_ROOT = "SELECT rootpage, sql FROM main.sqlite_schema WHERE type = 'table' AND name = ? COLLATE NOCASE"
_COLUMNS = "SELECT name, type, dflt_value, pk, hidden FROM pragma_table_xinfo(?, 'main') ORDER BY cid"
# Its text tells what an index computes from or chooses by; one that has none of its own is told by its columns.
_CONCERNED = """SELECT i.name FROM pragma_index_list(?1, 'main') AS i
    LEFT JOIN main.sqlite_schema AS s ON s.type = 'index' AND s.name = i.name
    WHERE instr(lower(s.sql), lower(?2)) OR instr(lower(s.sql), lower(replace(?2, '"', '""'))) OR EXISTS (
        SELECT 1 FROM pragma_index_xinfo(i.name, 'main') AS k WHERE key AND k.name = ?2 COLLATE NOCASE)"""
_OWN_KEY = "SELECT 1 FROM pragma_index_list(?, 'main') WHERE origin = 'pk'"

# What a type's name says about how values are kept (sqlite.org/datatype3.html, section 3.1): the first that fits.
_AFFINITIES = (
    (re.compile("INT"), "INTEGER"),
    (re.compile("CHAR|CLOB|TEXT"), "TEXT"),
    (re.compile("BLOB|^$"), "BLOB"),
    (re.compile("REAL|FLOA|DOUB"), "REAL"),
)


class _Column(NamedTuple):
    name: str
    type: str
    default: str | None
    in_key: int
    hidden: int


@contextmanager
def without_indexes(connection: apsw.Connection, table: str, column: str) -> Iterator[str | None]:
    """Another name for the rows of ``table``, to write its ``column`` by; its indexes follow when the body is done.

    None where SQLite must look at each row: it keeps the table in another way, computes a column, or checks values.
    """
    definition = _definition(connection, table)
    if definition is None:
        yield None
        return
    root, columns = definition
    taken = {name.lower() for (name,) in connection.execute("SELECT name FROM main.sqlite_schema")}
    bare = next(name for n in range(len(taken) + 1) if (name := f"bare rows {n}") not in taken)
    create = f"CREATE TABLE {quoted(bare)} ({columns})"
    _edit_schema(connection, "INSERT INTO main.sqlite_schema VALUES ('table', ?1, ?1, ?2, ?3)", (bare, root, create))
    yield bare
    _edit_schema(connection, "DELETE FROM main.sqlite_schema WHERE name = ?", (bare,))
    for (index,) in list(connection.execute(_CONCERNED, (table, column))):
        connection.execute(f"REINDEX main.{quoted(index)}")


def _definition(connection: apsw.Connection, table: str) -> tuple[int, str] | None:
    """The first page of a table, and columns that keep values as its own do; None where that is not all there is."""
    columns = [_Column(*row) for row in connection.execute(_COLUMNS, (table,))]
    found = connection.execute(_ROOT, (table,)).fetchone()
    if found is None or not connection.execute(_PLAIN, (table,)).get or any(each.hidden for each in columns):
        return None
    root, sql = found
    if re.search("check", sql, re.IGNORECASE):
        return None
    numbered = sum(bool(each.in_key) for each in columns) == 1 and not connection.execute(_OWN_KEY, (table,)).get
    return root, ", ".join(_declared(each, is_number=numbered and bool(each.in_key)) for each in columns)


def _declared(column: _Column, *, is_number: bool) -> str:
    if is_number:
        return f"{quoted(column.name)} INTEGER PRIMARY KEY"
    kind = next((name for pattern, name in _AFFINITIES if pattern.search(column.type.upper())), "NUMERIC")
    default = f" DEFAULT ({column.default})" if column.default is not None else ""
    return f"{quoted(column.name)} {kind}{default}"


def _edit_schema(connection: apsw.Connection, statement: str, values: tuple[str | int, ...]) -> None:
    connection.pragma("writable_schema", "on")
    connection.execute(statement, values)
    connection.execute("PRAGMA writable_schema = RESET")  # it reads the schema again, too
