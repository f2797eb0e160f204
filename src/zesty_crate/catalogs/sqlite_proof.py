"""Prove that a rewritten SQLite catalog is the original with new paths, and differs in nothing else.

SQLite keeps bookkeeping of its own in a file (change counters, free pages), so the proof is by value: the same schema,
the same settings, the same rows under the same row ids with the same types, but for the cells that were to change.
Cells of listed columns may differ in as many rows as are listed, and all that are listed must hold their new text: so
no other row can differ. The indexes of what was written must agree with its rows.
"""

from __future__ import annotations

from contextlib import closing
from pathlib import Path
from typing import NamedTuple

import apsw

from ..machines import beside
from .changes import ChangeList
from .model import CatalogError, Proof
from .search_indexes import sort_by_step
from .sqlite_file import STORED_COLUMNS, Schema, file_uri, list_for, open_immutable, open_with_list, quoted
from .sqlite_triggers import triggers_on

_SETTINGS = ("user_version", "application_id", "encoding", "page_size", "auto_vacuum")
_LISTED = "SELECT tbl, col FROM (SELECT tbl, col FROM list.place UNION SELECT tbl, col FROM list.pointer)"

_LINKS = """SELECT m.name, lower(f."from"), lower(f."table"), lower(coalesce(f."to", '')) FROM main.sqlite_schema AS m
    JOIN pragma_foreign_key_list(m.name) AS f WHERE m.type = 'table'"""
_COUNTERS = "sqlite_sequence"
_POINTS = "SELECT col, new FROM list.pointer WHERE tbl = ? COLLATE NOCASE AND row = ?"
_ADDED = "SELECT tbl, col, row, model, new FROM list.addition WHERE tbl = ? COLLATE NOCASE"

Column = tuple[str, str]  # a table and a column, by the names that the change list calls them


class _Listed(NamedTuple):
    """How many cells of a column are listed, and how many of these hold their new text."""

    cells: int
    written: int


def prove_cells(original: Path, rewritten: Path, changes: ChangeList) -> Proof:
    """Compare two databases whole. Raises `CatalogError` when they differ in anything but the cells of the list."""
    try:
        change_list = list_for(rewritten, changes)
        in_step, out_of_step = sort_by_step(rewritten, _touched(rewritten, change_list))
        kept_by_indexes = frozenset(name for index in in_step for name in index.shadows)
        with (
            closing(open_with_list(rewritten, change_list)) as connection,
            # Neither of two long questions waits for the other.
            beside(lambda: _listed_and_sound(original, rewritten, change_list)) as listed,
        ):
            connection.execute("ATTACH ? AS was", (file_uri(original) + "?mode=ro&immutable=1",))
            _same_settings(connection)
            tables = [
                name
                for name, kind in connection.execute("SELECT name, type FROM pragma_table_list WHERE schema = 'main'")
                if kind in ("table", "shadow")
                and name not in ("sqlite_schema", "sqlite_temp_schema")
                and name.lower() not in kept_by_indexes
            ]
            rows, differing = 0, dict[Column, int]()
            for table in tables:
                count, found = _same_rows(connection, rewritten, table)
                rows, differing = rows + count, {**differing, **found}
            rows_added = int(connection.execute("SELECT count(*) FROM list.addition").get)
        for (table, column), (cells, written) in listed().items():
            found_here = differing.get((table, column))
            _require(
                found_here == cells == written,
                f"{found_here} rows of its table {table} differ in {column}, of {cells} listed",
            )
        changed = {place: each.cells for place, each in listed().items() if each.cells}
        return Proof(
            len(tables),
            rows,
            sum(changed.values()),
            rows_added,
            triggers_on(original, changed),
            tuple(each.name for each in in_step),
            tuple(each.name for each in out_of_step),
        )
    except apsw.Error as error:
        raise CatalogError(f"The rewritten catalog cannot be compared: {error}.") from error


def _touched(rewritten: Path, change_list: Path) -> set[tuple[str, str]]:
    """The columns in which a text is listed, in small letters."""
    with closing(open_with_list(rewritten, change_list)) as connection:
        query = "SELECT tbl, col FROM list.place AS p WHERE EXISTS (SELECT 1 FROM list.change WHERE place = p.id)"
        more = "SELECT tbl, col FROM list.addition"
        return {(table.lower(), column.lower()) for table, column in connection.execute(f"{query} UNION {more}")}


def _listed_and_sound(original: Path, rewritten: Path, change_list: Path) -> dict[Column, _Listed]:
    listed = _listed(rewritten, change_list)
    _sound_indexes(rewritten, original, {table for table, _ in listed})
    _keys_still_meet(rewritten, original, {(t.lower(), c.lower()) for (t, c), each in listed.items() if each.cells})
    return listed


def _keys_still_meet(rewritten: Path, original: Path, changed: set[tuple[str, str]]) -> None:
    """Where a changed text is a key that other rows point to by its value, these rows must still find it."""
    with closing(open_immutable(rewritten)) as after, closing(open_immutable(original)) as before:
        links = list(after.execute(_LINKS))
        children = {child for child, *ends in links if changed & {(child.lower(), ends[0]), (ends[1], ends[2])}}
        for child in sorted(children):
            lost, were = (
                sum(1 for _ in each.execute(f"PRAGMA main.foreign_key_check({quoted(child)})"))
                for each in (after, before)
            )
            if lost > were:
                raise CatalogError(
                    f"{lost - were} rows of its table {child} point to these paths by their text, and would find "
                    "nothing any more.",
                    next_step="Tell the guide of that table, too, or change these paths in the program itself. "
                    "The catalog was not changed.",
                )


def _listed(rewritten: Path, change_list: Path) -> dict[Column, _Listed]:
    """What the change list says about each column, also of those in which nothing is to change."""
    found = {}
    with closing(open_with_list(rewritten, change_list)) as connection:
        schema = Schema(connection, rewritten)

        def count(rows: str, table: str, column: str, *values: int | str) -> None:
            cells = int(connection.execute(f"SELECT count(*) FROM {rows}", values).get)
            if schema.is_in_key(table, column):  # these are found again when all rows are compared
                found[table, column] = _Listed(cells, cells)
                return
            query = (
                f"SELECT count(*) FROM (SELECT row, new FROM {rows}) AS c CROSS JOIN main.{quoted(table)} AS t "
                f"ON {schema.row_id(table, 't')} = c.row AND t.{quoted(column)} IS c.new COLLATE BINARY"
            )
            found[table, column] = _Listed(cells, connection.execute(query, values).get)

        for place, table, column in list(connection.execute("SELECT id, tbl, col FROM list.place")):
            count("list.change WHERE place = ?", table, column, place)
        for table, column in list(connection.execute("SELECT DISTINCT tbl, col FROM list.pointer")):
            of_old_rows = "row NOT IN (SELECT row FROM list.addition AS a WHERE a.tbl = list.pointer.tbl)"
            count(f"list.pointer WHERE tbl = ? AND col = ? AND {of_old_rows}", table, column, table, column)
    return found


def _sound_indexes(rewritten: Path, original: Path, tables: set[str]) -> None:
    """Have SQLite hold these tables against their indexes.

    Where it finds fault with the original, too, or needs what only the program has, it cannot tell.
    """
    for table in tables:
        fault = _fault_in(rewritten, table)
        _require(not fault or bool(_fault_in(original, table)), f"SQLite reports about its table {table}: {fault}")


def _fault_in(path: Path, table: str) -> str:
    """What SQLite finds wrong with a table or its indexes; empty where nothing, or where it cannot tell."""
    with closing(open_immutable(path)) as connection:
        try:
            said = connection.execute(f"PRAGMA main.integrity_check({quoted(table)})").get
        except apsw.SQLError:  # a function of the program's own
            return ""
    return "" if said == "ok" else str(said)


def _same_settings(connection: apsw.Connection) -> None:
    for setting in _SETTINGS:
        old, new = (connection.pragma(setting, schema=name) for name in ("was", "main"))
        _require(old == new, f"its setting {setting} was {old} and is {new}")
    schemas = [
        list(connection.execute(f"SELECT type, name, tbl_name, sql FROM {name}.sqlite_schema ORDER BY 1, 2"))
        for name in ("was", "main")
    ]
    _require(schemas[0] == schemas[1], "its schema differs")


def _same_rows(connection: apsw.Connection, path: Path, table: str) -> tuple[int, dict[Column, int]]:
    """Compare one table in all but its listed columns; the number of its rows, and how many differ in each of those."""
    schema, name = Schema(connection, path), quoted(table)
    columns = [column for (column,) in connection.execute(STORED_COLUMNS, (table, "main"))]
    listed = _listed_columns(connection, table)
    old_count, new_count = (connection.execute(f"SELECT count(*) FROM {db}.{name}").get for db in ("was", "main"))
    added = sum(_is_added(connection, schema, *row) for row in list(connection.execute(_ADDED, (table,))))
    _require(new_count == old_count + added, f"its table {table} had {old_count} rows and has {new_count}")
    only = schema.has_key_only(table)
    keys = [quoted(each) for each in schema.key_of(table)] if only else [schema.row_id(table)]
    wanted = [_as_listed(schema, table, each, listed) if only else f"old.{each}" for each in keys]
    match = " AND ".join(f"new.{key} IS {each}" for key, each in zip(keys, wanted, strict=True))
    # The number of the last row, which SQLite counts up with each that is added (sqlite.org/autoinc.html).
    counts = {"seq": " OR old.name COLLATE NOCASE IN (SELECT tbl FROM list.addition)"} if table == _COUNTERS else {}
    unlisted = [column for column in columns if column.lower() not in listed]
    same = " AND ".join(f"({_is_same(column)}{counts.get(column, '')})" for column in unlisted) or "1"
    differs = ", ".join(f"count(*) FILTER (WHERE NOT {_is_same(column)})" for column in listed)
    query = f"SELECT count(*) FILTER (WHERE {same}) {differs and ', ' + differs}"
    ((equal, *differing),) = connection.execute(
        f"{query} FROM was.{name} AS old NOT INDEXED JOIN main.{name} AS new ON {match}"
    )
    _require(equal == old_count, f"{old_count - equal} rows of its table {table} differ outside the path cells")
    return int(old_count), dict(zip(listed.values(), differing, strict=True))


def _as_listed(schema: Schema, table: str, key: str, listed: dict[str, Column]) -> str:
    """What a column of a key must be now: the text that is listed for its row, else the same."""
    column = next((each for name, each in listed.items() if quoted(name).lower() == key.lower()), None)
    if column is None:
        return f"old.{key}"
    place = f"SELECT id FROM list.place WHERE tbl = {_literal(column[0])} AND col = {_literal(column[1])}"
    row = schema.row_id(table, "old")
    return f"coalesce((SELECT new FROM list.change WHERE place = ({place}) AND row = {row}), old.{key})"


def _literal(text: str) -> str:
    return "'" + text.replace("'", "''") + "'"


def _is_added(
    connection: apsw.Connection, schema: Schema, table: str, column: str, row: int, model: int, new: str
) -> bool:
    """Whether a listed row is new, and like its model but for its number and the listed text."""
    number, name = schema.row_id(table), quoted(table)
    pointing = dict(connection.execute(_POINTS, (table, row)))
    own = (column.lower(), (schema.number_of(table) or "").lower(), *(each.lower() for each in pointing))
    points = "".join(f" AND new.{quoted(each)} IS {int(to)}" for each, to in pointing.items())
    stored = [each for (each,) in connection.execute(STORED_COLUMNS, (table, "main"))]
    same = [_is_same(each) for each in stored if each.lower() not in own]
    found = connection.execute(
        f"SELECT count(*) FROM was.{name} AS old JOIN main.{name} AS new ON old.{number} = ?1 AND new.{number} = ?2 "
        f"WHERE {' AND '.join(same) or 1} AND new.{quoted(column)} IS ?3 COLLATE BINARY "
        f"{points} AND NOT EXISTS (SELECT 1 FROM was.{name} WHERE {number} = ?2)",
        (model, row, new),
    ).get
    _require(found == 1, f"the row {row} added to its table {table} is not the listed one")
    return True


def _listed_columns(connection: apsw.Connection, table: str) -> dict[str, Column]:
    """The listed columns of a table in small letters, with the names by which the list calls table and column."""
    query = f"{_LISTED} WHERE tbl = ? COLLATE NOCASE"
    return {column.lower(): (name, column) for name, column in connection.execute(query, (table,))}


def _is_same(column: str) -> str:
    """The SQL test that a cell is as it was: the same value and type."""
    cell = quoted(column)
    return f"(old.{cell} IS new.{cell} COLLATE BINARY AND typeof(old.{cell}) = typeof(new.{cell}))"


def _require(holds: bool, difference: str) -> None:
    if not holds:
        raise CatalogError(
            f"The rewritten catalog differs from the original in more than its paths: {difference}. It was discarded.",
            next_step="The catalog was not changed. Please report this fault to the makers of Zesty Crate.",
        )
