"""SQLite databases as files: opened without a trace, described, and never run by what they contain."""

from __future__ import annotations

import difflib
from collections.abc import Callable, Iterable
from contextlib import closing
from pathlib import Path

import apsw

from ..machines import Disk
from ..machines.sqlite_files import UNFINISHED_ENDINGS
from ..systems import this_system
from .changes import ChangeList
from .model import CatalogError

_MAGIC = b"SQLite format 3\0"
_READING = frozenset({apsw.SQLITE_SELECT, apsw.SQLITE_READ, apsw.SQLITE_FUNCTION, apsw.SQLITE_RECURSIVE})
STORED_COLUMNS = "SELECT name FROM pragma_table_xinfo(?, ?) WHERE hidden = 0"
BUILT_IN_COLLATIONS = frozenset({"BINARY", "NOCASE", "RTRIM"})


def journals_beside(path: Path, disk: Disk) -> list[Path]:
    """A journal or write-ahead log that a program left beside its database, with work in it."""
    beside = [path.with_name(path.name + ending) for ending in UNFINISHED_ENDINGS]
    return [each for each in beside if (facts := disk.facts(each)) is not None and facts.size_bytes > 0]


def open_readonly(path: Path, disk: Disk, scratch: Path) -> apsw.Connection:
    """Open a database so that nothing beside it is made or changed.

    When a journal was left beside it, a copy of both in ``scratch`` is opened, so that the reader sees what the program
    would see. Raises `CatalogError` when the file is not there or no SQLite database.
    """
    facts = disk.facts(path)
    if facts is None or not facts.is_file:
        raise CatalogError(
            f"The catalog {path} is not there.", next_step="Check the program's folder in the guide and the sheet."
        )
    if disk.read_start(path, len(_MAGIC)) != _MAGIC:
        raise CatalogError(
            f"The catalog {path} is not an SQLite database (its first 16 bytes differ); it may be damaged, "
            "encrypted or of another program version.",
            next_step="Open it in its program on the old computer, or correct the guide's syntax.",
        )
    if journals_beside(path, disk):
        path = recovered_copy(path, scratch / path.name, disk)
    connection = apsw.Connection(file_uri(path) + "?mode=ro&immutable=1", flags=_READ)
    tame(connection)
    return connection


def recovered_copy(path: Path, target: Path, disk: Disk) -> Path:
    """Copy a database with the journals beside it to ``target``, and have SQLite finish what the journals began."""
    ends = [each.name[len(path.name) :] for each in journals_beside(path, disk)]
    for ending in ("", *ends):
        source, copy = path.with_name(path.name + ending), target.with_name(target.name + ending)
        facts = disk.facts(source)
        if facts is not None:
            disk.remove(copy)
            disk.copy(source, copy, facts)
    if ends:
        connection = open_writable(target)
        connection.pragma("schema_version")  # reading anything makes SQLite recover
        if connection.pragma("journal_mode") == "wal":
            connection.wal_checkpoint(mode=apsw.SQLITE_CHECKPOINT_TRUNCATE)
        connection.close()
    return target


def open_writable(path: Path) -> apsw.Connection:
    """Open a working copy for writing, with triggers off."""
    connection = apsw.Connection(file_uri(path), flags=apsw.SQLITE_OPEN_READWRITE | apsw.SQLITE_OPEN_URI)
    tame(connection)
    return connection


def list_for(path: Path, changes: ChangeList) -> Path:
    """A change list that can be attached to the database at ``path``: one of the same text encoding."""
    with closing(apsw.Connection(file_uri(path) + "?mode=ro&immutable=1", flags=_READ)) as connection:
        return changes.file(connection.pragma("encoding"))


def open_immutable(path: Path) -> apsw.Connection:
    """Open a database for reading that nobody writes to meanwhile."""
    connection = apsw.Connection(file_uri(path) + "?mode=ro&immutable=1", flags=_READ)
    tame(connection)
    return connection


def open_with_list(path: Path, listed: Path) -> apsw.Connection:
    """Open a database for reading, and with it, as ``list``, a change list from `list_for`."""
    connection = open_immutable(path)
    connection.execute("ATTACH ? AS list", (file_uri(listed) + "?mode=ro",))
    return connection


def file_uri(path: Path) -> str:
    """``path`` as SQLite's own file URI (sqlite.org/uri.html)."""
    return this_system().database_uri(str(path.absolute()))


def quoted(name: str) -> str:
    """An SQL identifier."""
    return '"' + name.replace('"', '""') + '"'


def reading_condition(connection: apsw.Connection, condition: str, table: str) -> str:
    """A guide's SQL condition over a table, in brackets, after it was shown to be one expression that only reads.

    Raises `CatalogError` for anything else.
    """
    import apsw.ext  # few guides have a condition

    query = f"SELECT (\n{condition}\n) FROM {quoted(table)}"
    try:
        info = apsw.ext.query_info(connection, query, actions=True)
    except apsw.Error as error:
        raise CatalogError(
            f"The condition {condition!r} in the guide is not an SQL expression over {table!r}: {error}.",
            next_step="Correct the condition in the guide.",
        ) from error
    acts = {action.action for action in info.actions or ()}
    if info.query_remaining or not acts <= _READING or len(info.description) != 1:
        raise CatalogError(
            f"The condition {condition!r} in the guide is not a single expression that only reads.",
            next_step="Write a single condition, for example: origin = 'stream'.",
        )
    return f"(\n{condition}\n)"


class Schema:
    """What a database says about its own tables; asks in the guide's words and answers with its own."""

    def __init__(self, connection: apsw.Connection, path: Path) -> None:
        self._connection = connection
        self._path = path
        rows = connection.execute("SELECT name, type, wr FROM pragma_table_list WHERE schema = 'main'")
        self._tables = {name.lower(): (name, kind, bool(without)) for name, kind, without in rows}
        self._columns: dict[str, list[tuple[str, int]]] = {}

    def require(self, table: str, columns: Iterable[str]) -> None:
        """Raise `CatalogError` when the database lacks this table or one of these columns."""
        if table.lower() not in self._tables:
            raise self._lack(f"table {table!r}", table, [name for name, _, _ in self._tables.values()])
        known = [name for name, _ in self.columns(table)]
        _, kind, without_rowid = self._tables[table.lower()]
        known += ["rowid"] if kind in ("table", "virtual") and not without_rowid else []
        for column in columns:
            if column.lower() not in {name.lower() for name in known}:
                raise self._lack(f"column {column!r} in its table {table!r}", column, known)

    def columns(self, table: str) -> list[tuple[str, int]]:
        """Each column with its place in the primary key, 0 for none."""
        if table not in self._columns:
            rows = self._connection.execute("SELECT name, pk FROM pragma_table_xinfo(?)", (table,))
            self._columns[table] = [(name, pk) for name, pk in rows]
        return self._columns[table]

    def allows_null(self, table: str, column: str) -> bool:
        """Whether a column may hold no value."""
        query = 'SELECT "notnull" FROM pragma_table_xinfo(?) WHERE name = ? COLLATE NOCASE'
        return not self._connection.execute(query, (table, column)).get

    def is_virtual(self, table: str) -> bool:
        """Whether a table is kept by a module, as a full-text index is."""
        return bool(self._tables[table.lower()][1] == "virtual")

    def row_id(self, table: str, alias: str = "") -> str:
        """The SQL expression that names one row of ``table``, which a query may know by an ``alias``.

        In a table without rowid it is the key; of several columns a text that no other row has.
        """
        before = f"{alias}." if alias else ""
        taken = {name.lower() for name, _ in self.columns(table)}
        if not self.has_key_only(table):
            return before + next(each for each in ("rowid", "_rowid_", "oid") if each not in taken)
        keys = [before + quoted(each) for each in self.key_of(table)]
        return keys[0] if len(keys) == 1 else " || ',' || ".join(f"quote({each})" for each in keys)

    def has_key_only(self, table: str) -> bool:
        """Whether the rows of a table have no number, and are known by their key alone."""
        return self._tables[table.lower()][2]

    def key_of(self, table: str) -> list[str]:
        """The columns of the primary key, in its order."""
        return [name for name, place in sorted(self.columns(table), key=lambda each: each[1]) if place]

    def is_in_key(self, table: str, column: str) -> bool:
        """Whether a row of a table without rowid is known by this column, so that another text makes it another row."""
        return self.has_key_only(table) and column.lower() in {each.lower() for each in self.key_of(table)}

    def number_of(self, table: str) -> str | None:
        """The column that is another name of the row number, as an INTEGER PRIMARY KEY is, if there is one."""
        rows = self._connection.execute("SELECT name, type FROM pragma_table_xinfo(?) WHERE pk", (table,))
        keys = [name for name, kind in rows if kind.upper() == "INTEGER"]
        return keys[0] if len(keys) == 1 and not self._tables[table.lower()][2] else None

    def target_of(self, table: str, via: str, other: str) -> str:
        """The column of ``other`` that the column ``via`` of ``table`` points to."""
        rows = self._connection.execute('SELECT "from", "to", "table" FROM pragma_foreign_key_list(?)', (table,))
        for source, target, pointed in rows:
            if source.lower() == via.lower() and pointed.lower() == other.lower() and target:
                return quoted(target)
        keys = [name for name, pk in self.columns(other) if pk]
        same = [name for name, _ in self.columns(other) if name.lower() == via.lower()]
        return quoted((same or keys)[0]) if len(keys) == 1 or same else self.row_id(other)

    def _lack(self, what: str, wanted: str, known: list[str]) -> CatalogError:
        near = difflib.get_close_matches(wanted, known, n=1)
        hint = f'Did you mean "{near[0]}"?' if near else f"It has {', '.join(sorted(known))}."
        return CatalogError(f"The guide names the {what}, but the catalog {self._path} has none.", next_step=hint)


_READ = apsw.SQLITE_OPEN_READONLY | apsw.SQLITE_OPEN_URI


def tame(connection: apsw.Connection) -> None:
    """Triggers off, nothing in the schema trusted, and any collation answered so that every table can be read."""
    connection.config(apsw.SQLITE_DBCONFIG_ENABLE_TRIGGER, 0)
    connection.config(apsw.SQLITE_DBCONFIG_TRUSTED_SCHEMA, 0)
    connection.collation_needed(lambda database, name: database.create_collation(name, binary_order))


def binary_order(one: str, other: str) -> int:
    """Order by code point, SQLite's own default."""
    return (one > other) - (one < other)


Order = Callable[[str, str], int]
