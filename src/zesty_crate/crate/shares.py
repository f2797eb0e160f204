"""Share files out over the carriers that take a crate's parts: first fit, and cut only what no carrier could hold."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import NamedTuple

_LEAST_SEGMENT_BYTES = 1 << 20  # what room is left over and smaller than this is not worth a cut


class Wanted(NamedTuple):
    """A file that is to go, and how many of its bytes lie in the crate as segments already."""

    file: int
    size_bytes: int
    done_bytes: int = 0


class Piece(NamedTuple):
    """What of a file goes into which bag, in bytes; a file that is not cut goes as one piece of its whole size."""

    bag: int
    file: int
    first: int
    length: int
    is_segment: bool


@dataclass(slots=True)
class Shelf:
    """The room that a carrier has for payload: left now, when empty, and for one file. Bytes.

    Room is given out in whole blocks.
    """

    bag: int
    left_bytes: int
    empty_bytes: int
    largest_bytes: int
    block_bytes: int = 1

    @property
    def most_bytes(self) -> int:
        """The largest file that it could ever take whole."""
        return min(self._whole_blocks(self.empty_bytes), self.largest_bytes)

    def room_for(self, size_bytes: int) -> int:
        """How much of a file this size it can take now."""
        return min(self._whole_blocks(self.left_bytes), self.largest_bytes, size_bytes)

    def is_worth_a_cut(self, rest_bytes: int) -> bool:
        """Whether to begin a segment here, of what is left of a file."""
        length = self.room_for(rest_bytes)
        return 0 < length >= min(_LEAST_SEGMENT_BYTES, self.most_bytes, rest_bytes)

    def take(self, wanted: Wanted, first: int, length: int, *, is_segment: bool) -> Piece:
        """Have something on this shelf."""
        self.left_bytes -= -(-length // self.block_bytes) * self.block_bytes
        return Piece(self.bag, wanted.file, first, length, is_segment)

    def _whole_blocks(self, size_bytes: int) -> int:
        return size_bytes // self.block_bytes * self.block_bytes


def share_out(files: Iterable[Wanted], shelves: list[Shelf], more: Callable[[], Shelf | None]) -> Iterator[Piece]:
    """Where each file goes. ``more`` gives another shelf, or None; what fits nowhere then is left out of the result.

    The shelves' room is used up, and those that are added stand in ``shelves`` afterwards.
    """
    for wanted in files:
        shelf = None if wanted.done_bytes else _first_that_holds(wanted.size_bytes, shelves, more)
        if shelf is not None:
            yield shelf.take(wanted, 0, wanted.size_bytes, is_segment=False)
        elif wanted.done_bytes or wanted.size_bytes > max(each.most_bytes for each in shelves):
            yield from _cut(wanted, shelves, more)


def _first_that_holds(size: int, shelves: list[Shelf], more: Callable[[], Shelf | None]) -> Shelf | None:
    for shelf in shelves:
        if shelf.room_for(size) == size:
            return shelf
    if shelves and size > max(each.most_bytes for each in shelves):
        return None  # it is to be cut, and another carrier of the kind would not help
    added = more()
    if added is None:
        return None
    shelves.append(added)
    return added if added.room_for(size) == size else None


def _cut(wanted: Wanted, shelves: list[Shelf], more: Callable[[], Shelf | None]) -> Iterator[Piece]:
    first, number = wanted.done_bytes, 0
    while first < wanted.size_bytes:
        if number == len(shelves):
            added = more()
            if added is None or not added.is_worth_a_cut(wanted.size_bytes - first):
                return
            shelves.append(added)
        shelf = shelves[number]
        if not shelf.is_worth_a_cut(wanted.size_bytes - first):
            number += 1
            continue
        length = shelf.room_for(wanted.size_bytes - first)
        yield shelf.take(wanted, first, length, is_segment=True)
        first += length
