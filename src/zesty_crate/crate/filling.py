"""Fill a crate: share its files out over the carriers, and fetch them, part by part."""

from __future__ import annotations

import contextlib
import hashlib
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

from ..errors import HalfwayError, ZestyError
from ..machines import (
    BATCH_BYTES,
    ENOUGH_FILES,
    Computer,
    Disk,
    DiskError,
    FileFacts,
    Finder,
    SmallWork,
    Worker,
    in_parallel,
    make_folders,
    working_folder,
)
from ..machines.texts import restored
from ..progress import Tell
from ..survey import SurveyStore
from .bag import payload_files
from .carriers import Carrier, Targets
from .crate import Crate
from .delta import note_same_files
from .distribution import Allotment, Distribution, Sum
from .fetch import Errand, Fetched, Place, fetch_all, fetched_by_worker, in_small_batches, orders_for
from .naming import PayloadNames
from .scope import Scope
from .sources import Sources
from .watch import Watch

if TYPE_CHECKING:
    from hashlib import _Hash as Hash

_COMMIT_EVERY_FILES = 1_000
_AT_A_TIME = 2_000

IN_BAG = """
SELECT payload, sha512, size FROM carried WHERE bag = ?1 UNION ALL
SELECT payload, sha512, size FROM segment WHERE bag = ?1 ORDER BY 1
"""
_TO_FETCH = """
SELECT s.rowid, s.first, s.length, s.is_segment, f.id, f.path, f.size, f.modified_ns, f.mode, f.fault,
    e.payload, e.sha512
FROM assignment AS s JOIN file AS f ON f.id = s.file
LEFT JOIN same_file AS e ON e.key = f.key AND e.size = f.size AND e.modified_ns = f.modified_ns
WHERE s.bag = ? AND s.rowid > ? ORDER BY s.rowid LIMIT ?
"""


@dataclass(frozen=True, slots=True)
class Left:
    """A file that had to be carried and was not, and why."""

    path: str
    why: str


class Filler:
    """Fetches what is in a scope and not in the crate yet."""

    def __init__(
        self,
        crate: Crate,
        survey: SurveyStore,
        computer: Computer,
        scope: Scope,
        disk: Disk,
        tell: Tell,
        targets: Targets,
    ) -> None:
        self._crate = crate
        self._survey = survey
        self._computer = computer
        self._scope = scope
        self._disk = disk
        self.names = PayloadNames(computer, computer.parse_all(row.path for row in survey.files(scope.condition)))
        self._sources = Sources(computer, Finder(computer, disk), self.names)
        self._made: set[tuple[int, int, str]] = set()
        self._running: dict[int, Hash] = {}
        self._share_with = targets.share_with
        note_same_files(survey, targets.share_with, crate, disk)
        odd = survey.files("kind = 'other' AND role IN ('own', 'outside')")
        self.left: list[Left] = [Left(row.path, row.fault) for row in odd]
        self.shared = 0
        self._has_remains = False  # whether there may be something in a part that was not written down
        self.changed: list[str] = []
        self.distribution = Distribution(survey, scope, self._sources)
        self.total = self.distribution.sum_of("id NOT IN (SELECT file FROM unchanged)")
        self._done = self.distribution.carried()
        self._watch = Watch("copying", self.total, tell)

    # -- fetching -------------------------------------------------------------------------------------------------

    def fetch(self, carrier: Carrier) -> None:
        """Fetch what was given to one carrier. What was fetched is settled before it is written down for good."""
        for copy in carrier.copies:
            self._has_remains |= self._disk.facts(copy.data) is not None
            make_folders(self._disk, copy.data)
        with working_folder(self._disk, carrier.part.incoming):
            if carrier.second is not None:
                with working_folder(self._disk, carrier.second.incoming):
                    self._catch_up(carrier.part, carrier.second, carrier.bag)
                    self._fetch(carrier, None)
            elif self.total.files < ENOUGH_FILES:
                self._fetch(carrier, None)
            else:
                by_worker = carrier.part.incoming_by_worker
                with working_folder(self._disk, by_worker), self._disk.worker() as worker:
                    self._fetch(carrier, self._light(worker, by_worker) if worker else None)

    def _light(
        self, worker: Worker, folder: Path
    ) -> SmallWork[list[Errand], tuple[list[Fetched], HalfwayError | None]]:
        """What of the work a hand can do."""
        return SmallWork(
            worker,
            lambda errands, by_worker: orders_for(errands, folder if by_worker else None),
            lambda errands, answers: fetched_by_worker(errands, answers, self._disk),
        )

    def _fetch(
        self, carrier: Carrier, small: SmallWork[list[Errand], tuple[list[Fetched], HalfwayError | None]] | None
    ) -> None:
        database = self._survey.database
        database.execute("BEGIN")
        batches = in_parallel(
            lambda errands: fetch_all(errands, self._disk), in_small_batches(self._errands(carrier)), small
        )
        since = 0
        try:
            for errands, (results, fault) in batches:
                self._record(carrier.bag, errands, results)
                if fault is not None:
                    raise fault
                large = sum(each.allotment.length for each in errands if each.moved is not None)
                self._watch.flush(self._done, large)
                since += len(errands)
                if since >= _COMMIT_EVERY_FILES:
                    self._commit(carrier)
                    database.execute("BEGIN")
                    since = 0
        except ZestyError:
            with contextlib.suppress(DiskError):  # of two faults of a carrier, the first is the one to report
                self._commit(carrier)  # what came before it is whole
            raise
        self._commit(carrier)

    def _catch_up(self, part: Crate, second: Crate, bag: int) -> None:
        """Have in the second copy what an earlier run, perhaps with no second copy asked for, put into the part."""
        for number, (payload, *_) in enumerate(list(self._survey.database.execute(IN_BAG, (bag,))), start=1):
            facts, there = self._disk.facts(part.root / payload), self._disk.facts(second.root / payload)
            if facts is not None and facts != there:
                make_folders(self._disk, (second.root / payload).parent)
                beside = second.incoming / f"{number}-again"
                self._disk.copy(part.root / payload, beside, facts, settled=False)
                self._disk.rename(beside, second.root / payload)

    def _commit(self, carrier: Carrier) -> None:
        for copy in carrier.copies:
            self._disk.flush_all(copy.root)
        self._disk.commit(self._survey.database)

    def _errands(self, carrier: Carrier) -> Iterator[Errand]:
        last, copies = 0, [(copy, str(copy.incoming), str(copy.root)) for copy in carrier.copies]
        while rows := list(self._survey.database.execute(_TO_FETCH, (carrier.bag, last, _AT_A_TIME))):
            last = rows[-1][0]
            for _, first, length, is_segment, file, path, *facts, fault, payload, sha512 in rows:
                size, modified_ns, mode = facts
                allotment = Allotment(carrier.bag, file, first, length, bool(is_segment))
                listed = FileFacts("file", size, modified_ns, mode)
                errand = self._errand(copies, allotment, restored(path), listed, fault)
                if payload is not None and self._share_with is not None and len(errand.places) == 1:
                    errand = replace(errand, linked=(self._share_with.root / payload, sha512))
                yield errand

    def _errand(
        self, copies: list[tuple[Crate, str, str]], allotment: Allotment, path: str, listed: FileFacts, fault: str
    ) -> Errand:
        """One file to fetch, for each copy with its folder for what is not whole yet, and its root, as texts."""
        source = self._sources.of(path, listed)
        if fault or source.why_not:
            return Errand(allotment, path, listed, source, source.payload, (), why_not=fault or source.why_not)
        payload = source.payload
        running = None
        if allotment.is_segment:
            payload += f"~(from {allotment.first})"
            running = (
                self._running.setdefault(allotment.file, hashlib.sha512()) if self._may_run_on(allotment) else None
            )
        places = []
        folder = payload.rpartition("/")[0]
        for number, (copy, incoming, root) in enumerate(copies):
            if (allotment.bag, number, folder) not in self._made:
                make_folders(self._disk, copy.root / folder)
                self._made.add((allotment.bag, number, folder))
            places.append(Place(f"{incoming}/{allotment.file}-{allotment.first}", f"{root}/{payload}"))
        moved = self._watch.moved if allotment.length > BATCH_BYTES else None
        return Errand(allotment, path, listed, source, payload, tuple(places), running, moved=moved)

    def _may_run_on(self, allotment: Allotment) -> bool:
        """Whether a digest of the whole file can be kept up: from its beginning on, without a gap."""
        return allotment.first == 0 or allotment.file in self._running

    # -- writing down ---------------------------------------------------------------------------------------------

    def _record(self, bag: int, errands: list[Errand], results: list[Fetched]) -> None:
        """Write down what came of errands."""
        whole = []
        for errand, result in zip(errands, results, strict=False):  # fewer, where the carrier failed
            facts, file = result.facts, errand.allotment.file
            if facts is None:
                self._leave(errand, result.why_not)
            elif errand.allotment.is_segment:
                self._record_segment(errand, result, facts)
            else:
                self._note_attributes(file, errand.source.real)
                whole.append((file, errand.payload, result.sha512, facts.size_bytes, facts.modified_ns, bag))
                self._count(errand, facts)
                self.shared += result.is_shared
        self._survey.set_carried(whole)

    def _leave(self, errand: Errand, why: str) -> None:
        self._has_remains |= errand.allotment.is_segment
        if errand.path not in {left.path for left in self.left[-1:]}:
            self.left.append(Left(errand.path, why))

    def _count(self, errand: Errand, facts: FileFacts) -> None:
        self._done = Sum(self._done.files + 1, self._done.size_bytes + errand.listed.size_bytes)
        if (facts.size_bytes, facts.modified_ns) != (errand.listed.size_bytes, errand.listed.modified_ns):
            self.changed.append(errand.path)

    def _record_segment(self, errand: Errand, result: Fetched, facts: FileFacts) -> None:
        """Write a segment down; with the last one, the whole file, by the digest of all of it."""
        allotment, database = errand.allotment, self._survey.database
        row = (
            allotment.file,
            allotment.first,
            errand.payload,
            result.sha512,
            allotment.length,
            facts.modified_ns,
            allotment.bag,
        )
        database.execute("INSERT OR REPLACE INTO segment VALUES (?, ?, ?, ?, ?, ?, ?)", row)
        if self._survey.count("SELECT sum(size) FROM segment WHERE file = ?", (allotment.file,)) < facts.size_bytes:
            return
        running = self._running.pop(allotment.file, None)
        sha512 = running.hexdigest() if running is not None else self._disk.digest(errand.source.real).sha512
        carried = (allotment.file, errand.source.payload, sha512, facts.size_bytes, facts.modified_ns, 0)
        self._survey.set_carried([carried])
        self._note_attributes(allotment.file, errand.source.real)
        self._count(errand, facts)

    def _note_attributes(self, file: int, real: str) -> None:
        """Labels go along in the survey: few carriers could keep them. Those that cannot be read stop no file."""
        with contextlib.suppress(DiskError):
            if attributes := self._disk.attributes(real):
                self._survey.set_attributes(file, attributes)

    def note_other_attributes(self) -> None:
        """The labels of what was not fetched now: of folders, and of files that are in an earlier crate as they are."""
        others = f"{self._scope.condition} AND (kind = 'folder' OR id IN (SELECT file FROM unchanged))"
        lists = 0
        with self._disk.one_change(self._survey.database):
            for row in self._survey.files(others):
                if real := self._sources.of(row.path, row.facts).real:
                    self._note_attributes(row.id, real)
                    lists += row.facts.kind == "folder" and self._disk.has_access_list(real)
            self._survey.set_about("access-lists", lists)

    # -- tidying up -----------------------------------------------------------------------------------------------

    def drop_what_was_given_up(self) -> None:
        """Segments of files that could not be had whole are of no use. Their files go with them, where they are."""
        self._survey.database.execute("DELETE FROM segment WHERE file NOT IN (SELECT file FROM carried)")

    def drop_what_went_elsewhere(self, carrier: Carrier) -> None:
        """Remove what an interrupted run put into a part and did not write down, and what was given up.

        Only names that packing itself gives are removed; anything else is left for the read-back to report.
        """
        if not self._has_remains:
            return
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

    def make_empty_folders(self, first: Carrier) -> None:
        """Empty folders have no place in a manifest; they are in the survey, and here for people to see."""
        for row in self._survey.files(f"{self._scope.condition} AND kind = 'folder'"):
            for copy in first.copies:
                make_folders(self._disk, copy.root / self.names.name_of(self._computer.parse(row.path)))
