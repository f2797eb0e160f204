"""Change lists: the new texts that a relink has decided on. Few are held, many are in files, so that a million fit."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from contextlib import closing, contextmanager
from functools import partial
from itertools import chain, islice
from operator import itemgetter
from pathlib import Path
from typing import Any, NamedTuple

import apsw

from ..machines.texts import restored, stored
from ..paths import with_slashes
from .model import Addition, CatalogError, Cell, Change, Pointer
from .name_lists import NameListQuoting
from .reading import UnreadRecord
from .spilled import SpilledRows

_SCHEMA = """
CREATE TABLE IF NOT EXISTS place (id INTEGER PRIMARY KEY, tbl TEXT NOT NULL, col TEXT NOT NULL, UNIQUE (tbl, col));
CREATE TABLE IF NOT EXISTS change (place INTEGER NOT NULL, row NOT NULL, length INTEGER NOT NULL,
                                   old NOT NULL, new, kept_as TEXT);
CREATE TABLE IF NOT EXISTS addition (tbl TEXT NOT NULL, col TEXT NOT NULL, row INTEGER NOT NULL, model NOT NULL,
                                     old NOT NULL, new NOT NULL);
CREATE TABLE IF NOT EXISTS pointer (tbl TEXT NOT NULL, col TEXT NOT NULL, row NOT NULL, old NOT NULL, new NOT NULL);
"""

_CHANGES = "SELECT tbl, col, row, length, old, new, kept_as FROM change JOIN place ON place.id = change.place"
_IN_ORDER = """SELECT row, length, col, old, new FROM change JOIN place ON place.id = change.place
              ORDER BY row"""
_COLUMNS = {"place": 3, "change": 6, "addition": 6, "pointer": 5}  # how many each table has
_ENCODING = "UTF-8"
_TAG_END = "\x1f"
_ADD = "INSERT INTO change VALUES (?, ?, ?, ?, ?, ?)"
_MOST_HELD = 100_000

_Value = str | bytes | int | None
_Row = tuple[str, str, int | str, int, _Value, _Value, str | None]  # table, column, row, length, old, new, kept as


class SpanChange(NamedTuple):
    """A change in a text: the first character of its span, how many there are, how they are quoted, and both texts."""

    start: int
    length: int
    quoting: str
    old: str
    new: str


_span: Callable[[tuple[Any, ...]], SpanChange] = partial(tuple.__new__, SpanChange)  # a third of the time of `_make`
_AS_SPAN = itemgetter(2, 3, 1, 4, 5)  # of a row


class ChangeList:
    """The new texts for the cells of one document, with new rows of shared pieces and what points to them.

    More than may be held are in a working file beside it. It is a database itself only where another one attaches it,
    or where changes of a text did not come in its order.
    """

    def __init__(self, path: Path) -> None:
        """``path`` is for the database. Other files may be made beside it."""
        self.path = path
        self._is_in_file = False
        self._held: list[_Row] = []
        self._spilled = SpilledRows(self.beside("rows"))
        self._last: Any = -1  # the place of the last change, while they come in the order of a text
        self._are_in_order = True
        self._are_texts = True  # none is kept as bytes, or taken away
        self._additions: list[tuple[_Value, ...]] = []
        self._pointers: list[tuple[_Value, ...]] = []

    def beside(self, name: str) -> Path:
        """Where another working file may be."""
        return self.path.with_name(f"{self.path.name}.{name}")

    def __len__(self) -> int:
        """How many texts are new."""
        if not self._is_in_file:
            return len(self._held) + len(self._spilled)
        with self._reading() as database:
            return int(database.execute("SELECT count(*) FROM change").get)

    def add(self, changes: Iterable[Change]) -> None:
        """Add new texts."""
        self._add(map(_row, changes))

    def _add(self, rows: Iterator[_Row]) -> None:
        rows = self._noted(rows)
        if self._is_in_file:
            with self._in_file() as database:
                places = _Places(database)
                database.executemany(_ADD, ((places[each[:2]], *each[2:]) for each in rows))
            return
        self._hold(rows)
        for first in rows:  # more than may be held
            self._spilled.extend(chain([first], rows))

    def _noted(self, rows: Iterator[_Row]) -> Iterator[_Row]:
        """The same rows; whether they come in their order, and are texts, is known in the end."""
        last = self._last
        for row in rows:
            at: Any = row[2]
            if at.__class__ is not last.__class__ or at <= last:
                self._are_in_order = False
            if row[4].__class__ is not str or row[5].__class__ is not str:
                self._are_texts = False
            last = at
            yield row
        self._last = last

    def add_spans(self, spans: Iterable[tuple[int | str, int, str, str, str]]) -> None:
        """Add new texts of a document that is a text, as `SpanChange` has them."""
        self._add(
            ("", quoting, start, length, old, new, None)
            if old.isascii() and new.isascii()
            else ("", quoting, start, length, stored(old), stored(new), None)
            for start, length, quoting, old, new in spans
        )

    def add_column(self, table: str, column: str, changes: Iterable[tuple[int | str, str, str]]) -> None:
        """Add new texts in one column of a database: the row, the old text and the new one."""
        self._are_in_order = self._are_texts = False  # as a text has them
        plain = ((row, 0, old, new if new.isascii() else stored(new), None) for row, old, new in changes)
        self._hold((table, column, *each) for each in islice(plain, max(0, _MOST_HELD - len(self._held))))
        for first in plain:
            with self._in_file() as database:
                place = _Places(database)[table, column]
                database.executemany(_ADD, ((place, *each) for each in chain([first], plain)))

    def _hold(self, rows: Iterator[_Row]) -> None:
        if not self._is_in_file:
            self._held += islice(rows, max(0, _MOST_HELD - len(self._held)))

    def add_rows(self, additions: Iterable[Addition], pointers: Iterable[Pointer]) -> None:
        """Add new rows, and what must point to them."""
        self._additions += [
            (each.cell.table, each.cell.column, each.cell.row, each.model, stored(each.old), stored(each.new))
            for each in additions
        ]
        self._pointers += [(each.cell.table, each.cell.column, each.cell.row, each.old, each.new) for each in pointers]

    def first(self, limit: int) -> list[Change]:
        """The first changes."""
        return [_change(row) for row in islice(self._rows(), limit)]

    def __iter__(self) -> Iterator[Change]:
        """The changes in the order in which they came."""
        return map(_change, self._rows())

    def spans(self) -> Iterator[SpanChange]:
        """The changes in a text, in its order."""
        rows = self._in_order()
        if not self._are_texts:
            rows = ((*row[:3], _restored(row[3], None), _restored(row[4], None)) for row in rows)
        return map(_span, rows)

    def _in_order(self) -> Iterator[tuple[Any, ...]]:
        if self._spilled and not self._are_in_order:
            with self._in_file():
                pass
        if self._is_in_file:
            return self._in_order_of_file()
        held = self._held if self._are_in_order else sorted(self._held, key=itemgetter(2))
        return map(_AS_SPAN, chain(held, self._spilled))

    def _in_order_of_file(self) -> Iterator[tuple[Any, ...]]:
        with self._reading() as database:
            yield from database.execute(_IN_ORDER)

    def pairs(self) -> Iterator[tuple[str, str, str]]:
        """Of every change, and of every new row: its table and column, if it has any, the old and the new text."""
        for table, column, _, _, old, new, kept_as in self._rows():
            yield _place(table, column), _restored(old, kept_as), _restored(new, kept_as)
        for name, at, _, _, old, new in self._added_rows():
            yield _place(str(name), str(at)), _restored(old, None), _restored(new, None)

    def of(self, tag: str) -> ChangeList:
        """The changes in one of several documents, without its tag."""
        start, own = tagged(tag, ""), ChangeList(self.beside("own"))
        own._add((row[0][len(start) :], *row[1:]) for row in self._rows() if row[0].startswith(start))
        return own

    def file(self, encoding: str) -> Path:
        """All of it in a file of a text encoding; SQLite attaches it only to a database that has the same."""
        with self._in_file() as database:
            for table, rows in (("addition", self._additions), ("pointer", self._pointers)):
                database.executemany(f"INSERT INTO {table} VALUES ({', '.join('?' * _COLUMNS[table])})", rows)
                rows.clear()
        if encoding == _ENCODING:
            return self.path
        target = self.beside(encoding)
        with self._reading() as source:
            target.unlink(missing_ok=True)
            with _writing(target, encoding) as database:
                for table, columns in _COLUMNS.items():
                    marks = ", ".join("?" * columns)
                    database.executemany(
                        f"INSERT INTO {table} VALUES ({marks})", source.execute(f"SELECT * FROM {table}")
                    )
        return target

    def _rows(self) -> Iterator[_Row]:
        if not self._is_in_file:
            yield from self._held
            yield from self._spilled
            return
        with self._reading() as database:
            yield from database.execute(f"{_CHANGES} ORDER BY change.rowid")

    def _added_rows(self) -> Iterator[tuple[_Value, ...]]:
        yield from self._additions
        if self._is_in_file:
            with self._reading() as database:
                yield from database.execute("SELECT * FROM addition")

    @contextmanager
    def _in_file(self) -> Iterator[apsw.Connection]:
        """The file for writing, with all that was held."""
        if not self._is_in_file:
            self.path.unlink(missing_ok=True)
        with _writing(self.path) as database:
            places = _Places(database)
            rows = chain(self._held, self._spilled)
            database.executemany(_ADD, ((places[row[:2]], *row[2:]) for row in rows))
            self._held.clear()
            self._spilled.clear()
            self._is_in_file = True
            yield database

    @contextmanager
    def _reading(self) -> Iterator[apsw.Connection]:
        with closing(apsw.Connection(str(self.path), flags=apsw.SQLITE_OPEN_READONLY)) as database:
            yield database


def _change(row: _Row) -> Change:
    table, column, at, length, old, new, kept_as = row
    return Change(Cell(table, column, at, length, kept_as or ""), _restored(old, kept_as), _restored(new, kept_as))


def _place(table: str, column: str) -> str:
    table = table.rpartition(_TAG_END)[2]
    return f"{table}.{column}" if table else ""


def tagged(tag: str, table: str) -> str:
    """The name of a table in one of several documents of a file."""
    return f"{tag}{_TAG_END}{table}"


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


def _row(change: Change) -> _Row:
    cell, old, new = change
    if cell.form is not None or cell.column == NameListQuoting.name:
        old, new = _value(cell, old), _value(cell, new)
    table, column, row, length, kept_as = cell.table, cell.column, cell.row, cell.length, cell.kept_as
    if kept_as:
        return table, column, row, length, _kept(old, kept_as), _kept(new, kept_as), kept_as
    was, now = old if old.isascii() else stored(old), new if new.isascii() else stored(new)
    return table, column, row, length, was, now, None


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
