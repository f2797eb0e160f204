"""Distribute files over the carriers that take a crate's parts: first fit, and only what no carrier can hold is cut."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import NamedTuple

from ..machines import FileFacts
from ..machines.texts import restored
from ..survey import SurveyStore
from .scope import Scope
from .sources import Sources

_LEAST_SEGMENT_BYTES = 1 << 20  # what room is left over and smaller than this is not worth a cut


class PendingFile(NamedTuple):
    """A file that must go, and how many of its bytes are in the crate as segments already."""

    file: int
    size_bytes: int
    done_bytes: int = 0


class Allotment(NamedTuple):
    """What of a file goes into which bag, in bytes; a file that is not cut goes as one piece of its whole size."""

    bag: int
    file: int
    first: int
    length: int
    is_segment: bool


@dataclass(slots=True)
class Space:
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

    def take(self, wanted: PendingFile, first: int, length: int, *, is_segment: bool) -> Allotment:
        """Have something on this space."""
        self.left_bytes -= -(-length // self.block_bytes) * self.block_bytes
        return Allotment(self.bag, wanted.file, first, length, is_segment)

    def _whole_blocks(self, size_bytes: int) -> int:
        return size_bytes // self.block_bytes * self.block_bytes


def distribute(
    files: Iterable[PendingFile], spaces: list[Space], more: Callable[[], Space | None]
) -> Iterator[Allotment]:
    """Where each file goes. ``more`` gives another space, or None; what fits nowhere then is left out of the result.

    The spaces' room is used up, and those that are added are in ``spaces`` afterwards.
    """
    for wanted in files:
        space = None if wanted.done_bytes else _first_that_holds(wanted.size_bytes, spaces, more)
        if space is not None:
            yield space.take(wanted, 0, wanted.size_bytes, is_segment=False)
        elif wanted.done_bytes or wanted.size_bytes > max(each.most_bytes for each in spaces):
            yield from _cut(wanted, spaces, more)


def _first_that_holds(size: int, spaces: list[Space], more: Callable[[], Space | None]) -> Space | None:
    for space in spaces:
        if space.room_for(size) == size:
            return space
    if spaces and size > max(each.most_bytes for each in spaces):
        return None  # it must be cut, and another carrier of the kind would not help
    added = more()
    if added is None:
        return None
    spaces.append(added)
    return added if added.room_for(size) == size else None


def _cut(wanted: PendingFile, spaces: list[Space], more: Callable[[], Space | None]) -> Iterator[Allotment]:
    first, number = wanted.done_bytes, 0
    while first < wanted.size_bytes:
        if number == len(spaces):
            added = more()
            if added is None or not added.is_worth_a_cut(wanted.size_bytes - first):
                return
            spaces.append(added)
        space = spaces[number]
        if not space.is_worth_a_cut(wanted.size_bytes - first):
            number += 1
            continue
        length = space.room_for(wanted.size_bytes - first)
        yield space.take(wanted, first, length, is_segment=True)
        first += length


_ASSIGNMENTS = """
CREATE TEMP TABLE IF NOT EXISTS assignment (
    bag INTEGER, file INTEGER, first INTEGER, length INTEGER, is_segment INTEGER);
DELETE FROM assignment;
"""
_PENDING = """
SELECT f.id, iif(e.key IS NULL, f.size, 0) AS size,
    coalesce((SELECT sum(size) FROM segment WHERE file = f.id), 0) AS done
FROM file AS f LEFT JOIN same_file AS e ON e.key = f.key AND e.size = f.size AND e.modified_ns = f.modified_ns
WHERE f.kind = 'file' AND f.id IN (SELECT id FROM file WHERE {}) AND f.id NOT IN (SELECT file FROM carried)
ORDER BY f.path
"""
_BEGUN = """
SELECT DISTINCT f.id, f.path, f.size, s.modified_ns FROM segment AS s JOIN file AS f ON f.id = s.file
WHERE f.id NOT IN (SELECT file FROM carried)
"""


class Sum(NamedTuple):
    """Files and bytes."""

    files: int
    size_bytes: int


class Distribution:
    """What of the scope goes into which bag: in a table, for a million files are too many to hold."""

    def __init__(self, survey: SurveyStore, scope: Scope, sources: Sources) -> None:
        self._survey = survey
        self._scope = scope
        self._sources = sources

    # -- how much -------------------------------------------------------------------------------------------------

    def sum_of(self, condition: str) -> Sum:
        """The files in the scope that meet a condition."""
        where = f"FROM file WHERE kind = 'file' AND {self._scope.condition} AND {condition}"
        return Sum(*(self._survey.count(f"SELECT {what} {where}") for what in ("count(*)", "sum(size)")))

    def carried(self) -> Sum:
        """What the crate holds."""
        where = "FROM carried WHERE file NOT IN (SELECT file FROM unchanged)"
        return Sum(*(self._survey.count(f"SELECT {what} {where}") for what in ("count(*)", "sum(size)")))

    def pending(self) -> Sum:
        """What is not in the crate yet."""
        return self.sum_of("id NOT IN (SELECT file FROM carried)")

    def largest(self) -> tuple[str, int]:
        """The largest file in the scope: its path and its size."""
        query = (
            f"SELECT path, size FROM file WHERE kind = 'file' AND {self._scope.condition} ORDER BY size DESC LIMIT 1"
        )
        return next(((restored(path), size) for path, size in self._survey.database.execute(query)), ("", 0))

    # -- sharing out ----------------------------------------------------------------------------------------------

    def assign(self, spaces: list[Space], more: Callable[[], Space | None]) -> Sum:
        """Decide what goes where. Returns what has no place yet, and needs another carrier."""
        database = self._survey.database
        database.execute(_ASSIGNMENTS)
        self._forget_cut_files_that_changed()
        pending = _PENDING.format(self._scope.condition)
        wanted = (PendingFile(*row) for row in database.execute(pending))
        database.executemany("INSERT INTO assignment VALUES (?, ?, ?, ?, ?)", distribute(wanted, spaces, more))
        lacking = self._survey.count(f"SELECT sum(size - done) FROM ({pending})") - self._survey.count(
            "SELECT sum(length) FROM assignment"
        )
        unshared = self._survey.count(f"SELECT count(*) FROM ({pending}) WHERE id NOT IN (SELECT file FROM assignment)")
        return Sum(max(unshared, 1 if lacking else 0), lacking)

    def assigned_to(self, bag: int) -> Sum:
        """What was given to one bag."""
        query = "SELECT {} FROM assignment WHERE bag = ?"
        return Sum(*(self._survey.count(query.format(what), (bag,)) for what in ("count(*)", "sum(length)")))

    def shared_files(self) -> int:
        """How many files an earlier crate has on the same carrier, so that they take no room."""
        query = "SELECT count(*) FROM assignment AS s JOIN file AS f ON f.id = s.file WHERE s.length = 0 AND f.size > 0"
        return self._survey.count(query)

    def cut_files(self) -> int:
        """How many files go in segments."""
        return self._survey.count("SELECT count(DISTINCT file) FROM assignment WHERE is_segment")

    def _forget_cut_files_that_changed(self) -> None:
        """Segments of a file that is not what it was when they were cut are of no use; it is taken from its start."""
        for file, path, size, modified_ns in list(self._survey.database.execute(_BEGUN)):
            source = self._sources.of(restored(path), FileFacts("file", size, modified_ns, 0))
            if source.why_not or source.facts.modified_ns != modified_ns:
                self._survey.database.execute("DELETE FROM segment WHERE file = ?", (file,))
