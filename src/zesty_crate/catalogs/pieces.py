"""Pieces of one path as a guide describes them, put together."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from ..guides import EntriesPart
from .model import FIXED, Cell, StoredPiece

KEY_MARK = "|"  # between several values that are one key


def whole_key(part: EntriesPart, value: Callable[[str], str | None]) -> str:
    """The key of an entry by all that tells it apart; empty where any of it is lacking."""
    values = [value(each) or "" for each in part.key_selectors]
    return KEY_MARK.join(values) if all(values) else ""


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
