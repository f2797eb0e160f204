"""What becomes of each carried file, given the plan, the journal and what is in its place at this moment."""

from __future__ import annotations

from enum import StrEnum

from ..errors import HalfwayError
from ..journal import Journal, Locations
from ..machines import Disk, Finder, Seen
from ..paths import MachinePath
from ..plan import Arrangement, Choice, Placement, is_same


class Fate(StrEnum):
    """What becomes of a carried file."""

    PLACE = "place"
    REPLACE = "replace"  # it takes the place of another one, which is kept aside
    THERE = "there"  # the same file is there already
    EARLIER = "earlier"  # an earlier run of this move placed it
    KEPT = "kept"  # what is in its place stays, as was decided
    MERGED = "merged"  # what is in its place stays; relinking brings in what the carried catalog holds


class Fates:
    """Tells fates."""

    def __init__(
        self, arrangement: Arrangement, finder: Finder, locations: Locations, journal: Journal | None, disk: Disk
    ) -> None:
        self._arrangement = arrangement
        self._finder = finder
        self._locations = locations
        self._journal = journal
        self._disk = disk

    def of(self, placement: Placement) -> tuple[Fate, Seen]:
        """The fate of one file, and what is in its place. Raises `HalfwayError` for what the plan does not know of."""
        seen = self._finder.find(target_of(placement))
        return self._of(placement, seen), seen

    def _of(self, placement: Placement, seen: Seen) -> Fate:
        choice = self._arrangement.choice_of(placement.old)
        if choice is Choice.MERGE:
            return Fate.MERGED
        if not self._is_there(seen, choice):
            return Fate.KEPT if choice is Choice.KEEP else Fate.PLACE
        if self._was_placed(seen):
            return Fate.EARLIER
        if choice is Choice.KEEP:
            return Fate.KEPT
        if choice is Choice.BRING_IN:
            return Fate.REPLACE
        if is_same(placement, seen, self._disk):
            return Fate.THERE
        raise HalfwayError(
            f"Another file appeared at {seen.path} after the plan was made.",
            next_step="Move it elsewhere, or run zesty undo and plan again.",
        )

    def _is_there(self, seen: Seen, choice: Choice | None) -> bool:
        if seen.facts is None:
            return False
        # What is brought in may have taken away what lay beside, such as a database's journal.
        return choice is not Choice.BRING_IN or (seen.real is not None and self._disk.facts(seen.real) is not None)

    def _was_placed(self, seen: Seen) -> bool:
        return self._journal is not None and self._journal.has_acted_at(
            self._locations.at(self._finder, seen.path, seen)
        )


def target_of(placement: Placement) -> MachinePath:
    """Where a placement goes."""
    if placement.new is None:
        raise ValueError("a placement without a route cannot be carried out")
    return placement.new
