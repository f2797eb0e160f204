"""What the users of one shared piece of a path want it to say, and what it can say for all of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from ..paths import Piece

Content = tuple[str, tuple[str, ...]]  # a root (empty for inner pieces), and names


@dataclass(slots=True)
class Votes:
    """The wishes for one piece. A user with further shared pieces inside can live with less than it wishes."""

    piece: Piece
    wishes: dict[Content, int] = field(default_factory=dict)
    moved: int = 0
    unmoved: int = 0
    undecided: int = 0
    flexible: int = 0
    common: Content | None = None
    divided: bool = False

    def add(self, wish: Content | None, most: Content, *, moved: bool, flexible: bool) -> None:
        """Count one user: what it wishes (None when an inner piece must change anyway), and the most it can take."""
        self.moved += moved
        self.unmoved += not moved
        self.flexible += flexible
        if wish is None:
            self.undecided += 1
        else:
            self.wishes[wish] = self.wishes.get(wish, 0) + 1
        if self.common is not None:
            self.common = _shared(self.common, most)
            self.divided = self.common is None
        elif not self.divided:
            self.common = most

    def decision(self) -> Content | None:
        """What the piece is to say; None when it stays, because nobody moves or its users cannot agree."""
        if not self.moved:
            return None
        if len(self.wishes) == 1 and not self.undecided:
            return next(iter(self.wishes))
        if self.divided or self.common is None or not self.flexible:
            return None
        fitting = [wish for wish in self.wishes if starts_with(self.common, wish)]
        return max(fitting, key=lambda wish: self.wishes[wish], default=self.common)


def wish_of(inner: Sequence[Piece], rest: Content) -> tuple[Content | None, Content]:
    """What is left for a piece of the ``rest`` of a path when all ``inner`` ones stay; and the most it can take.

    The last of them is the entry's own, and there is no wish where another would have to change anyway.
    """
    shared = tuple(name for piece in inner[:-1] for name in piece.parts)
    most = (rest[0], rest[1][: len(rest[1]) - len(inner[-1].parts)])
    cut_at = len(most[1]) - len(shared)
    fits = cut_at >= 0 and most[1][cut_at:] == shared
    return ((rest[0], most[1][:cut_at]) if fits else None), most


def starts_with(whole: Content, start: Content) -> bool:
    """Whether ``start`` is the beginning of ``whole``."""
    return whole[0] == start[0] and whole[1][: len(start[1])] == start[1]


def without_start(whole: Content, start: Content) -> Content | None:
    """What of ``whole`` comes after ``start``, or None when it does not begin so."""
    return ("", whole[1][len(start[1]) :]) if starts_with(whole, start) else None


def _shared(one: Content, other: Content) -> Content | None:
    if one[0] != other[0]:
        return None
    length = 0
    for mine, theirs in zip(one[1], other[1], strict=False):
        if mine != theirs:
            break
        length += 1
    return one[0], one[1][:length]
