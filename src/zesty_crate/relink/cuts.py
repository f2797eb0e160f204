"""Entries taken apart, and what they wish of the pieces that they share with others."""

from __future__ import annotations

from dataclasses import dataclass

from ..catalogs import Cell, Entry
from ..paths import MachinePath, Piece
from .votes import Content, Votes, wish_of


@dataclass(frozen=True, slots=True)
class Cut:
    """An entry taken apart: what its path is to be, and the pieces it has, with the cells and levels they stand at."""

    entry: Entry
    old: MachinePath
    want: Content
    moved: bool
    pieces: tuple[tuple[int, Cell, Piece], ...]


def entry_texts(entry: Entry) -> list[str]:
    """The texts of the pieces that an entry has."""
    return [piece.text for piece in entry.pieces if piece is not None]


def vote(votes: Votes, cut: Cut, place: int, rest: Content) -> None:
    """Have an entry say what it wishes of its piece at ``place``, given the ``rest`` of its path."""
    wish, most = wish_of([piece for _, _, piece in cut.pieces[place + 1 :]], rest)
    votes.add(wish, most, moved=cut.moved, flexible=place + 1 < len(cut.pieces) - 1)


def wish_for_outermost(cut: Cut) -> Content | None:
    """What an entry wishes its outermost piece to say; with further shared ones inside, it is content with the root."""
    if len(cut.pieces) > 2:
        return cut.want[0], ()
    return wish_of([piece for _, _, piece in cut.pieces[1:]], cut.want)[0] if len(cut.pieces) > 1 else None
