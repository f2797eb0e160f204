"""What is put together beside its place, before it takes that place in one rename."""

from __future__ import annotations

import errno
import os
from collections.abc import Iterable, Iterator, Sequence
from itertools import groupby, zip_longest

from ..crate import Contents
from ..errors import HalfwayError
from ..machines import BATCH_BYTES, Disk, DiskError, FileFacts, SmallWork, Worker, in_batches, in_parallel
from ..machines.files import AnyPath, Moved
from ..machines.sqlite_files import SIDE_ENDINGS
from ..systems.worker_program import SMALL_BYTES, Order
from .locations import Locations
from .model import Action, Location

SAME_AS = "same file as "  # begins the note of an action that gives a file a second name on its volume
_CHUNK_FILES, _CHUNK_BYTES = 128, 4 << 20  # what one worker builds at a time, so that handing over costs little


class Parts:
    """The part files of actions; ``moved`` is told the bytes of large ones while they are on their way.

    A ``worker`` builds small ones, while there is one.
    """

    def __init__(self, contents: Contents, locations: Locations, disk: Disk, moved: Moved | None = None) -> None:
        self._contents = contents
        self._locations = locations
        self._disk = disk
        self._moved = moved
        self.worker: Worker | None = None

    def path_of(self, action: Action) -> str:
        """Where the new content of an action is put together."""
        return self._locations.part(action.location, action.id)

    def build_all(self, actions: Sequence[Action]) -> None:
        """Build what these actions place, several at a time; it is on the disk after the next flush of the volume."""
        small = SmallWork(self.worker, self._orders, self._built_by_worker) if self.worker else None
        for _ in in_parallel(self._build_some, _by_folders(actions), small):
            pass

    def put_all(self, actions: Sequence[Action]) -> None:
        """Give what was built its name, where nothing is at that yet. Raises `HalfwayError` where something else is."""
        if self.worker is None:
            self._put_some(actions)
            return
        small = SmallWork(self.worker, self._namings, self._put_by_worker)
        for _ in in_parallel(self._put_some, _by_folders(actions), small):
            pass

    def build(self, source: str, action: Action, sha512: str, facts: FileFacts, *, settled: bool = False) -> str:
        """Copy from the crate, only if the content is what it must be. Raises `HalfwayError`."""
        files = self._contents.files_of(source)
        if absent := [each for each in files if self._disk.facts(each) is None]:
            raise HalfwayError(
                f"{absent[0]}, which belongs at {action.location}, is not in the crate.",
                next_step="Provide the whole crate, then run the command again.",
            )
        part = self.path_of(action)
        if len(files) == 1:
            moved = self._moved if facts.size_bytes > BATCH_BYTES else None
            copied = self._disk.copy(files[0], part, facts, settled=settled, moved=moved)
        else:
            copied = self._disk.join(files, part, facts)
        if copied.sha512 != sha512:
            self._disk.remove(part)
            raise HalfwayError(
                f"{files[0]} was changed after it was written to the crate.",
                next_step="Use another copy of the crate.",
            )
        self._disk.own_as(part, os.path.dirname(part))  # noqa: PTH120  a text costs less
        self._disk.set_facts(part, facts)
        return part

    def remove(self, actions: Sequence[Action]) -> None:
        """Remove what actions were putting together, with what a database puts beside its file."""
        for action in actions:
            for ending in ("", *SIDE_ENDINGS):
                beside = f"{self.path_of(action)}{ending}"
                if self._disk.facts(beside) is not None:
                    self._disk.remove(beside)

    def is_placed(self, action: Action) -> bool:
        """Whether what an action places is there already. Raises `HalfwayError` where something else is."""
        place = self._locations.place(action.location)
        if self._disk.facts(place) is None:
            return False
        if not holds(self._disk, place, action.sha512):
            raise HalfwayError(
                f"Another file appeared at {action.location} before the carried file could be placed there.",
                next_step="Move it elsewhere, then run the command again.",
            )
        return True

    def _orders(self, actions: list[Action], _by_worker: bool) -> list[Order] | None:
        """What to copy; None when any is not one small file."""
        orders: list[Order] = []
        for action in actions:
            facts = action.facts
            if facts.size_bytes > SMALL_BYTES or action.note.startswith(SAME_AS):
                return None
            files = self._contents.files_of(action.source)
            if len(files) != 1:
                return None
            orders.append((files[0], self.path_of(action), "", None, action.sha512, facts.modified_ns, facts.mode))
        return orders

    def _namings(self, actions: list[Action], _by_worker: bool) -> list[Order]:
        return [(self.path_of(action), self._locations.place(action.location), action.sha512) for action in actions]

    def _built_by_worker(self, actions: list[Action], answers: list[str]) -> None:
        """What nothing came of is built here, and so the reason is told."""
        for action, answer in zip_longest(actions, answers, fillvalue=""):
            if isinstance(action, Action) and not answer:
                self.remove([action])
                self._build_some([action])

    def _build_some(self, actions: Sequence[Action]) -> None:
        for action in actions:
            if not self._is_linked(action):
                self.build(action.source, action, action.sha512, action.facts)

    def _is_linked(self, action: Action) -> bool:
        """Whether this is a second name of a file that is in its place, and could be made so."""
        if not action.note.startswith(SAME_AS):
            return False
        first = self._locations.place(Location(action.location.volume, action.note.removeprefix(SAME_AS)))
        if not holds(self._disk, first, action.sha512):
            return False
        try:
            self._disk.link(first, self.path_of(action))
        except DiskError:
            return False  # this volume has no hard links
        return True

    def _put_by_worker(self, actions: list[Action], answers: list[str]) -> None:
        """What got no name gets it here, or it is told why not."""
        told = zip_longest(actions, answers, fillvalue="")
        self._put_some([action for action, answer in told if isinstance(action, Action) and not answer])

    def _put_some(self, actions: Sequence[Action]) -> None:
        for action in actions:
            if self.is_placed(action):  # it came from elsewhere meanwhile: copying may have taken long
                self.remove([action])
                continue
            try:
                self._disk.rename_to_free_name(self.path_of(action), self._locations.place(action.location))
            except DiskError as error:
                if error.errno != errno.EEXIST:
                    raise
                self.is_placed(action)  # it came in this very moment, and is told of


def holds(disk: Disk, place: AnyPath, sha512: str) -> bool:
    """Whether a file of this content is at a place."""
    facts = disk.facts(place)
    return facts is not None and facts.is_file and disk.digest(place).sha512 == sha512


def _by_folders(actions: Iterable[Action]) -> Iterator[list[Action]]:
    """Actions by the handful, those of one folder together: where two make files in one, each waits for the other."""
    batch: list[Action] = []
    for _, group in groupby(actions, key=lambda action: action.location.path.rpartition("/")[0]):
        for some in in_batches(group, _CHUNK_FILES, _CHUNK_BYTES, _size):
            if batch and (len(batch) + len(some) > _CHUNK_FILES or sum(map(_size, batch + some)) > _CHUNK_BYTES):
                yield batch
                batch = []
            batch += some
    if batch:
        yield batch


def _size(action: Action) -> int:
    return action.facts.size_bytes
