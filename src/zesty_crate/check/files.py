"""Compare every carried file with what is in its place: sizes and dates of all in one join, contents as was asked."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator
from contextlib import nullcontext
from dataclasses import dataclass
from typing import NamedTuple

from ..machines import (
    BATCH_BYTES,
    BATCH_FILES,
    ENOUGH_FILES,
    Disk,
    DiskError,
    Finder,
    Seen,
    Sight,
    SmallWork,
    Worker,
    in_batches,
    in_parallel,
)
from ..machines.moments import SAME_MOMENT_NS, same_moment
from ..machines.texts import restored, stored
from ..plan import Arrangement, Choice, Move, Placement, Placements, blockers_of_programs, main_of
from ..progress import Progress, Tell
from ..survey import State, SurveyStore, new_file
from ..systems.worker_program import SMALL_BYTES, Order
from .model import Content, ContentRead

KEPT = "another file was already there and was kept by choice; the carried file is in the crate"
_BATCH = 5_000
_SAMPLE = 300  # without a fault among them, fewer than 1 in 100 is faulty, with 95 % confidence ("rule of three")
_LEAST_OF_HOLDING = 3

# What is expected where; state is NULL until a file was looked at.
SCHEMA = """
CREATE TABLE expected (file INTEGER PRIMARY KEY, holding TEXT, role TEXT, kind TEXT, key, old_key, old, new,
                       size INTEGER, modified_ns INTEGER, sha512 TEXT, state TEXT, why, chosen INTEGER, read INTEGER);
"""
_INSERT = "INSERT INTO expected VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, 0, 0)"
# Of names that a volume takes for one, none bears anything out.
_AS_CARRIED = """
UPDATE expected SET state = 'found', why = '' WHERE state IS NULL AND kind = 'file' AND EXISTS (
    SELECT 1 FROM file AS f WHERE f.key = expected.key AND f.kind = 'file' AND f.fault = '' AND f.size = expected.size
    AND abs(f.modified_ns - expected.modified_ns) <= ?)
    AND (SELECT count(*) FROM file AS f WHERE f.key = expected.key) = 1
"""


class Doubtful(NamedTuple):
    """A carried file that must be looked at by itself."""

    file: int
    holding: str
    new: str
    size_bytes: int
    modified_ns: int
    sha512: str


@dataclass(frozen=True, slots=True)
class Verdict:
    """The state of one carried file on the new computer."""

    state: State
    why: str
    read: bool = False


_Pair = tuple[Doubtful, Seen]


class CarriedFiles:
    """Everything that was carried, in a table of the survey of the new computer, each with its verdict."""

    def __init__(self, move: Move, arrangement: Arrangement, store: SurveyStore, finder: Finder, tell: Tell) -> None:
        self._move = move
        self._arrangement = arrangement
        self._store = store
        self._finder = finder
        self._tell = tell
        self._waiting = {blocker.guide: blocker.what for blocker in blockers_of_programs(move)}
        store.database.execute(SCHEMA)

    def expect(self) -> None:
        """Write down where each carried file and folder is expected; folders are looked at at once."""
        placements = Placements(self._move.survey, self._move.old, self._arrangement.routes)
        for rows in _batches(self._row(each) for each in placements.files()):
            self._store.database.executemany(_INSERT, rows)
        for rows in _batches(row for each in placements.folders() if (row := self._folder(each)) is not None):
            self._store.database.executemany(_INSERT, rows)
        self._store.database.execute("CREATE INDEX expected_by_key ON expected (key)")

    def judge(self, content: Content, spot_checks: Iterable[str], written: frozenset[str]) -> ContentRead:
        """Judge all carried files.

        ``spot_checks`` are keys of files that are read in any case. ``written`` are keys of catalogs that were
        relinked, or that their programs have written to since: they are judged by their entries.
        """
        database = self._store.database
        database.executemany(
            "UPDATE expected SET state = 'found', why = '', sha512 = '' WHERE key = ?",
            ((stored(each),) for each in written),
        )
        database.execute(_AS_CARRIED, (SAME_MOMENT_NS,))
        self._judge_doubtful()
        self._settle_side_files()
        sampled = self._read_more(content, spot_checks)
        self._note_kept()
        count = self._store.count
        return ContentRead(
            asked=content,
            carried=count("SELECT count(*) FROM expected WHERE kind = 'file'"),
            read=count("SELECT count(*) FROM expected WHERE read"),
            sampled=sampled,
            differ=count("SELECT count(*) FROM expected WHERE read AND state <> 'found'"),
        )

    def _row(self, placement: Placement) -> tuple[object, ...]:
        row, carried = placement.row, placement.carried
        known = (
            (carried.file.facts.size_bytes, carried.file.facts.modified_ns, carried.sha512) if carried else (0, 0, "")
        )
        state, why, new, key = None, "", "", None
        if placement.new is None:
            state, why = State.MISSING, "no route in the plan covers it"
        else:
            new, key = str(placement.new), self._move.new.key(placement.new)
        return (
            row.id,
            row.holding,
            row.role,
            row.kind,
            None if key is None else stored(key),
            stored(row.key),
            stored(row.path),
            stored(new),
            *known,
            state,
            why,
        )

    def _folder(self, placement: Placement) -> tuple[object, ...] | None:
        """A folder that was carried and is not there; nothing for one that is, or waits for its program."""
        blocked = placement.row.holding.partition("/")[0] in self._waiting
        if placement.new is None or blocked or self._finder.find(placement.new).sight is not Sight.ABSENT:
            return None
        *known, _, _ = self._row(placement)
        return (*known, State.MISSING, f"this folder was carried but is not at {placement.new}")

    def _judge_doubtful(self) -> None:
        """Look singly at what no listed file confirms; what is outside the holdings is not listed yet."""
        doubtful = self._files("state IS NULL")
        for number, (each, seen, verdict) in enumerate(self._looked_at(doubtful, self._by_date), start=1):
            self._set(each.file, verdict)
            self._list(each, seen)
            self._tell(Progress("comparing", number, len(doubtful)))
        self._store.flush()

    def _settle_side_files(self) -> None:
        """A log beside a database is gone once its content was brought in, by relinking or by the program."""
        gone = self._store.database.execute("SELECT file, new FROM expected WHERE kind = 'file' AND state = 'missing'")
        for file, new in list(gone):
            path = self._move.new.parse(restored(new)) if new else None
            main = main_of(path) if path is not None else None
            if main is not None and self._finder.find(main).facts is not None:
                query = "UPDATE expected SET state = 'found', why = '', sha512 = '' WHERE file = ?"
                self._store.database.execute(query, (file,))

    def _files(self, condition: str, bindings: tuple[object, ...] = ()) -> list[int]:
        """The numbers of the files for which a condition holds: a million take little room."""
        query = f"SELECT file FROM expected WHERE kind = 'file' AND {condition} ORDER BY file"
        return [row[0] for row in self._store.database.execute(query, bindings)]

    def _looked_at(
        self, files: Collection[int], verdict_on: Callable[[_Pair], Verdict], *, worker: Worker | None = None
    ) -> Iterator[tuple[Doubtful, Seen, Verdict]]:
        """Look at files on their own, a few at a time; a ``worker`` reads small ones."""
        query = "SELECT file, holding, new, size, modified_ns, sha512 FROM expected WHERE file = ?"

        def looked() -> Iterator[_Pair]:
            for file in files:
                number, holding, new, *rest = next(iter(self._store.database.execute(query, (file,))))
                each = Doubtful(number, holding, restored(new), *rest)
                yield each, self._finder.find(self._move.new.parse(each.new))

        def verdicts(batch: list[_Pair]) -> list[Verdict]:
            return [verdict_on(pair) for pair in batch]

        small = (
            SmallWork(worker, _orders, lambda batch, answers: _by_worker(batch, answers, verdict_on))
            if worker
            else None
        )
        batches = in_batches(looked(), BATCH_FILES, BATCH_BYTES, lambda pair: pair[0].size_bytes)
        for batch, found in in_parallel(verdicts, batches, small):
            yield from ((*pair, verdict) for pair, verdict in zip(batch, found, strict=True))

    def _by_date(self, pair: _Pair) -> Verdict:
        """How one file stands, by itself; its content is read where size and date do not settle it."""
        expected, seen = pair
        if seen.sight is Sight.THERE and seen.facts is not None and seen.facts.is_file:
            is_same_date = same_moment(seen.facts.modified_ns, expected.modified_ns)
            if seen.facts.size_bytes == expected.size_bytes and is_same_date:
                return Verdict(State.FOUND, "")
        return self._by_content(pair)

    def _by_content(self, pair: _Pair) -> Verdict:
        """The state of one file by its content."""
        expected, seen = pair
        if seen.sight is Sight.UNPLUGGED:
            return Verdict(State.UNPLUGGED, f"the volume {self._move.new.anchor_of(seen.path)} is not connected")
        if seen.sight in (Sight.DENIED, Sight.TWINS):
            return Verdict(State.UNCLEAR, f"it cannot be determined: {seen.why}")
        if seen.facts is None or seen.real is None:
            return Verdict(State.MISSING, f"it was carried, but there is no file at {expected.new}")
        return compare_content(seen, expected.size_bytes, expected.sha512, self._move.outside.disk)

    def _list(self, expected: Doubtful, seen: Seen) -> None:
        """Have a file that is outside every holding's place among the listed ones, so that entries find it."""
        if seen.facts is not None and seen.facts.is_file:
            key = self._move.new.key(seen.path)
            if not self._store.count("SELECT count(*) FROM file WHERE key = ?", (stored(key),)):
                self._store.add_file(new_file(expected.holding, "outside", str(seen.path), key, seen.facts))

    def _read_more(self, content: Content, spot_checks: Iterable[str]) -> int:
        """Read more contents than size and date asked for; how many of them were picked as a sample."""
        unread = "state = 'found' AND NOT read AND sha512 <> ''"
        wanted = (
            set()
            if content is Content.CHANGED
            else {file for key in spot_checks for file in self._files(f"{unread} AND key = ?", (stored(key),))}
        )
        picked = self._sample(unread) if content is Content.SAMPLE else set()
        wanted |= picked | set(self._files(unread) if content is Content.ALL else ())
        disk = self._move.outside.disk
        with disk.worker() if len(wanted) >= ENOUGH_FILES else nullcontext() as worker:
            looked = self._looked_at(sorted(wanted), self._by_content, worker=worker)
            for number, (each, _, verdict) in enumerate(looked, start=1):
                self._set(each.file, verdict)
                self._tell(Progress("comparing contents", number, len(wanted)))
        return len(picked)

    def _sample(self, condition: str) -> set[int]:
        """A fair sample: so many of all, spread evenly, and some of each holding."""
        counts = self._store.database.execute(
            f"SELECT holding, count(*) FROM expected WHERE kind = 'file' AND {condition} GROUP BY holding"
        )
        numbers = {str(holding): int(number) for holding, number in counts}
        total, picked = sum(numbers.values()), set()
        for holding, number in numbers.items():
            files = self._files(f"{condition} AND holding = ?", (holding,))
            wanted = min(number, max(_LEAST_OF_HOLDING, -(-_SAMPLE * number // total)))
            picked |= {files[(2 * each + 1) * number // (2 * wanted)] for each in range(wanted)}
        return picked

    def _set(self, file: int, verdict: Verdict) -> None:
        self._store.database.execute(
            "UPDATE expected SET state = ?, why = ?, read = ? WHERE file = ?",
            (verdict.state, stored(verdict.why), verdict.read, file),
        )

    def _note_kept(self) -> None:
        """What is not as carried because somebody decided so, and what waits for its program."""
        query = "SELECT file, holding, state, old FROM expected WHERE state IN ('changed', 'missing')"
        for file, holding, state, old in list(self._store.database.execute(query)):
            path = self._move.old.parse(restored(old))
            blocked = self._waiting.get(holding.partition("/")[0])
            why, chosen = "", False
            if state == State.CHANGED and self._arrangement.choice_of(path) is Choice.KEEP:
                why, chosen = KEPT, True
            elif state == State.MISSING and blocked:
                why = f"it was not unpacked yet: {blocked}"
            if why:
                self._store.database.execute(
                    "UPDATE expected SET why = ?, chosen = ? WHERE file = ?", (why, chosen, file)
                )


def compare_content(seen: Seen, size_bytes: int, sha512: str, disk: Disk) -> Verdict:
    """Whether a file that is there has the content that was carried."""
    if seen.facts is None or seen.real is None or not seen.facts.is_file:
        return Verdict(State.CHANGED, "there is something else than a file")
    if seen.facts.size_bytes != size_bytes:
        return Verdict(State.CHANGED, f"it has {seen.facts.size_bytes} bytes; {size_bytes} were carried")
    try:
        same = disk.digest(seen.real).sha512 == sha512
    except DiskError as error:
        return Verdict(State.UNCLEAR, error.message)
    if same:
        return Verdict(State.FOUND, "", read=True)
    return Verdict(State.CHANGED, "its content differs from what was carried", read=True)


def _batches(rows: Iterable[tuple[object, ...]]) -> Iterator[list[tuple[object, ...]]]:
    batch = []
    for row in rows:
        batch.append(row)
        if len(batch) == _BATCH:
            yield batch
            batch = []
    yield batch


def _orders(batch: list[_Pair], _by_worker: bool) -> list[Order] | None:
    """What to read: small files that are there, and nothing else."""
    reals = [seen.real for _, seen in batch if seen.sight is Sight.THERE and seen.facts and seen.facts.is_file]
    if len(reals) < len(batch) or any(expected.size_bytes > SMALL_BYTES for expected, _ in batch):
        return None
    return [(str(real), False) for real in reals]


def _by_worker(batch: list[_Pair], answers: list[str], verdict_on: Callable[[_Pair], Verdict]) -> list[Verdict]:
    """What was read by a hand; all that is not as it was carried is looked at once more."""
    told = answers or [""] * len(batch)
    return [
        Verdict(State.FOUND, "", read=True) if answer == pair[0].sha512 else verdict_on(pair)
        for pair, answer in zip(batch, told, strict=True)
    ]
