"""Read a crate back: every payload file against its digest, nothing more and nothing less than the manifest says."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from dataclasses import dataclass
from typing import NamedTuple

import apsw

from ..machines import BATCH_BYTES, BATCH_FILES, ENOUGH_FILES, Disk, DiskError, SmallWork, in_batches, in_parallel
from ..machines.texts import restored, stored
from ..progress import Tell, silent
from ..systems.worker_program import SMALL_BYTES, Order
from .bag import PAYLOAD_MANIFEST, DamagedCrate, payload_files, read_bag_info, read_manifest
from .crate import Crate
from .distribution import Sum
from .watch import Watch

_SCHEMA = """
CREATE TABLE listed (name PRIMARY KEY, sha512 TEXT) WITHOUT ROWID;
CREATE TABLE present (name PRIMARY KEY, size INTEGER) WITHOUT ROWID;
"""
_FAULTS = """
SELECT name, 'not there' FROM listed WHERE name NOT IN (SELECT name FROM present) UNION ALL
SELECT name, 'not in the manifest' FROM present WHERE name NOT IN (SELECT name FROM listed) UNION ALL
SELECT name, 'a link, and not the file that was carried' FROM present WHERE size < 0
"""
_TO_READ = "SELECT name, sha512, size FROM listed JOIN present USING (name) WHERE size >= 0 ORDER BY name"


@dataclass(frozen=True, slots=True)
class Verified:
    """What was read back and found to be as it was written."""

    files: int
    size_bytes: int


class _Listed(NamedTuple):
    name: str
    sha512: str
    size_bytes: int


def verify(
    crate: Crate, disk: Disk, tell: Tell = silent, stage: str = "reading back", *, from_drive: bool = True
) -> Verified:
    """Read the whole payload of a finished crate; ``from_drive``, whatever the system still remembers of it.

    Raises `DamagedCrate` that names every file that is missing, that differs, or that does not belong.
    """
    database = _compared(crate, disk)
    faults = [f"{restored(name)}: {why}" for name, why in database.execute(_FAULTS)]
    total = int(database.execute("SELECT coalesce(sum(max(size, 0)), 0) FROM present").get)
    files = int(database.execute("SELECT count(*) FROM listed").get)
    faults += _oxum_fault(crate, disk, f"{total}.{database.execute('SELECT count(*) FROM present').get}")
    watch, done = Watch(stage, Sum(files, total), tell), Sum(0, 0)
    reader = _ReadBack(crate, disk, watch, from_drive=from_drive)
    with disk.worker() if files > ENOUGH_FILES else contextlib.nullcontext() as worker:
        small = SmallWork(worker, reader.orders, reader.by_worker) if worker else None
        for batch, found in in_parallel(reader.faults, _batches(database), small):
            faults += found
            done = Sum(done.files + len(batch), done.size_bytes + sum(row.size_bytes for row in batch))
            watch.flush(done, sum(row.size_bytes for row in batch if row.size_bytes > BATCH_BYTES))
    if faults:
        raise DamagedCrate(
            f"{crate.root} is damaged: of {files} files {len(faults)} differ from what was carried.",
            details=faults,
            next_step="Use another copy of the crate, or run zesty pack again while the old computer is available.",
        )
    return Verified(files, total)


def _compared(crate: Crate, disk: Disk) -> apsw.Connection:
    """The manifest and the payload as tables, in a file of their own that goes away: there may be a million."""
    database = apsw.Connection("")
    database.execute(_SCHEMA)
    rows = ((stored(name), digest) for name, digest in read_manifest(disk, crate.root / PAYLOAD_MANIFEST))
    database.executemany("INSERT INTO listed VALUES (?, ?)", rows)
    if disk.facts(crate.data) is not None:
        present = ((stored(name), size) for name, size in payload_files(disk, crate.data, "data/"))
        database.executemany("INSERT INTO present VALUES (?, ?)", present)
    return database


def _batches(database: apsw.Connection) -> Iterator[list[_Listed]]:
    rows = (_Listed(restored(name), sha512, size) for name, sha512, size in database.execute(_TO_READ))
    return in_batches(rows, BATCH_FILES, BATCH_BYTES, lambda row: row.size_bytes)


class _ReadBack:
    """Reads payload files through, and names those that are not as they were listed."""

    def __init__(self, crate: Crate, disk: Disk, watch: Watch, *, from_drive: bool) -> None:
        self._root = str(crate.root)
        self._disk = disk
        self._watch = watch
        self._from_drive = from_drive

    def faults(self, rows: list[_Listed]) -> list[str]:
        """Read here."""
        return [fault for row in rows if (fault := self._fault(row))]

    def orders(self, rows: list[_Listed], _by_worker: bool) -> list[Order] | None:
        """What to read; None when there is a large file among them."""
        if any(row.size_bytes > SMALL_BYTES for row in rows):
            return None
        return [(f"{self._root}/{row.name}", self._from_drive) for row in rows]

    def by_worker(self, rows: list[_Listed], answers: list[str]) -> list[str]:
        """What was read by a hand; what has the wrong form is looked at once more, and then told by its name."""
        good = zip(rows, answers, strict=True) if answers else ((row, "") for row in rows)
        return self.faults([row for row, answer in good if answer != row.sha512])

    def _fault(self, row: _Listed) -> str:
        moved = self._watch.moved if row.size_bytes > BATCH_BYTES else None
        try:
            found = self._disk.digest(f"{self._root}/{row.name}", from_drive=self._from_drive, moved=moved).sha512
        except DiskError as error:
            return f"{row.name}: {error.message}"
        return "" if found == row.sha512 else f"{row.name}: content differs from what was carried"


def _oxum_fault(crate: Crate, disk: Disk, counted: str) -> list[str]:
    """The quick check of RFC 8493, 2.2.2: bytes and number of payload files."""
    said = read_bag_info(disk, crate.root / "bag-info.txt").get("Payload-Oxum")
    return [] if said == counted else [f"bag-info.txt: Payload-Oxum says {said}, but {counted} was counted"]
