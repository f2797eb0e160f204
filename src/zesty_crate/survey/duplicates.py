"""Duplicates: files of one content in several places. Only files of one size are read, at first only their ends."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable, Iterator
from contextlib import nullcontext
from itertools import groupby, repeat, tee
from pathlib import Path
from typing import NamedTuple, TypeVar

from ..machines import (
    BATCH_BYTES,
    BATCH_FILES,
    ENOUGH_FILES,
    Computer,
    Disk,
    DiskError,
    Finder,
    SmallWork,
    Worker,
    in_batches,
    in_parallel,
)
from ..machines.texts import restored
from ..progress import Progress, Tell
from ..systems.worker_program import Order
from .store import SurveyStore

_ENDS_BYTES = 1 << 16
_SMALL_BYTES = 2 * _ENDS_BYTES  # its ends are the whole of it
# Caches and what comes with a program are not worth the reading, nor are empty files.
_ASKED = "kind = 'file' AND role IN ('own', 'outside') AND size > 0"
_SIZES = f"SELECT size FROM file WHERE {_ASKED} GROUP BY size HAVING count(*) > 1"
_FILES = "SELECT size, id, path FROM file WHERE"
_SAME_SIZE = f"{_FILES} {_ASKED} AND fault = '' AND size IN ({_SIZES}) ORDER BY size, path"

_Key = TypeVar("_Key", bound=Hashable)


class _File(NamedTuple):
    size_bytes: int
    id: int
    path: str


_Placed = tuple[_File, Path]  # with where it is from here


def note_duplicates(store: SurveyStore, computer: Computer, finder: Finder, disk: Disk, tell: Tell) -> None:
    """Find all files of one content, and note each set of them."""
    store.flush()
    linked = 0
    many = store.count(f"SELECT count(*) FROM (SELECT 1 FROM file WHERE {_ASKED} LIMIT {ENOUGH_FILES})") == ENOUGH_FILES
    with disk.worker() if many else nullcontext() as worker:
        looker = _Looker(store, computer, finder, disk, tell, worker)
        for number, files in enumerate(looker.of_one_content(), start=1):
            store.add_duplicates(number, files)
            for names in looker.hard_links(files):
                store.add_hard_links(names[0], names)
                linked += len(names) - 1
    store.set_about("hard-links", linked)


class _Looker:
    """Looks at files that may be alike. Of many it knows no more than their numbers: all of a million may be alike."""

    def __init__(
        self, store: SurveyStore, computer: Computer, finder: Finder, disk: Disk, tell: Tell, worker: Worker | None
    ) -> None:
        self._store = store
        self._computer = computer
        self._finder = finder
        self._disk = disk
        self._tell = tell
        self._worker = worker
        self._read = 0

    def of_one_content(self) -> Iterator[list[int]]:
        """The files of each content that several have; a file that cannot be read is like no other."""
        files = self._digested(self._files(_SAME_SIZE), self._ends)
        for size, same in groupby(files, key=lambda file: file[0].size_bytes):
            for alike in _alike((digest, file.id) for file, digest in same):
                yield from [alike] if size <= _SMALL_BYTES else self._wholly_alike(alike)

    def _wholly_alike(self, files: list[int]) -> Iterator[list[int]]:
        return _alike((digest, file.id) for file, digest in self._digested(self._known(files), self._whole))

    def hard_links(self, files: list[int]) -> Iterator[list[int]]:
        """Of some files of one content, those that are only several names of one file, set by set."""
        return _alike((self._disk.identity(real), file.id) for file, real in self._places(self._known(files)))

    def _files(self, query: str, bindings: tuple[int, ...] = ()) -> Iterator[_File]:
        for size, number, path in self._store.database.execute(query, bindings):
            yield _File(size, number, restored(path))

    def _known(self, files: list[int]) -> Iterator[_File]:
        return (each for file in files for each in self._files(f"{_FILES} id = ?", (file,)))

    def _places(self, files: Iterable[_File]) -> Iterator[_Placed]:
        """Where files are from here, of those that are still there."""
        files, told = tee(files)
        paths = self._computer.parse_all(file.path for file in told)
        for file, path in zip(files, paths, strict=True):
            real = self._finder.find(path).real
            if real is not None:
                yield file, real

    def _digested(self, files: Iterable[_File], digest: Callable[[_Placed], str]) -> Iterator[tuple[_File, bytes]]:
        """Files in their order with the digests of what was read of each."""

        def read(batch: list[_Placed]) -> list[str]:
            return [digest(placed) for placed in batch]

        def by_worker(batch: list[_Placed], told: list[str]) -> list[str]:
            return [said or digest(placed) for placed, said in zip(batch, told or repeat(""), strict=False)]

        small = SmallWork(self._worker, _orders, by_worker) if self._worker else None
        batches = in_batches(self._places(files), BATCH_FILES, BATCH_BYTES, lambda placed: placed[0].size_bytes)
        for batch, digests in in_parallel(read, batches, small):
            yield from ((file, bytes.fromhex(said)) for (file, _), said in zip(batch, digests, strict=True) if said)
            self._read += len(batch)
            self._tell(Progress("comparing files of one size", self._read))

    def _ends(self, placed: _Placed) -> str:
        file, real = placed
        if file.size_bytes <= _SMALL_BYTES:
            return self._whole(placed)
        try:
            return self._disk.digest_by(real, "sha512", ends_only=_ENDS_BYTES)
        except DiskError:
            return ""

    def _whole(self, placed: _Placed) -> str:
        try:
            return self._disk.digest(placed[1]).sha512
        except DiskError:
            return ""


def _orders(batch: list[_Placed], _by_worker: bool) -> list[Order] | None:
    """Small files to read as a whole; None when others are among them."""
    if any(file.size_bytes > _SMALL_BYTES for file, _ in batch):
        return None
    return [(str(real), False) for _, real in batch]


def _alike(files: Iterable[tuple[_Key, int]]) -> Iterator[list[int]]:
    """Files by what they are known by: each set of several that are known by the same."""
    known: dict[_Key, int | list[int]] = {}
    for key, file in files:
        first = known.setdefault(key, file)
        if isinstance(first, list):
            first.append(file)
        elif first != file:
            known[key] = [first, file]
    return (several for several in known.values() if isinstance(several, list))
