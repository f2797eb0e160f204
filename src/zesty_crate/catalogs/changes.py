"""Change lists: the new texts that a relink has decided on, in a file of their own, so that a million fit."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import NamedTuple

import apsw

from ..machines.texts import restored, stored
from ..paths import with_slashes
from .model import Addition, CatalogError, Cell, Change, Pointer
from .name_lists import NameListQuoting
from .reading import UnreadRecord

_SCHEMA = """
CREATE TABLE IF NOT EXISTS place (id INTEGER PRIMARY KEY, tbl TEXT NOT NULL, col TEXT NOT NULL, UNIQUE (tbl, col));
CREATE TABLE IF NOT EXISTS change (place INTEGER NOT NULL, row NOT NULL, length INTEGER NOT NULL,
                                   old NOT NULL, new, kept_as TEXT);
CREATE TABLE IF NOT EXISTS addition (tbl TEXT NOT NULL, col TEXT NOT NULL, row INTEGER NOT NULL, model NOT NULL,
                                     old NOT NULL, new NOT NULL);
CREATE TABLE IF NOT EXISTS pointer (tbl TEXT NOT NULL, col TEXT NOT NULL, row NOT NULL, old NOT NULL, new NOT NULL);
"""

_CHANGES = "SELECT tbl, col, row, length, old, new, kept_as FROM change JOIN place ON place.id = change.place"
_COLUMNS = {"place": 3, "change": 6, "addition": 6, "pointer": 5}  # how many each table has
_ENCODING = "UTF-8"
_TAG_END = "\x1f"
_ADD = "INSERT INTO change VALUES (?, ?, ?, ?, ?, ?)"
_PAIRS = f"SELECT tbl, col, old, new, kept_as FROM ({_CHANGES}) UNION ALL SELECT tbl, col, old, new, NULL FROM addition"
_IN_ORDER = f"SELECT row, length, col, old, new FROM ({_CHANGES}) ORDER BY row"


def write_changes(path: Path, changes: Iterable[Change]) -> int:
    """Add to the change list ``path``, which is made when it is not there; the number of all changes in it."""
    with _writing(path) as database:
        places = _Places(database)
        database.executemany(_ADD, ((places[change.cell[:2]], *_row(change)) for change in changes))
        return int(database.execute("SELECT count(*) FROM change").get)


def write_column(path: Path, table: str, column: str, changes: Iterable[tuple[int | str, str, str]]) -> None:
    """Add changes in one column of a database: the row, the old text and the new one."""
    with _writing(path) as database:
        place = _Places(database)[table, column]
        database.executemany(
            _ADD, ((place, row, 0, old, new if new.isascii() else stored(new), None) for row, old, new in changes)
        )


def write_additions(path: Path, additions: Iterable[Addition], pointers: Iterable[Pointer]) -> None:
    """Add new rows, and what must point to them, to a change list."""
    with _writing(path) as database:
        database.executemany(
            "INSERT INTO addition VALUES (?, ?, ?, ?, ?, ?)",
            (
                (each.cell.table, each.cell.column, each.cell.row, each.model, stored(each.old), stored(each.new))
                for each in additions
            ),
        )
        database.executemany(
            "INSERT INTO pointer VALUES (?, ?, ?, ?, ?)",
            ((each.cell.table, each.cell.column, each.cell.row, each.old, each.new) for each in pointers),
        )


def read_changes(path: Path, limit: int = -1) -> list[Change]:
    """The first ``limit`` changes of a list; all by default."""
    database = apsw.Connection(str(path), flags=apsw.SQLITE_OPEN_READONLY)
    try:
        rows = database.execute(f"{_CHANGES} ORDER BY change.rowid LIMIT ?", (limit,))
        return [
            Change(Cell(table, column, row, length, kept_as or ""), _restored(old, kept_as), _restored(new, kept_as))
            for table, column, row, length, old, new, kept_as in rows
        ]
    finally:
        database.close()


def in_encoding(path: Path, encoding: str) -> Path:
    """A change list in a text encoding; SQLite attaches it only to a database that has the same."""
    if encoding == _ENCODING:
        return path
    target = path.with_name(f"{path.name}.{encoding}")
    with closing(apsw.Connection(str(path), flags=apsw.SQLITE_OPEN_READONLY)) as source:
        target.unlink(missing_ok=True)
        with _writing(target, encoding) as database:
            for table, columns in _COLUMNS.items():
                marks = ", ".join("?" * columns)
                database.executemany(f"INSERT INTO {table} VALUES ({marks})", source.execute(f"SELECT * FROM {table}"))
    return target


def tagged(tag: str, table: str) -> str:
    """The name of a table in one of several documents of a file."""
    return f"{tag}{_TAG_END}{table}"


def changes_tagged(path: Path, tag: str, target: Path) -> bool:
    """Write the changes in one of several documents into a list without its tag; whether there are any."""
    start = tagged(tag, "")
    with closing(apsw.Connection(str(path), flags=apsw.SQLITE_OPEN_READONLY)) as source, _writing(target) as database:
        rows = source.execute(f"{_CHANGES} WHERE substr(tbl, 1, ?) = ? ORDER BY change.rowid", (len(start), start))
        places, found = _Places(database), False
        for table, *place_and_texts in rows:
            column, *rest = place_and_texts
            database.execute(_ADD, (places[table[len(start) :], column], *rest))
            found = True
    return found


class SpanChange(NamedTuple):
    """A change in a text: the first character of its span, how many there are, how they are quoted, and both texts."""

    start: int
    length: int
    quoting: str
    old: str
    new: str


def read_spans(path: Path) -> Iterator[SpanChange]:
    """The changes in a text, in its order."""
    database = apsw.Connection(str(path), flags=apsw.SQLITE_OPEN_READONLY)
    try:
        for start, length, quoting, old, new in database.execute(_IN_ORDER):
            yield SpanChange(start, length, quoting, restored(old), restored(new))
    finally:
        database.close()


def read_pairs(path: Path) -> Iterator[tuple[str, str, str]]:
    """Of every change: its table and column, if it has any, and the old and the new text."""
    database = apsw.Connection(str(path), flags=apsw.SQLITE_OPEN_READONLY)
    try:
        for table, column, old, new, kept_as in database.execute(_PAIRS):
            table = table.rpartition(_TAG_END)[2]
            yield f"{table}.{column}" if table else "", _restored(old, kept_as), _restored(new, kept_as)
    finally:
        database.close()


@contextmanager
def _writing(path: Path, encoding: str = _ENCODING) -> Iterator[apsw.Connection]:
    """A change list for writing, made when it is not there. It is of no use when the body fails."""
    database = apsw.Connection(str(path))
    try:
        database.pragma("journal_mode", "off")
        database.pragma("synchronous", "off")
        database.pragma("encoding", encoding)  # of a list that is there already it stays as it is
        database.execute("BEGIN;" + _SCHEMA)
        yield database
        database.execute("COMMIT")
    finally:
        database.close()


class _Places(dict[tuple[str, str], int]):
    """The numbers of tables and columns in a list; a new one is given when it is first asked for."""

    def __init__(self, database: apsw.Connection) -> None:
        super().__init__()
        self._database = database

    def __missing__(self, place: tuple[str, str]) -> int:
        self._database.execute("INSERT OR IGNORE INTO place (tbl, col) VALUES (?, ?)", place)
        self[place] = int(self._database.execute("SELECT id FROM place WHERE tbl = ? AND col = ?", place).get)
        return self[place]


def _row(change: Change) -> tuple[str | bytes | int | None, ...]:
    cell = change.cell
    old, new = (_value(cell, text) for text in (change.old, change.new))
    if not cell.kept_as:
        return cell.row, cell.length, stored(old), stored(new), None
    return cell.row, cell.length, _kept(old, cell.kept_as), _kept(new, cell.kept_as), cell.kept_as


def _kept(text: str, kept_as: str) -> bytes | int | None:
    """The value of which a text tells, as its `Cell.kept_as` says."""
    if kept_as == "integer":
        return int(text)
    if kept_as in ("bytes", "pointer"):
        return bytes.fromhex(text) if text or kept_as == "bytes" else None
    return as_blob(text, kept_as)


def _value(cell: Cell, path: str) -> str:
    """The whole value of a cell, which holds a path in its form."""
    if cell.column == NameListQuoting.name:
        return with_slashes(path)  # as it is read back: names have nothing between them
    try:
        return path if cell.form is None else cell.form.written(path)
    except UnreadRecord as why:
        raise CatalogError(
            f"A path cannot be written as its guide says: {why}.",
            next_step="The catalog was not changed. Place the file elsewhere with a route.",
        ) from why


def as_blob(text: str, manner: str) -> bytes:
    """The bytes of a text in an encoding, with as many zeros at its end as its `Cell.kept_as` tells. See `of_blob`."""
    encoding, _, zeros = manner.partition("+")
    try:
        return (text + "\0" * int(zeros or 0)).encode(encoding)
    except UnicodeEncodeError as error:
        raise CatalogError(
            f"The path {text!r} cannot be written in {encoding}.", next_step="Place its files elsewhere with a route."
        ) from error


def of_blob(content: bytes, encoding: str) -> tuple[str, str]:
    """The text that bytes hold, and the manner in which they do. Raises `UnicodeDecodeError`."""
    whole = content.decode(encoding)
    text = whole.rstrip("\0")
    return text, f"{encoding}+{len(whole) - len(text)}"


def _restored(value: str | bytes | int | None, kept_as: str | None) -> str:
    if value is None or isinstance(value, int):
        return "" if value is None else str(value)
    if not kept_as or not isinstance(value, bytes):
        return restored(value)
    return value.hex() if kept_as in ("bytes", "pointer") else of_blob(value, kept_as.partition("+")[0])[0]
