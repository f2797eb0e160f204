"""Write new paths into a working copy of an SQLite catalog, and prove that nothing else differs.

SQLite keeps bookkeeping of its own in a file (change counters, free pages), so the proof is by value: the same schema,
the same settings, the same rows under the same row ids with the same types, but for the cells that were to change.
"""

from __future__ import annotations

from pathlib import Path

import apsw

from .collations import settle_collations
from .model import CatalogError, Proof
from .sqlite_file import Schema, file_uri, open_writable, quoted

_SETTINGS = ("user_version", "application_id", "encoding", "page_size", "auto_vacuum")
_STORED = "SELECT name FROM pragma_table_xinfo(?, ?) WHERE hidden = 0"


def write_cells(target: Path, changes: Path) -> None:
    """Write the cells of a change list into the working copy ``target``; all of them or none.

    Raises `CatalogError` when a cell does not hold its old text any more, or the database refuses a value.
    """
    connection = open_writable(target)
    try:
        if connection.pragma("journal_mode") != "wal":
            connection.pragma("journal_mode", "memory")
        connection.pragma("synchronous", "off")
        connection.execute("ATTACH ? AS list", (str(changes),))
        columns = list(connection.execute("SELECT tbl, col, count(*) FROM list.change GROUP BY tbl, col"))
        settle_collations(connection, {(table.lower(), column.lower()) for table, column, _ in columns})
        with connection:
            for table, column, count in columns:
                _write_column(connection, target, table, column, count)
    except (apsw.Error, UnicodeError) as error:
        raise CatalogError(
            f"The catalog {target.name} refused a new path: {error}.", next_step="Nothing was changed in the catalog."
        ) from error
    finally:
        connection.close()


def _write_column(connection: apsw.Connection, target: Path, table: str, column: str, count: int) -> None:
    row = Schema(connection, target).row_id(table)
    before = connection.total_changes()
    connection.execute(
        f"UPDATE main.{quoted(table)} SET {quoted(column)} = list.change.new FROM list.change "
        f"WHERE list.change.tbl = ? AND list.change.col = ? AND list.change.row = main.{quoted(table)}.{row} "
        f"AND list.change.old = main.{quoted(table)}.{quoted(column)} COLLATE BINARY",
        (table, column),
    )
    written = connection.total_changes() - before
    if written != count:
        raise CatalogError(
            f"{count} cells of {table}.{column} were to change, and {written} of them held the text that was read.",
            next_step="The catalog changed meanwhile; run the command again.",
        )


def prove_cells(original: Path, rewritten: Path, changes: Path) -> Proof:
    """Compare two databases whole. Raises `CatalogError` when they differ in anything but the cells of the list."""
    connection = open_writable(rewritten)
    try:
        connection.pragma("query_only", 1)
        connection.execute("ATTACH ? AS was", (file_uri(original) + "?mode=ro&immutable=1",))
        connection.execute("ATTACH ? AS list", (str(changes),))
        _same_settings(connection)
        tables = [
            name
            for name, kind in connection.execute("SELECT name, type FROM pragma_table_list WHERE schema = 'main'")
            if kind in ("table", "shadow") and name not in ("sqlite_schema", "sqlite_temp_schema")
        ]
        rows = sum(_same_rows(connection, rewritten, table) for table in tables)
        changed = int(connection.execute("SELECT count(*) FROM list.change").get)
        return Proof(len(tables), rows, changed)
    except apsw.Error as error:
        raise CatalogError(f"The rewritten catalog cannot be compared: {error}.") from error
    finally:
        connection.close()


def _same_settings(connection: apsw.Connection) -> None:
    for setting in _SETTINGS:
        old, new = (connection.pragma(setting, schema=name) for name in ("was", "main"))
        _require(old == new, f"its setting {setting} was {old} and is {new}")
    schemas = [
        list(connection.execute(f"SELECT type, name, tbl_name, sql FROM {name}.sqlite_schema ORDER BY 1, 2"))
        for name in ("was", "main")
    ]
    _require(schemas[0] == schemas[1], "its schema differs")


def _same_rows(connection: apsw.Connection, path: Path, table: str) -> int:
    """Compare one table; the number of its rows."""
    name, row = quoted(table), Schema(connection, path).row_id(table) if _has_single_key(connection, table) else ""
    columns = [column for (column,) in connection.execute(_STORED, (table, "main"))]
    listed = {
        column.lower()
        for (column,) in connection.execute("SELECT DISTINCT col FROM list.change WHERE tbl = ?", (table,))
    }
    old_count, new_count = (connection.execute(f"SELECT count(*) FROM {db}.{name}").get for db in ("was", "main"))
    _require(old_count == new_count, f"its table {table} had {old_count} rows and has {new_count}")
    keys = [row] if row else [quoted(key) for key, pk in Schema(connection, path).columns(table) if pk]
    match = " AND ".join(f"new.{key} IS old.{key}" for key in keys)
    same = [_cell_test(column, row if column.lower() in listed else "") for column in columns]
    query = f"SELECT count(*) FROM was.{name} AS old JOIN main.{name} AS new ON {match} WHERE {' AND '.join(same)}"
    bound = {"tbl": table} if listed else {}
    equal = connection.execute(query, bound).get
    _require(equal == old_count, f"{old_count - equal} rows of its table {table} differ outside the path cells")
    return int(old_count)


def _cell_test(column: str, listed_by_row: str) -> str:
    """The SQL test that a cell is as it must be: the same value and type, or the listed text in a listed cell."""
    cell = quoted(column)
    same = f"(old.{cell} IS new.{cell} COLLATE BINARY AND typeof(old.{cell}) = typeof(new.{cell}))"
    if not listed_by_row:
        return same
    wanted = (
        f"(SELECT c.new FROM list.change AS c WHERE c.tbl = :tbl AND c.col = '{column.replace(chr(39), chr(39) * 2)}' "
        f"COLLATE NOCASE AND c.row = new.{listed_by_row})"
    )
    return f"CASE WHEN {wanted} IS NULL THEN {same} ELSE new.{cell} IS {wanted} COLLATE BINARY END"


def _has_single_key(connection: apsw.Connection, table: str) -> bool:
    without = connection.execute("SELECT wr FROM pragma_table_list WHERE schema = 'main' AND name = ?", (table,)).get
    keys = connection.execute("SELECT count(*) FROM pragma_table_xinfo(?) WHERE pk", (table,)).get
    return not without or keys == 1


def _require(holds: bool, difference: str) -> None:
    if not holds:
        raise CatalogError(
            f"The rewritten catalog is not the original with new paths: {difference}. It was thrown away.",
            next_step="Nothing was changed. This is worth a report to the makers of Zesty Crate.",
        )
