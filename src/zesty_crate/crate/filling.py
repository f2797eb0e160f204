"""Fill a crate: share its files out over the carriers, and fetch them, part by part."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

from ..errors import ZestyError
from ..machines import Computer, Disk, FileFacts, Finder, make_folders, side_by_side, working_folder
from ..machines.texts import restored
from ..progress import Progress, Tell
from ..survey import SurveyStore
from .bag import payload_files
from .carriers import Carrier
from .crate import Crate
from .fetch import Errand, Fetched, Place, fetch_all
from .naming import PayloadNames
from .scope import Scope
from .shares import Piece, Shelf, Wanted, share_out
from .sources import Sources

if TYPE_CHECKING:
    from hashlib import _Hash as Hash

_COMMIT_EVERY_FILES = 1_000
_BATCH_FILES, _BATCH_BYTES = 64, 8 << 20  # small files go by the handful, so that handing them out costs little
_AT_A_TIME = 2_000

_SHARES = """
CREATE TEMP TABLE IF NOT EXISTS share (bag INTEGER, file INTEGER, first INTEGER, length INTEGER, is_segment INTEGER);
DELETE FROM share;
"""
_PENDING = """
SELECT f.id, f.size, coalesce((SELECT sum(size) FROM segment WHERE file = f.id), 0) AS done FROM file AS f
WHERE f.kind = 'file' AND {} AND f.id NOT IN (SELECT file FROM carried) ORDER BY f.path
"""
_BEGUN = """
SELECT DISTINCT f.id, f.path, f.size, s.modified_ns FROM segment AS s JOIN file AS f ON f.id = s.file
WHERE f.id NOT IN (SELECT file FROM carried)
"""
_TO_FETCH = """
SELECT s.rowid, s.first, s.length, s.is_segment, f.id, f.path, f.size, f.modified_ns, f.mode, f.fault
FROM share AS s JOIN file AS f ON f.id = s.file WHERE s.bag = ? AND s.rowid > ? ORDER BY s.rowid LIMIT ?
"""


@dataclass(frozen=True, slots=True)
class Left:
    """A file that was to be carried and was not, and why."""

    path: str
    why: str


class Sum(NamedTuple):
    """Files and bytes."""

    files: int
    size_bytes: int


class Filler:
    """Fetches what is in a scope and not in the crate yet."""

    def __init__(
        self, crate: Crate, survey: SurveyStore, computer: Computer, scope: Scope, disk: Disk, tell: Tell
    ) -> None:
        self._crate = crate
        self._survey = survey
        self._computer = computer
        self._scope = scope
        self._disk = disk
        self._tell = tell
        self.names = PayloadNames(computer, (computer.parse(row.path) for row in survey.files(scope.condition)))
        self._sources = Sources(computer, Finder(computer, disk), self.names)
        self._made: set[tuple[int, int, str]] = set()
        self._running: dict[int, Hash] = {}
        self.left: list[Left] = []
        self.changed: list[str] = []
        self._done, self._total = self.carried(), self.sum_of("1")

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

    def share(self, shelves: list[Shelf], more: Callable[[], Shelf | None]) -> Sum:
        """Decide what goes where. Returns what has no place yet, and needs another carrier."""
        database = self._survey.database
        database.execute(_SHARES)
        self._forget_cut_files_that_changed()
        pending = _PENDING.format(self._scope.condition)
        wanted = (Wanted(*row) for row in database.execute(pending))
        database.executemany("INSERT INTO share VALUES (?, ?, ?, ?, ?)", share_out(wanted, shelves, more))
        lacking = self._survey.count(f"SELECT sum(size - done) FROM ({pending})") - self._survey.count(
            "SELECT sum(length) FROM share"
        )
        unshared = self._survey.count(f"SELECT count(*) FROM ({pending}) WHERE id NOT IN (SELECT file FROM share)")
        return Sum(max(unshared, 1 if lacking else 0), lacking)

    def share_of(self, bag: int) -> Sum:
        """What was given to one bag."""
        query = "SELECT {} FROM share WHERE bag = ?"
        return Sum(*(self._survey.count(query.format(what), (bag,)) for what in ("count(*)", "sum(length)")))

    def cut_files(self) -> int:
        """How many files go in segments."""
        return self._survey.count("SELECT count(DISTINCT file) FROM share WHERE is_segment")

    def _forget_cut_files_that_changed(self) -> None:
        """Segments of a file that is not what it was when they were cut are of no use; it is taken from its start."""
        for file, path, size, modified_ns in list(self._survey.database.execute(_BEGUN)):
            source = self._sources.of(restored(path), FileFacts("file", size, modified_ns, 0))
            if source.why_not or source.facts.modified_ns != modified_ns:
                self._survey.database.execute("DELETE FROM segment WHERE file = ?", (file,))

    # -- fetching -------------------------------------------------------------------------------------------------

    def fetch(self, carrier: Carrier) -> None:
        """Fetch what was given to one carrier. What was fetched is settled before it is written down for good."""
        for copy in carrier.copies:
            make_folders(self._disk, copy.data)
        with working_folder(self._disk, carrier.part.incoming):
            if carrier.second is None:
                self._fetch(carrier)
            else:
                with working_folder(self._disk, carrier.second.incoming):
                    self._fetch(carrier)

    def _fetch(self, carrier: Carrier) -> None:
        database = self._survey.database
        database.execute("BEGIN")
        batches = side_by_side(lambda errands: fetch_all(errands, self._disk), _batches(self._errands(carrier)))
        since = 0
        try:
            for errands, (results, fault) in batches:
                self._record(carrier.bag, errands, results)
                if fault is not None:
                    raise fault
                self._tell(
                    Progress(
                        "copying", self._done.files, self._total.files, self._done.size_bytes, self._total.size_bytes
                    )
                )
                since += len(errands)
                if since >= _COMMIT_EVERY_FILES:
                    self._commit(carrier)
                    database.execute("BEGIN")
                    since = 0
        except ZestyError:
            self._commit(carrier)  # what came before it is whole
            raise
        self._commit(carrier)

    def _commit(self, carrier: Carrier) -> None:
        for copy in carrier.copies:
            self._disk.settle_all(copy.root)
        self._disk.commit(self._survey.database)

    def _errands(self, carrier: Carrier) -> Iterator[Errand]:
        last = 0
        while rows := list(self._survey.database.execute(_TO_FETCH, (carrier.bag, last, _AT_A_TIME))):
            last = rows[-1][0]
            for _, first, length, is_segment, file, path, *facts, fault in rows:
                size, modified_ns, mode = facts
                piece = Piece(carrier.bag, file, first, length, bool(is_segment))
                yield self._errand(carrier, piece, restored(path), FileFacts("file", size, modified_ns, mode), fault)

    def _errand(self, carrier: Carrier, piece: Piece, path: str, listed: FileFacts, fault: str) -> Errand:
        source = self._sources.of(path, listed)
        if fault or source.why_not:
            return Errand(piece, path, listed, source, source.payload, (), why_not=fault or source.why_not)
        payload = source.payload
        running = None
        if piece.is_segment:
            payload += f"~(from {piece.first})"
            running = self._running.setdefault(piece.file, hashlib.sha512()) if self._may_run_on(piece) else None
        places = []
        folder = payload.rpartition("/")[0]
        for number, copy in enumerate(carrier.copies):
            if (carrier.bag, number, folder) not in self._made:
                make_folders(self._disk, copy.root / folder)
                self._made.add((carrier.bag, number, folder))
            places.append(Place(f"{copy.incoming}/{piece.file}-{piece.first}", f"{copy.root}/{payload}"))
        return Errand(piece, path, listed, source, payload, tuple(places), running)

    def _may_run_on(self, piece: Piece) -> bool:
        """Whether a digest of the whole file can be kept up: from its beginning on, without a gap."""
        return piece.first == 0 or piece.file in self._running

    # -- writing down ---------------------------------------------------------------------------------------------

    def _record(self, bag: int, errands: list[Errand], results: list[Fetched]) -> None:
        """Write down what came of errands."""
        whole = []
        for errand, result in zip(errands, results, strict=False):  # fewer, where the carrier failed
            facts, file = result.facts, errand.piece.file
            if facts is None:
                self._leave(errand, result.why_not)
            elif errand.piece.is_segment:
                self._record_segment(errand, result, facts)
            else:
                whole.append((file, errand.payload, result.sha512, facts.size_bytes, facts.modified_ns, bag))
                self._count(errand, facts)
        self._survey.set_carried(whole)

    def _leave(self, errand: Errand, why: str) -> None:
        if errand.path not in {left.path for left in self.left[-1:]}:
            self.left.append(Left(errand.path, why))

    def _count(self, errand: Errand, facts: FileFacts) -> None:
        self._done = Sum(self._done.files + 1, self._done.size_bytes + errand.listed.size_bytes)
        if (facts.size_bytes, facts.modified_ns) != (errand.listed.size_bytes, errand.listed.modified_ns):
            self.changed.append(errand.path)

    def _record_segment(self, errand: Errand, result: Fetched, facts: FileFacts) -> None:
        """Write a segment down; with the last one, the whole file, by the digest of all of it."""
        piece, database = errand.piece, self._survey.database
        row = (piece.file, piece.first, errand.payload, result.sha512, piece.length, facts.modified_ns, piece.bag)
        database.execute("INSERT OR REPLACE INTO segment VALUES (?, ?, ?, ?, ?, ?, ?)", row)
        if self._survey.count("SELECT sum(size) FROM segment WHERE file = ?", (piece.file,)) < facts.size_bytes:
            return
        running = self._running.pop(piece.file, None)
        sha512 = running.hexdigest() if running is not None else self._disk.digest(errand.source.real).sha512
        carried = (piece.file, errand.source.payload, sha512, facts.size_bytes, facts.modified_ns, 0)
        self._survey.set_carried([carried])
        self._count(errand, facts)

    # -- tidying up -----------------------------------------------------------------------------------------------

    def drop_what_was_given_up(self) -> None:
        """Segments of files that could not be had whole are of no use. Their files go with them, where they are."""
        self._survey.database.execute("DELETE FROM segment WHERE file NOT IN (SELECT file FROM carried)")

    def drop_what_went_elsewhere(self, carrier: Carrier) -> None:
        """Remove what an interrupted run put into a part and did not write down, and what was given up.

        Only names that packing itself gives are removed; anything else is left for the read-back to tell of.
        """
        held = "SELECT payload FROM carried WHERE bag = ?1 UNION SELECT payload FROM segment WHERE bag = ?1"
        written = {payload for (payload,) in self._survey.database.execute(held, (carrier.bag,))}
        for copy in carrier.copies:
            extra = [name for name, _ in payload_files(self._disk, copy.data, "data/") if name not in written]
            ours = self._own_names() if extra else set()
            for name in extra:
                if name.partition("~(from ")[0] in ours:
                    self._disk.remove(copy.root / name)

    def _own_names(self) -> set[str]:
        rows = self._survey.files(f"kind = 'file' AND {self._scope.condition}")
        return {self.names.name_of(self._computer.parse(row.path)) for row in rows}

    def make_empty_folders(self) -> None:
        """Empty folders have no place in a manifest; they are in the survey, and here for people to see."""
        for row in self._survey.files(f"{self._scope.condition} AND kind = 'folder'"):
            make_folders(self._disk, self._crate.root / self.names.name_of(self._computer.parse(row.path)))


def _batches(errands: Iterator[Errand]) -> Iterator[list[Errand]]:
    """Errands by the handful; those of one file stay together."""
    batch: list[Errand] = []
    size = 0
    for errand in errands:
        apart = not batch or batch[-1].piece.file != errand.piece.file
        if apart and (len(batch) >= _BATCH_FILES or size >= _BATCH_BYTES):
            yield batch
            batch, size = [], 0
        batch.append(errand)
        size += errand.piece.length
    if batch:
        yield batch
