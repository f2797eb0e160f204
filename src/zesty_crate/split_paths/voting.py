"""Entries vote on the new text of a piece that they share; the votes are counted here."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from ..catalogs import Cell, Entry
from ..paths import MachinePath, SpelledPiece, Spelling

Content = tuple[str, tuple[str, ...]]  # a root (empty for inner pieces), and names


@dataclass(slots=True)
class Votes:
    """The votes on one piece. An entry with further shared pieces inside can accept a shorter text than it wants."""

    piece: SpelledPiece
    wanted: dict[Content, int] = field(default_factory=dict)
    moved: int = 0
    unmoved: int = 0
    undecided: int = 0
    flexible: int = 0
    common: Content | None = None
    divided: bool = False

    def add(self, wanted: Content | None, most: Content, *, moved: bool, flexible: bool) -> None:
        """Count one entry: the content it wants (None if an inner piece must change), and the longest it accepts."""
        self.moved += moved
        self.unmoved += not moved
        self.flexible += flexible
        if wanted is None:
            self.undecided += 1
        else:
            self.wanted[wanted] = self.wanted.get(wanted, 0) + 1
        if self.common is not None:
            self.common = _shared(self.common, most)
            self.divided = self.common is None
        elif not self.divided:
            self.common = most

    def decision(self, own: Content | None = None) -> Content | None:
        """The piece's new content; None when it stays, because no entry moves or the entries disagree.

        ``own`` is where its own folder goes: it is best when every entry's path begins so, for then the pieces inside
        keep their part, and rows that no entry uses their meaning.
        """
        if not self.moved:
            return None
        if len(self.wanted) == 1 and not self.undecided:
            return next(iter(self.wanted))
        if own is not None and self.flexible and self.common is not None and starts_with(self.common, own):
            return own
        if self.divided or self.common is None or not self.flexible:
            return None
        fitting = [wanted for wanted in self.wanted if starts_with(self.common, wanted)]
        return max(fitting, key=lambda wanted: self.wanted[wanted], default=self.common)


def wanted_of(inner: Sequence[SpelledPiece], rest: Content) -> tuple[Content | None, Content]:
    """What is left for a piece of the ``rest`` of a path when all ``inner`` ones stay; and the most it can take.

    The last of them is the entry's own, and the first result is None where another piece would have to change anyway.
    """
    shared = tuple(name for piece in inner[:-1] for name in piece.parts)
    most = (rest[0], rest[1][: len(rest[1]) - len(inner[-1].parts)])
    cut_at = len(most[1]) - len(shared)
    fits = cut_at >= 0 and most[1][cut_at:] == shared
    return ((rest[0], most[1][:cut_at]) if fits else None), most


def in_place(pieces: Sequence[SpelledPiece], rest: Content) -> Content | None:
    """What the first of these pieces takes when each takes as many names as it had; None where the numbers differ."""
    if len(rest[1]) != sum(len(piece.parts) for piece in pieces):
        return None
    return rest[0], rest[1][: len(pieces[0].parts)]


def starts_with(whole: Content, start: Content) -> bool:
    """Whether ``start`` is the beginning of ``whole``."""
    return whole[0] == start[0] and whole[1][: len(start[1])] == start[1]


def without_start(whole: Content, start: Content) -> Content | None:
    """What of ``whole`` comes after ``start``, or None when it does not begin so."""
    return ("", whole[1][len(start[1]) :]) if starts_with(whole, start) else None


@dataclass(frozen=True, slots=True)
class SplitEntry:
    """An entry taken apart: what its path must be, and its pieces with their cells and levels."""

    entry: Entry
    old: MachinePath
    want: Content
    moved: bool
    pieces: tuple[tuple[int, Cell, SpelledPiece], ...]
    holds: tuple[str, ...]

    def is_anchor(self, place: int) -> bool:
        """Whether the piece at ``place`` is the beginning of the path and never more."""
        piece = self.pieces[place][2]
        is_root_of_tree = piece.root and not piece.parts and self.holds[place + 1 : place + 2] == ("name",)
        return self.holds[place] == "anchor" or is_drive(piece) or bool(is_root_of_tree)


def entry_texts(entry: Entry) -> list[str]:
    """The texts of the pieces that an entry has."""
    return [piece.text for piece in entry.pieces if piece is not None]


def vote(votes: Votes, cut: SplitEntry, place: int, rest: Content, own: Content | None) -> None:
    """Have an entry say what it wanted of its piece at ``place``, given the ``rest`` of its path.

    ``own`` is where the folder that is the piece goes by itself, as far as that is known.
    """
    _, _, piece = cut.pieces[place]
    if cut.is_anchor(place):  # a root stays a root, and all names go into the pieces inside
        root = own if own is not None and starts_with(rest, own) else (rest[0], ())
        votes.add(root, root, moved=cut.moved, flexible=True)
        return
    pieces = [piece for _, _, piece in cut.pieces[place:]]
    wanted, most = wanted_of(pieces[1:], rest)
    if cut.holds[place] == "name":
        wanted = in_place(pieces, rest)
        votes.add(wanted, wanted or (rest[0], ()), moved=cut.moved, flexible=False)
        return
    if wanted is None and place and len(piece.parts) == 1 and (same := in_place(pieces, rest)) is not None:
        wanted = most = same  # a name stays one name, whatever becomes of those inside it
    votes.add(wanted, most, moved=cut.moved, flexible=place + 1 < len(cut.pieces) - 1)


def is_drive(piece: SpelledPiece) -> bool:
    """Whether a piece is a drive or a share, such as ``E:``, or a volume's name; with a separator it is a folder."""
    if piece.style.spelling is Spelling.FROM_VOLUME and piece.style.variable:
        return piece.style.covered == len(piece.parts)
    return piece.root not in ("", "/") and not piece.parts and not piece.style.closing


def wanted_of_outermost(cut: SplitEntry) -> Content | None:
    """What an entry wants its outermost piece to say so that those inside may stay.

    Where they cannot, and there are further shared ones, it is content with the root.
    """
    if len(cut.pieces) == 1:
        return None
    wanted, _ = wanted_of([piece for _, _, piece in cut.pieces[1:]], cut.want)
    return (cut.want[0], ()) if wanted is None and len(cut.pieces) > 2 else wanted


def _shared(one: Content, other: Content) -> Content | None:
    if one[0] != other[0]:
        return None
    length = 0
    for mine, theirs in zip(one[1], other[1], strict=False):
        if mine != theirs:
            break
        length += 1
    return one[0], one[1][:length]
