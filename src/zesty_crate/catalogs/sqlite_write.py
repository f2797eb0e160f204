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
_KEYS = "SELECT name FROM pragma_index_xinfo(?) WHERE key"
_HOW_MANY = "SELECT count(*) FROM list.change WHERE tbl = ? AND col = ?"
_CACHE_KIB = 64 << 10
_STORED = "SELECT name FROM pragma_table_xinfo(?, ?) WHERE hidden = 0"


def write_cells(target: Path, changes: Path) -> None:
    """Write the cells of a change list into the working copy ``target``, which is of no use when that fails.

    Raises `CatalogError` when a cell does not hold its old text any more, or the database refuses a value.
    """
    connection = open_writable(target)
    try:
        if connection.pragma("journal_mode") != "wal":
            connection.pragma("journal_mode", "off")
        connection.pragma("synchronous", "off")
        connection.pragma("cache_size", -_CACHE_KIB)
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
    """Write one column, in the order of the new texts: an index on it is then gone through once, and not at random."""
    row, cell = Schema(connection, target).row_id(table), quoted(column)
    update = f"main.{quoted(table)} SET {cell} = ? WHERE {row} = ? AND {cell} = ? COLLATE BINARY"
    listed = "SELECT new, row, old FROM list.change WHERE tbl = ? AND col = ?"
    before, collide = connection.total_changes(), _may_collide(connection, table, column)
    in_order = connection.execute(f"{listed} ORDER BY new", (table, column))
    connection.executemany(f"UPDATE {'OR IGNORE' if collide else ''} {update}", in_order)
    written = connection.total_changes() - before
    if collide and written < count:
        still = f"(SELECT {cell} FROM main.{quoted(table)} WHERE {row} = list.change.row)"
        held_back = list(connection.execute(f"{listed} AND old = {still} COLLATE BINARY", (table, column)))
        # They exchange texts that an index allows once. So all of them first give up theirs.
        connection.executemany(f"UPDATE {update}", ((f"{new}\1{at}", at, old) for new, at, old in held_back))
        connection.executemany(f"UPDATE {update}", ((new, at, f"{new}\1{at}") for new, at, _ in held_back))
        written += len(held_back)
    if written != count:
        raise CatalogError(
            f"{count} cells of {table}.{column} were to change, and {written} of them held the text that was read.",
            next_step="The catalog changed meanwhile; run the command again.",
        )


def _may_collide(connection: apsw.Connection, table: str, column: str) -> bool:
    """Whether an index that allows each text once may hold one of the new texts already, in another row."""
    for (index,) in list(connection.execute('SELECT name FROM pragma_index_list(?) WHERE "unique"', (table,))):
        columns = [str(name).lower() for (name,) in connection.execute(_KEYS, (index,))]
        if column.lower() in columns and len(columns) > 1:
            return True
        if columns == [column.lower()]:
            taken = f"SELECT 1 FROM main.{quoted(table)} AS t WHERE t.{quoted(column)} = c.new"
            query = f"SELECT 1 FROM list.change AS c WHERE c.tbl = ? AND c.col = ? AND EXISTS ({taken}) LIMIT 1"
            if connection.execute(query, (table, column)).get:
                return True
    return False


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
    """Compare one table; the number of its rows.

    Cells of listed columns may differ in as many rows as are listed, and all that are listed must hold their new text:
    so no other row can differ.
    """
    name, row = quoted(table), Schema(connection, path).row_id(table) if _has_single_key(connection, table) else ""
    columns = [column for (column,) in connection.execute(_STORED, (table, "main"))]
    listed = _listed_columns(connection, table)
    old_count, new_count = (connection.execute(f"SELECT count(*) FROM {db}.{name}").get for db in ("was", "main"))
    _require(old_count == new_count, f"its table {table} had {old_count} rows and has {new_count}")
    keys = [row] if row else [quoted(key) for key, pk in Schema(connection, path).columns(table) if pk]
    match = " AND ".join(f"new.{key} IS old.{key}" for key in keys)
    same = " AND ".join(_is_same(column) for column in columns if column.lower() not in listed) or "1"
    differs = ", ".join(f"count(*) FILTER (WHERE NOT {_is_same(column)})" for column in listed)
    query = f"SELECT count(*) FILTER (WHERE {same}) {differs and ', ' + differs}"
    ((equal, *differing),) = connection.execute(
        f"{query} FROM was.{name} AS old NOT INDEXED JOIN main.{name} AS new ON {match}"
    )
    _require(equal == old_count, f"{old_count - equal} rows of its table {table} differ outside the path cells")
    for (column, (told_table, told_column)), count in zip(listed.items(), differing, strict=True):
        written = connection.execute(
            f"SELECT count(*) FROM list.change AS c CROSS JOIN main.{name} AS new ON new.{row} = c.row "
            f"WHERE c.tbl = ? AND c.col = ? AND new.{quoted(column)} IS c.new COLLATE BINARY",
            (told_table, told_column),
        ).get
        wanted = connection.execute(_HOW_MANY, (told_table, told_column)).get
        _require(
            written == wanted == count, f"{count} rows of its table {table} differ in {column}, of {wanted} listed"
        )
    return int(old_count)


def _listed_columns(connection: apsw.Connection, table: str) -> dict[str, tuple[str, str]]:
    """The listed columns of a table in small letters, with the names by which the list calls table and column."""
    query = "SELECT DISTINCT tbl, col FROM list.change WHERE tbl = ? COLLATE NOCASE"
    return {column.lower(): (name, column) for name, column in connection.execute(query, (table,))}


def _is_same(column: str) -> str:
    """The SQL test that a cell is as it was: the same value and type."""
    cell = quoted(column)
    return f"(old.{cell} IS new.{cell} COLLATE BINARY AND typeof(old.{cell}) = typeof(new.{cell}))"


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
