"""Pieces of paths that rows of a tree hold, each with the row around it: folders within folders, to any depth."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any, NamedTuple

from ..guides import PiecePart
from ..paths import Spelling, System, join_pieces
from .model import Cell, StoredPiece
from .reading import UnreadRecord, is_one_name, path_text
from .sqlite_file import Schema, quoted

_NO_ROW = (None, 0, "", -1)  # what programs write where there is nothing around a row
_OUTERMOST = object()
Rows = Callable[[str], Iterator[tuple[Any, ...]]]


class _Row(NamedTuple):
    number: int | str
    around: object
    text: object
    beyond: object  # what the row says of the piece around the whole tree


class Tree:
    """A table whose rows are within each other; with the piece ``beyond``, to which its outermost rows point.

    Each row holds one name. Only the outermost may hold more, where the tree ``is_first`` in the path.
    """

    def __init__(
        self, piece: PiecePart, target: str, schema: Schema, rows: Rows, beyond: PiecePart | None, *, is_first: bool
    ) -> None:
        self._piece = piece
        self._outermost_holds = (piece.holds or "") if is_first else "name"
        self._beyond = beyond
        table, around = piece.table or "", piece.parent or ""
        link = beyond.via_column if beyond else ""
        schema.require(table, [piece.at, around, *([link] if link else [])])
        columns = (target, schema.row_id(table), quoted(around), quoted(piece.at), quoted(link) if link else "NULL")
        self._rows = {
            key: _Row(number, outer, text, more)
            for key, number, outer, text, more in rows(f"SELECT {', '.join(columns)} FROM {quoted(table)}")
        }
        self._outer: dict[object, StoredPiece | None] = {}
        if beyond is not None:
            self._read_beyond(schema, rows)
        self._known: dict[object, tuple[StoredPiece | None, ...]] = {}
        self._readable: dict[object, bool] = {}
        self._branches: dict[object, tuple[tuple[StoredPiece | None, ...], str]] = {}
        self._inside: dict[object, list[object]] | None = None

    def _read_beyond(self, schema: Schema, rows: Rows) -> None:
        piece = self._beyond
        if piece is None or piece.table is None:
            return
        schema.require(piece.table, [piece.at])
        target = schema.target_of(self._piece.table or "", piece.via_column, piece.table)
        columns = (target, schema.row_id(piece.table), quoted(piece.at))
        for key, number, text in rows(f"SELECT {', '.join(columns)} FROM {quoted(piece.table)}"):
            self._outer[key] = _stored(piece.table, piece.at, number, text, "anchor")

    def branch(self, key: object, system: System, spelling: Spelling) -> tuple[tuple[StoredPiece | None, ...], str]:
        """The pieces, and what stands before the name of a file in the folder that they are."""
        known = self._branches.get(key)
        if known is None:
            pieces = self.pieces(key)
            known = self._branches[key] = pieces, self._beginning(key, pieces, system, spelling)
        return known

    def _beginning(self, key: object, pieces: Sequence[StoredPiece | None], system: System, spelling: Spelling) -> str:
        """What stands before the name of a file in the folder; texts are joined from the outermost on."""
        row = self._rows.get(key)
        last = pieces[-1] if pieces else None
        if row is None or last is None or self._is_root(key, row):
            texts = [piece.text for piece in pieces if piece]
        else:
            texts = [self.branch(row.around, system, spelling)[1], last.text]
        return join_pieces([*texts, "x"], system, spelling)[:-1] if texts else ""

    def has(self, key: object) -> bool:
        """Whether there is a folder with a key, all of which can be read."""
        known = self._readable.get(key)
        if known is None:
            try:
                known = any(self.pieces(key))
            except UnreadRecord:
                known = False
            self._readable[key] = known
        return known

    def pieces(self, key: object) -> tuple[StoredPiece | None, ...]:
        """What the row with a key holds and those around it, the outermost first.

        Raises `UnreadRecord` for rows that are not there, or are within each other.
        """
        if key not in self._known:
            if key in _NO_ROW and key not in self._rows:
                return ()
            self._learn(key)
        return self._known[key]

    def inside(self, key: object | None) -> Sequence[object]:
        """The rows right inside one; with None the outermost ones."""
        if self._inside is None:
            self._inside = {}
            for each, row in self._rows.items():
                self._inside.setdefault(_OUTERMOST if self._is_root(each, row) else row.around, []).append(each)
        return self._inside.get(_OUTERMOST if key is None else key, ())

    def branch_of_names(self, key: object) -> list[object]:
        """A row and those in it, at any depth, so far as each of these is no more than one name."""
        found = [key]
        for each in found:  # which grows meanwhile
            found += [inner for inner in self.inside(each) if is_one_name(self._rows[inner].text)]
        return found

    def name_in(self, key: object) -> tuple[object, object] | None:
        """What a row is called, and the row that it is in; None where it is in no other."""
        row = self._rows.get(key)
        return None if row is None or self._is_root(key, row) else (row.text, row.around)

    def _learn(self, key: object) -> None:
        """Build the pieces of a row upon those of the one around it, so that folders have them in common."""
        table, climbed, at = self._piece.table or "", dict[object, _Row](), key
        while at not in self._known:
            row = self._rows.get(at)
            if row is None:
                around = "" if at == key else f", around the row {key}"
                raise UnreadRecord(f"there is no row {at} of {table}{around}")
            if at in climbed:
                raise UnreadRecord(f"the row {key} of {table} is within itself")
            climbed[at] = row
            if self._is_root(at, row):  # some write that a root is in itself
                break
            at = row.around
        outer = self._known.get(at, ())
        for number, row in reversed(climbed.items()):
            outer = (*outer, *self._own(number, row))
            self._known[number] = outer

    def _is_root(self, key: object, row: _Row) -> bool:
        return row.around == key or (row.around in _NO_ROW and row.around not in self._rows)

    def _own(self, key: object, row: _Row) -> tuple[StoredPiece | None, ...]:
        """The piece of one row; of an outermost one also the piece that it points to."""
        table, column = self._piece.table or "", self._piece.at
        if not self._is_root(key, row):
            return (_stored(table, column, row.number, row.text, "name"),)
        if row.beyond in _NO_ROW:
            return (_stored(table, column, row.number, row.text, self._outermost_holds),)
        if row.beyond not in self._outer:
            raise UnreadRecord(f"the row {key} of {table} points to nothing with {row.beyond}")
        return self._outer[row.beyond], _stored(table, column, row.number, row.text, "name")


def _stored(table: str, column: str, row: int | str, text: object, holds: str) -> StoredPiece | None:
    """A piece that a row holds; None for a row that says nothing."""
    if text in (None, ""):
        return None
    if isinstance(text, bytes):
        raise UnreadRecord("its path is binary data and not text")
    return StoredPiece(Cell(table, column, row), path_text(str(text)), None, holds)
