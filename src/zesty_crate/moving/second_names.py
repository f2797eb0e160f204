"""Hard links: files that were several names of one on the old computer are so on the new one, where its volume can."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from ..journal import SAME_AS, Location, Locations
from ..machines import Finder, in_batches
from ..plan import Move, Placement
from .fates import target_of


class SecondNames:
    """Which files are names of one, and where the first of each such set is now."""

    def __init__(self, move: Move, finder: Finder, locations: Locations) -> None:
        self._sets = move.survey.hard_links()
        self._disk = move.outside.disk
        self._finder = finder
        self._locations = locations
        self._placed: dict[int, list[Location]] = {}

    def in_turn(self, placements: Iterable[Placement], most_files: int, most_bytes: int) -> Iterator[list[Placement]]:
        """All placements, some at a time; second names when the files that they are names of are in their places."""
        seen: set[int] = set()
        second: list[Placement] = []

        def first() -> Iterator[Placement]:
            for each in placements:
                number = self._sets.get(each.row.id)
                if number is None or number not in seen:
                    yield each
                else:
                    second.append(each)
                if number is not None:
                    seen.add(number)

        yield from in_batches(first(), most_files, most_bytes, _size)
        yield from in_batches(second, most_files, most_bytes, _size)

    def note_of(self, placement: Placement, location: Location) -> str:
        """What the journal is told about a second name: what it is a name of. Nothing for any other file."""
        firsts = self._placed.get(self._sets.get(placement.row.id, 0), [])
        first = next((each for each in firsts if each.volume == location.volume), None)
        return "" if first is None else SAME_AS + first.path

    def note_placed(self, placements: Sequence[Placement]) -> None:
        """Take notice of what is in its place now."""
        for each in placements if self._sets else ():
            number = self._sets.get(each.row.id)
            if number is not None:
                self._placed.setdefault(number, []).append(self._locations.at(self._finder, target_of(each)))

    def count(self) -> tuple[int, int]:
        """How many of these names are of one file still, and how many became files of their own: looked at now."""
        still, parted = 0, 0
        for locations in self._placed.values():
            files = len({self._disk.identity(self._locations.real(each)) for each in locations})
            still += len(locations) - files
            parted += files - 1
        return still, parted


def _size(placement: Placement) -> int:
    return placement.row.facts.size_bytes
