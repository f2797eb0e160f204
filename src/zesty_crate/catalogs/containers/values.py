"""Documents that are values of another document: in a column of a database, in an attribute or a text of a file."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import closing
from pathlib import Path
from typing import Any

import apsw

from ...guides import EntriesPart, HoldingPart
from ..changes import SpanChange
from ..model import CatalogError, Found
from ..reading import UnreadRecord
from ..records import Records
from ..sqlite_file import Schema, quoted, reading_condition, tame
from ..text_file import TextFile, decode_text, splice
from .layers import unreadable

Reader = Callable[[TextFile, HoldingPart, str], Records]
_WAL, _ROLLBACK = b"\x02\x02", b"\x01\x01"  # the format versions in a database's header (sqlite.org/fileformat2.html)
_VERSIONS = slice(18, 20)


class TextValues:
    """Values of a text, by a selector of its syntax. ``part`` says where they are as if each were a path."""

    def __init__(self, part: HoldingPart, reader: Reader) -> None:
        self._part = part
        self._reader = reader

    def documents(self, content: bytes, title: str) -> dict[str, bytes]:
        """Each value that is a text, in UTF-8."""
        file = decode_text(content, title, self._part.encoding)
        return {name: found.text.encode("utf-8", "surrogateescape") for name, found in self._found(file, title)}

    def put(self, content: bytes, new: Mapping[str, bytes], title: str) -> bytes:
        """The text with other values at their places."""
        file = decode_text(content, title, self._part.encoding)
        changes = []
        for name, (old, cell) in self._found(file, title):
            if name in new:
                if cell is None or isinstance(cell.row, str):
                    raise CatalogError(f"The value of {name} in {title} is put together, and cannot be written.")
                text = new[name].decode("utf-8", "surrogateescape")
                changes.append(SpanChange(cell.row, cell.length, cell.column, old, text))
        return splice(file, sorted(changes))

    def names(self, content: bytes, title: str) -> frozenset[str]:
        """The names of all values."""
        return frozenset(self.documents(content, title))

    def _found(self, file: TextFile, title: str) -> Iterator[tuple[str, Found]]:
        (entries,) = self._part.entries
        seen = set[str]()
        for position, record in enumerate(self._reader(file, self._part, title).select(entries), start=1):
            at = entries.path[0].at
            try:
                found, key = record.value(at), record.text(entries.key) if entries.key else ""
            except UnreadRecord as error:
                raise unreadable(title, "a text of documents", str(error)) from error
            if found is None and (why := record.why_not(at)):
                raise unreadable(title, "a text of documents", why)
            if found and found.text:
                name = key or record.known_as or str(position)
                name = name if name not in seen else f"{name} ({position})"
                seen.add(name)
                yield name, found


class ColumnValues:
    """Values of a column of an SQLite database, texts or BLOBs; each is known by the key of its row."""

    def __init__(self, part: EntriesPart) -> None:
        self._part = part

    def documents(self, content: bytes, title: str) -> dict[str, bytes]:
        """Each value that is there."""
        with closing(_in_memory(content, title)) as database:
            return {
                name: value.encode("utf-8") if isinstance(value, str) else value
                for name, _, value in self._rows(database, title)
                if isinstance(value, str | bytes) and value
            }

    def put(self, content: bytes, new: Mapping[str, bytes], title: str) -> bytes:
        """The database with other values in these rows; texts stay texts."""
        part = self._part
        with closing(_in_memory(content, title)) as database:
            row_id = Schema(database, Path(title)).row_id(part.table)
            update = f"UPDATE {quoted(part.table)} SET {quoted(part.path[0].at)} = ? WHERE {row_id} = ?"
            with database:
                for name, row, value in list(self._rows(database, title)):
                    if name in new:
                        database.execute(
                            update, (new[name].decode("utf-8") if isinstance(value, str) else new[name], row)
                        )
            made = bytearray(database.serialize("main"))
        made[_VERSIONS] = content[_VERSIONS]
        return bytes(made)

    def names(self, content: bytes, title: str) -> frozenset[str]:
        """The keys of all rows."""
        return frozenset(self.documents(content, title))

    def _rows(self, database: apsw.Connection, title: str) -> Iterator[tuple[str, Any, object]]:
        part, schema = self._part, Schema(database, Path(title))
        column = part.path[0].at
        schema.require(part.table, [part.key, column])
        where = f" WHERE {reading_condition(database, part.where, part.table)}" if part.where else ""
        row_id = schema.row_id(part.table)
        query = f"SELECT {quoted(part.key)}, {row_id}, {quoted(column)} FROM {quoted(part.table)}{where} ORDER BY 2"
        seen = set[str]()
        try:
            for key, row, value in database.execute(query):
                name = str(key) if str(key) not in seen else f"{key} (row {row})"
                seen.add(name)
                yield name, row, value
        except (apsw.Error, UnicodeDecodeError) as error:
            raise unreadable(title, "an SQLite database", str(error)) from error


def _in_memory(content: bytes, title: str) -> apsw.Connection:
    if content[:16] != b"SQLite format 3\0":
        raise unreadable(title, "an SQLite database", "its first 16 bytes differ")
    database = apsw.Connection(":memory:")
    plain = bytearray(content)
    if plain[_VERSIONS] == _WAL:  # a log has no place in memory
        plain[_VERSIONS] = _ROLLBACK
    try:
        database.deserialize("main", bytes(plain))
        tame(database)
        database.execute("SELECT count(*) FROM sqlite_schema").get  # noqa: B018  it fails for what is damaged
    except apsw.Error as error:
        database.close()
        raise unreadable(title, "an SQLite database", str(error)) from error
    return database
