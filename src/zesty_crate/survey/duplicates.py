"""Duplicates: files of one content in several places. Only files of one size are read, and first only their ends."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from itertools import groupby

from ..machines import Computer, Disk, DiskError, Finder
from ..machines.texts import restored
from ..progress import Progress, Tell
from .store import SurveyStore

_ENDS_BYTES = 1 << 16
# Caches and what comes with a program are not worth the reading, nor are empty files.
_ASKED = "kind = 'file' AND role IN ('own', 'outside') AND size > 0"
_SIZES = f"SELECT size FROM file WHERE {_ASKED} GROUP BY size HAVING count(*) > 1"
_SAME_SIZE = f"SELECT size, id, path FROM file WHERE {_ASKED} AND fault = '' AND size IN ({_SIZES}) ORDER BY size, path"

File = tuple[int, str]


def note_duplicates(store: SurveyStore, computer: Computer, finder: Finder, disk: Disk, tell: Tell) -> None:
    """Find all files of one content, and note each set of them."""
    looker = _Looker(computer, finder, disk, tell)
    number = linked = 0
    if store.database.execute(f"{_SIZES} LIMIT 1").get is None:
        return
    rows = list(store.database.execute(_SAME_SIZE))
    for size, same in groupby(rows, key=lambda row: row[0]):
        files = [(int(row[1]), restored(row[2])) for row in same]
        for alike in looker.alike(files, ends_only=_ENDS_BYTES):
            wholes = looker.alike(alike, ends_only=0) if size > 2 * _ENDS_BYTES else [alike]
            for whole in wholes:
                number += 1
                store.add_duplicates(number, (file for file, _ in whole))
                for names in looker.hard_links(whole):
                    store.add_hard_links(names[0], names)
                    linked += len(names) - 1
    store.set_about("hard-links", linked)


class _Looker:
    def __init__(self, computer: Computer, finder: Finder, disk: Disk, tell: Tell) -> None:
        self._computer = computer
        self._finder = finder
        self._disk = disk
        self._tell = tell
        self._read = 0

    def hard_links(self, files: Sequence[File]) -> list[list[int]]:
        """Of some files of one content, those that are only several names of one file, set by set."""
        sets: dict[tuple[int, int], list[int]] = {}
        for file, path in files:
            real = self._finder.find(self._computer.parse(path)).real
            if real is not None:
                sets.setdefault(self._disk.identity(real), []).append(file)
        return [names for names in sets.values() if len(names) > 1]

    def alike(self, files: Iterable[File], *, ends_only: int) -> Iterator[list[File]]:
        """Those of some files that are alike, set by set; a file that cannot be read is like no other."""
        sets: dict[str, list[File]] = {}
        for file in files:
            real = self._finder.find(self._computer.parse(file[1])).real
            try:
                digest = self._disk.digest_by(real, "sha256", ends_only=ends_only) if real else ""
            except DiskError:
                continue
            sets.setdefault(digest, []).append(file)
            self._read += 1
            self._tell(Progress("comparing files of one size", self._read))
        return (each for digest, each in sets.items() if digest and len(each) > 1)
