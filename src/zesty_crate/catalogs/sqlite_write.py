"""Write new paths into a working copy of an SQLite catalog."""

from __future__ import annotations

from pathlib import Path
from typing import NamedTuple

import apsw

from .bare_table import without_indexes
from .changes import ChangeList
from .collations import match_collations
from .model import CatalogError
from .search_indexes import in_step, indexes_over, rebuild
from .sqlite_file import STORED_COLUMNS, Schema, list_for, open_writable, quoted

_KEYS = "SELECT name FROM pragma_index_xinfo(?) WHERE key"
# A list names few columns and very many rows: to count those of each is sooner done than to group them all.
_CHANGED = (
    "SELECT id, tbl, col, (SELECT count(*) FROM list.change WHERE place = p.id) AS n FROM list.place AS p WHERE n"
)
_CACHE_KIB = 64 << 10


class _Column(NamedTuple):
    """A column that must be written: its number in the list, and how many cells are listed."""

    place: int
    table: str
    column: str
    cells: int


def write_cells(target: Path, changes: ChangeList) -> None:
    """Write the cells of a change list into the working copy ``target``, which is of no use when that fails.

    Raises `CatalogError` when a cell does not hold its old text any more, or the database refuses a value.
    """
    listed = list_for(target, changes)
    connection = open_writable(target)
    try:
        if connection.pragma("journal_mode") != "wal":
            connection.pragma("journal_mode", "off")
        connection.pragma("synchronous", "off")
        connection.pragma("cache_size", -_CACHE_KIB)
        connection.execute("ATTACH ? AS list", (str(listed),))
        columns = [_Column(*row) for row in connection.execute(_CHANGED)]
        added = list(connection.execute("SELECT DISTINCT tbl, col FROM list.addition"))
        written = [(each.table, each.column) for each in columns]
        touched = {(table.lower(), column.lower()) for table, column in (*written, *added)}
        match_collations(connection, touched)
        indexes = [each for each in indexes_over(connection, touched) if in_step(connection, each)]
        with connection:
            for each in columns:
                _write_column(connection, target, each)
            _add_rows(connection, target)
            _point_elsewhere(connection, target)
            rebuild(connection, indexes)
    except (apsw.Error, UnicodeError) as error:
        raise CatalogError(
            f"The database refused a new path: {error}.",
            next_step="The catalog was not changed. Look at the rules that the program gave to this column.",
        ) from error
    finally:
        connection.close()


def _write_column(connection: apsw.Connection, target: Path, to: _Column) -> None:
    schema = Schema(connection, target)
    row, cell = schema.row_id(to.table), quoted(to.column)
    if schema.is_virtual(to.table):
        raise CatalogError(
            f"{to.table} is a virtual table, as full-text indexes are: what its module writes cannot be compared.",
            next_step="Name the table that it indexes in the guide, or let the program build it again.",
        )
    has_long_key = schema.has_key_only(to.table) and len(schema.key_of(to.table)) > 1
    if has_long_key or schema.is_in_key(to.table, to.column):
        _require_written(_write_by_key(connection, to, schema), to.cells, to.table, to.column)
        return
    with without_indexes(connection, to.table, to.column) as bare:
        if bare is None:
            written = _write_each(connection, to, row)
        else:
            before = connection.total_changes()
            connection.execute(
                f"UPDATE main.{quoted(bare)} AS t SET {cell} = c.new FROM list.change AS c "
                f"WHERE c.place = ? AND t.{row} = c.row AND t.{cell} = c.old COLLATE BINARY",
                (to.place,),
            )
            written = connection.total_changes() - before
    _require_written(written, to.cells, to.table, to.column)


def _write_by_key(connection: apsw.Connection, to: _Column, schema: Schema) -> int:
    """Write to rows that are known by their keys: first with a mark, since some texts may take the place of others."""
    table, cell, before = f"main.{quoted(to.table)}", quoted(to.column), connection.total_changes()
    connection.execute(
        f"WITH listed AS MATERIALIZED (SELECT row, old, new FROM list.change WHERE place = ?) "
        f"UPDATE {table} AS t SET {cell} = c.new || char(1) FROM listed AS c "
        f"WHERE c.row = {schema.row_id(to.table, 't')} AND t.{cell} = c.old COLLATE BINARY",
        (to.place,),
    )
    written, plain = connection.total_changes() - before, f"substr({cell}, 1, length({cell}) - 1)"
    connection.execute(
        f"UPDATE {table} SET {cell} = {plain} WHERE typeof({cell}) = 'text' AND substr({cell}, -1) = char(1) "
        f"AND {plain} IN (SELECT new FROM list.change WHERE place = ?)",
        (to.place,),
    )
    return written


def _write_each(connection: apsw.Connection, to: _Column, row: str) -> int:
    """Write row by row, in the order of the new texts: an index on them is gone through once, and not at random."""
    table, cell = f"main.{quoted(to.table)}", quoted(to.column)
    update = f"{table} SET {cell} = ? WHERE {row} = ? AND {cell} = ? COLLATE BINARY"
    listed = "SELECT new, row, old FROM list.change WHERE place = ?"
    before, collide = connection.total_changes(), _may_collide(connection, to)
    in_order = connection.execute(f"{listed} ORDER BY new", (to.place,))
    connection.executemany(f"UPDATE {'OR IGNORE' if collide else ''} {update}", in_order)
    written = connection.total_changes() - before
    if collide and written < to.cells:
        still = f"(SELECT {cell} FROM {table} WHERE {row} = list.change.row)"
        held_back = list(connection.execute(f"{listed} AND old = {still} COLLATE BINARY", (to.place,)))
        # They exchange texts that an index allows once. So all of them first give up theirs.
        connection.executemany(f"UPDATE {update}", ((f"{new}\1{at}", at, old) for new, at, old in held_back))
        connection.executemany(f"UPDATE {update}", ((new, at, f"{new}\1{at}") for new, at, _ in held_back))
        written += len(held_back)
    return written


def _add_rows(connection: apsw.Connection, target: Path) -> None:
    """Add rows that are like another one but for their number and one text."""
    for table, column, row, model, new in list(
        connection.execute("SELECT tbl, col, row, model, new FROM list.addition")
    ):
        schema = Schema(connection, target)
        number, name = schema.row_id(table), f"main.{quoted(table)}"
        key = (schema.number_of(table) or number).lower()
        stored = [name for (name,) in connection.execute(STORED_COLUMNS, (table, "main"))]
        values = [
            "?1" if each.lower() == key else "?2" if each.lower() == column.lower() else quoted(each) for each in stored
        ]
        connection.execute(
            f"INSERT INTO {name} ({', '.join(map(quoted, stored))}) SELECT {', '.join(values)} FROM {name} "
            f"WHERE {number} = ?3",
            (row, new, model),
        )
        _require_written(connection.changes(), 1, table, column)


def _point_elsewhere(connection: apsw.Connection, target: Path) -> None:
    """Have entries point to the rows that were added for them."""
    for table, column, count in list(connection.execute("SELECT tbl, col, count(*) FROM list.pointer GROUP BY 1, 2")):
        row, cell, before = Schema(connection, target).row_id(table), quoted(column), connection.total_changes()
        connection.executemany(
            f"UPDATE main.{quoted(table)} SET {cell} = ? WHERE {row} = ? AND {cell} = ?",
            list(
                connection.execute("SELECT new, row, old FROM list.pointer WHERE tbl = ? AND col = ?", (table, column))
            ),
        )
        _require_written(connection.total_changes() - before, count, table, column)


def _require_written(written: int, listed: int, table: str, column: str) -> None:
    if written != listed:
        raise CatalogError(
            f"{listed} cells of {table}.{column} were to change, and {written} of them held the text that was read.",
            next_step="The catalog changed while it was rewritten. Run the command again.",
        )


def _may_collide(connection: apsw.Connection, to: _Column) -> bool:
    """Whether an index that allows each text once may hold one of the new texts already, in another row."""
    for (index,) in list(connection.execute('SELECT name FROM pragma_index_list(?) WHERE "unique"', (to.table,))):
        columns = [str(name).lower() for (name,) in connection.execute(_KEYS, (index,))]
        if to.column.lower() in columns and len(columns) > 1:
            return True
        if columns == [to.column.lower()]:
            taken = f"SELECT 1 FROM main.{quoted(to.table)} AS t WHERE t.{quoted(to.column)} = c.new"
            query = f"SELECT 1 FROM list.change AS c WHERE c.place = ? AND EXISTS ({taken}) LIMIT 1"
            if connection.execute(query, (to.place,)).get:
                return True
    return False
