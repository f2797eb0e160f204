"""Pieces of one path as a guide describes them, put together."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence

from ..guides import FIELD, EntriesPart, PiecePart
from .forms import read_form
from .model import FIXED, Cell, StoredPiece
from .records import Record, value_of_piece

KEY_MARK = "|"  # between several values that are one key


def whole_key(part: EntriesPart, value: Callable[[str], str | None]) -> str:
    """The key of an entry by all that tells it apart; empty where any of it is lacking."""
    values = [value(each) or "" for each in part.key_selectors]
    return KEY_MARK.join(values) if all(values) else ""


def piece_of(record: Record, piece: PiecePart) -> StoredPiece | None:
    """A piece of a record's path; None where it is empty. Raises `UnreadRecord`."""
    if piece.made_of:
        return made_piece(piece, record.text)
    found = value_of_piece(record, piece)
    if found is None or not found.text:
        return None
    path, form = read_form(piece, found.text)
    cell = found.cell or Cell("", FIXED, 0)
    return StoredPiece(cell._replace(form=form) if form else cell, path, None, piece.holds or "") if path else None


def made_piece(piece: PiecePart, value: Callable[[str], str | None]) -> StoredPiece | None:
    """A piece that is put together of an entry's values; None where one is lacking. It cannot be written."""
    values = [value(each) or "" for each in piece.fields]
    if not all(values):
        return None
    left = iter(values)

    def shortened(field: re.Match[str]) -> str:
        text, first, last = next(left), field[2], field[3]
        return text[int(first) if first else None : int(last) if last else None]

    return StoredPiece(Cell("", FIXED, 0), FIELD.sub(shortened, piece.made_of or ""))


def with_whole_name(part: EntriesPart, pieces: Sequence[StoredPiece | None]) -> tuple[StoredPiece | None, ...]:
    """The pieces, in which a stem and its extension are one name, which cannot be written: nothing renames a file."""
    if part.path[-1].holds != "extension":
        return tuple(pieces)
    *outer, stem, extension = pieces
    if stem is None:
        return (*outer, None)
    ending = extension.text if extension else ""
    dot = "" if not ending or ending.startswith(".") else "."
    return (*outer, StoredPiece(Cell("", FIXED, 0), f"{stem.text}{dot}{ending}"))
