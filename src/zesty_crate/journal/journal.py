"""The journal: intent before act. Resuming and undoing work from it alone."""

from __future__ import annotations

import datetime as dt
import errno
import logging
from collections.abc import Iterator, Mapping, Sequence
from contextlib import closing
from pathlib import Path
from typing import Any

import apsw

from ..errors import HalfwayError, ZestyError
from ..machines import DiskError, FileFacts, Outside, make_folders, require_readable
from ..machines.texts import restored, stored
from ..systems import this_system
from .model import Action, Kind, Location, Stage, Step

_log = logging.getLogger(__name__)

FORMAT = 3

_SCHEMA = """
CREATE TABLE step (id INTEGER PRIMARY KEY, name TEXT NOT NULL, begun TEXT NOT NULL, ended TEXT NOT NULL DEFAULT '',
                   undone TEXT NOT NULL DEFAULT '', note TEXT NOT NULL);
CREATE TABLE action (id INTEGER PRIMARY KEY, step INTEGER NOT NULL, kind TEXT NOT NULL, volume TEXT NOT NULL, path,
                     stage TEXT NOT NULL, source, sha512 TEXT, old_sha512 TEXT, aside TEXT, note TEXT,
                     size INTEGER, modified_ns INTEGER, mode INTEGER, target,
                     old_size INTEGER, old_modified_ns INTEGER, old_mode INTEGER);
CREATE TABLE attribute (action INTEGER NOT NULL, name NOT NULL, value BLOB NOT NULL, PRIMARY KEY (action, name))
    WITHOUT ROWID;
CREATE TABLE outcome (document INTEGER NOT NULL, step INTEGER NOT NULL, outcome TEXT NOT NULL, why TEXT NOT NULL,
                      PRIMARY KEY (document, step)) WITHOUT ROWID;
CREATE INDEX action_by_path ON action (path);
"""
_COLUMNS = (
    "id, kind, volume, path, stage, source, sha512, old_sha512, aside, note, size, modified_ns, mode, target, "
    "old_size, old_modified_ns, old_mode"
)
_PAGE = 1_000
_ABOVE_ALL = (1 << 63) - 1


class NoRoomError(HalfwayError):
    """The carrier takes no journal: it is full, or read-only."""

    def __init__(self, path: Path, error: Exception) -> None:
        super().__init__(
            f"The journal {path} cannot be written: {error}.",
            next_step="Free some room on the carrier, or make it writable.",
        )
        self.path = str(path)
        self.errno = errno.ENOSPC


def _copy_of(path: Path) -> apsw.Connection:
    """The journal as it is, in memory: nothing is written beside it."""
    uri = this_system().database_uri(str(path.absolute())) + "?mode=ro&immutable=1"
    memory = apsw.Connection(":memory:")
    try:
        source = apsw.Connection(uri, flags=apsw.SQLITE_OPEN_READONLY | apsw.SQLITE_OPEN_URI)
        with closing(source), memory.backup("main", source, "main") as backup:
            backup.step()
    except apsw.Error as error:
        require_readable(path)
        raise ZestyError(f"The journal {path} cannot be read: {error}.", next_step="Use it from a copy.") from error
    return memory


class Journal:
    """One journal, for one move to one computer."""

    def __init__(self, database: apsw.Connection, outside: Outside) -> None:
        self._database = database
        self._outside = outside
        self._needs_room = True
        self.is_recorded = True

    @classmethod
    def open(cls, path: Path, outside: Outside) -> Journal:
        """Open a journal, or begin a new one. Raises `ZestyError` when it is damaged or of an unknown format."""
        try:
            make_folders(outside.disk, path.parent)
            database = apsw.Connection(str(path))
            database.pragma("synchronous", "full")
            if not database.pragma("user_version"):
                database.execute("BEGIN IMMEDIATE;" + _SCHEMA)
                database.pragma("user_version", FORMAT)
                outside.disk.commit(database)
            found = database.pragma("user_version")
        except (apsw.FullError, apsw.ReadOnlyError, apsw.CantOpenError, DiskError) as error:
            raise NoRoomError(path, error) from error
        except apsw.Error as error:
            raise ZestyError(f"The journal {path} cannot be read: {error}.", next_step="Use it from a copy.") from error
        if found != FORMAT:
            raise ZestyError(
                f"The journal {path} has format {found}; this version reads format {FORMAT}.",
                next_step="Use the version of Zesty Crate that wrote it.",
            )
        return cls(database, outside)

    @classmethod
    def open_existing(cls, path: Path, outside: Outside) -> Journal | None:
        """The journal at ``path``, or None when nothing was ever done. A carrier that takes nothing can be read."""
        facts = outside.disk.facts(path)
        if facts is None or not facts.size_bytes:
            return None
        try:
            return cls.open(path, outside)
        except NoRoomError:
            return cls(_copy_of(path), outside)

    @classmethod
    def open_to_undo(cls, path: Path, outside: Outside) -> Journal:
        """The same, to undo what is in it: that needs no room on the carrier, and goes on unrecorded without it."""
        try:
            journal = cls.open(path, outside)
        except NoRoomError:
            journal = cls(_copy_of(path), outside)
            journal.is_recorded = False
        journal._needs_room = False
        return journal

    def close(self) -> None:
        """Let go of the file."""
        self._database.close()

    # -- steps ----------------------------------------------------------------------------------------------------

    def begin(self, name: str, note: str = "") -> Step:
        """Begin a step, or continue with the one of this name that has not ended."""
        for step in self.steps():
            if step.name == name and not step.ended and not step.undone:
                return step
        self._begin_transaction()
        self._database.execute(
            "INSERT INTO step (name, begun, note) VALUES (?, ?, ?)", (name, self._now(), stored(note))
        )
        self._outside.disk.commit(self._database)
        _log.info("step %s begins", name)
        return self.steps()[-1]

    def steps(self) -> list[Step]:
        """All steps, the oldest first."""
        rows = self._database.execute("SELECT id, name, begun, ended, undone, note FROM step ORDER BY id")
        return [
            Step(number, name, begun, ended, undone, restored(note))
            for number, name, begun, ended, undone, note in rows
        ]

    def standing(self, name: str) -> list[Step]:
        """The steps of this name that were not undone."""
        return [step for step in self.steps() if step.name == name and not step.undone]

    def last_begun(self) -> dt.datetime | None:
        """When the last step began that stands; None where there is none."""
        return max((dt.datetime.fromisoformat(step.begun) for step in self.steps() if not step.undone), default=None)

    def end(self, step: Step) -> None:
        """Record that a step came to its end.

        One that found nothing to do, after one that stands, leaves no more trace than its note: what the earlier one
        did is what it would have done.
        """
        others = [each for each in self.standing(step.name) if each.id != step.id]
        done = self._database.execute("SELECT 1 FROM action WHERE step = ? LIMIT 1", (step.id,)).get
        if done is None and others:
            self._begin_transaction()
            moved = "UPDATE OR REPLACE outcome SET step = ? WHERE step = ?"
            self._database.execute(moved, (others[-1].id, step.id))
            self._database.execute("UPDATE step SET note = ? WHERE id = ?", (stored(step.note), others[-1].id))
            self._database.execute("DELETE FROM step WHERE id = ?", (step.id,))
            self._outside.disk.commit(self._database)
        else:
            self._mark_step(step, "ended")

    def mark_undone(self, step: Step) -> None:
        """Record that a step was taken back."""
        self._mark_step(step, "undone")

    def _mark_step(self, step: Step, column: str) -> None:
        self._record(f"UPDATE step SET {column} = ? WHERE id = ?", [(self._now(), step.id)])

    def _record(self, statement: str, rows: Sequence[tuple[str | int, ...]]) -> None:
        """Write something down as one change; where it may do without, in a copy when the carrier takes nothing."""
        try:
            self._begin_transaction()
            self._database.executemany(statement, rows)
            self._outside.disk.commit(self._database)
        except (apsw.FullError, apsw.ReadOnlyError, apsw.IOError, DiskError):
            if self._needs_room or not self.is_recorded:
                raise
            path = Path(self._database.filename)
            self._database.close()
            self._database, self.is_recorded = _copy_of(path), False
            self._record(statement, rows)

    # -- outcomes -------------------------------------------------------------------------------------------------

    def set_outcomes(self, step: Step, outcomes: Mapping[int, tuple[str, str]]) -> None:
        """Record what a step did with documents, by their numbers in the survey: the outcome, and why."""
        self._begin_transaction()
        rows = ((document, step.id, outcome, why) for document, (outcome, why) in outcomes.items())
        self._database.executemany("INSERT OR REPLACE INTO outcome VALUES (?, ?, ?, ?)", rows)
        self._outside.disk.commit(self._database)

    def outcomes(self) -> dict[int, tuple[str, str]]:
        """The last outcome of each document, in steps that were not undone."""
        query = """SELECT o.document, o.outcome, o.why FROM outcome AS o JOIN step AS s ON s.id = o.step
                   WHERE s.undone = '' ORDER BY o.step"""
        return {document: (outcome, why) for document, outcome, why in self._database.execute(query)}

    # -- actions --------------------------------------------------------------------------------------------------

    def intend(self, step: Step, actions: Sequence[Action]) -> list[Action]:
        """Write down what is about to be done; on the disk when this returns. The actions come back with numbers."""
        if not actions:
            return []
        self._begin_transaction()
        rows = [(step.id, *_row(action)) for action in actions]
        self._database.executemany(f"INSERT INTO action VALUES (NULL, {', '.join('?' * len(rows[0]))})", rows)
        first = self._database.last_insert_rowid() - len(rows) + 1  # one after the other, for nobody else writes
        self._outside.disk.commit(self._database)
        return [action._replace(id=number) for number, action in enumerate(actions, start=first)]

    def mark(self, actions: Sequence[Action], stage: Stage) -> None:
        """Record how far these actions are."""
        rows = [(stage, action.id) for action in actions]
        self._record("UPDATE action SET stage = ? WHERE id = ?", rows)

    def know_contents(self, built: Sequence[tuple[Action, str, FileFacts]]) -> list[Action]:
        """Record what replacements will be, by digest and facts, once they are built and before any goes in."""
        if not built:
            return []
        self._begin_transaction()
        self._database.executemany(
            "UPDATE action SET sha512 = ?, size = ?, modified_ns = ?, mode = ? WHERE id = ?",
            [(sha512, facts.size_bytes, facts.modified_ns, facts.mode, action.id) for action, sha512, facts in built],
        )
        self._outside.disk.commit(self._database)
        return [action._replace(sha512=sha512, facts=facts) for action, sha512, facts in built]

    def keep_attributes(self, action: Action, attributes: Mapping[str, bytes]) -> None:
        """Record the extended attributes of what an action is about to replace or take away."""
        self._begin_transaction()
        rows = ((action.id, stored(name), value) for name, value in attributes.items())
        self._database.executemany("INSERT OR REPLACE INTO attribute VALUES (?, ?, ?)", rows)
        self._outside.disk.commit(self._database)

    def kept_attributes(self, action: Action) -> dict[str, bytes]:
        """What `keep_attributes` recorded."""
        rows = self._database.execute("SELECT name, value FROM attribute WHERE action = ?", (action.id,))
        return {restored(name): value for name, value in rows}

    def actions(self, step: Step, *stages: Stage, newest_first: bool = False) -> Iterator[Action]:
        """The actions of a step that are at one of these stages; while they are told, they may be marked."""
        beyond, order, last = ("<", "DESC", _ABOVE_ALL) if newest_first else (">", "ASC", 0)
        query = (
            f"SELECT {_COLUMNS} FROM action WHERE step = ? AND id {beyond} ? AND stage IN ({_marks(stages)}) "
            f"ORDER BY id {order} LIMIT {_PAGE}"
        )
        while rows := list(self._database.execute(query, (step.id, last, *stages))):  # a million would be a gigabyte
            yield from map(_action, rows)
            last = rows[-1][0]

    def newest(self, steps: Sequence[Step], *stages: Stage) -> Iterator[Action]:
        """Of each spot, the newest action of these steps that is at one of these stages. Nothing may be marked then."""
        among = f"step IN ({_marks(steps)}) AND stage IN ({_marks(stages)})"
        newer = "path = a.path AND volume = a.volume AND (step, id) > (a.step, a.id)"
        query = (
            f"SELECT {_COLUMNS} FROM action AS a WHERE {among} "
            f"AND NOT EXISTS (SELECT 1 FROM action WHERE {newer} AND {among}) ORDER BY step DESC, id DESC"
        )
        bindings = (*(step.id for step in steps), *stages)
        return map(_action, self._database.execute(query, bindings * 2))

    def kinds(self, step: Step, *stages: Stage) -> dict[str, int]:
        """How many actions of each kind a step has at one of these stages, in the order in which they began."""
        query = f"SELECT kind, count(*) FROM action WHERE step = ? AND stage IN ({_marks(stages)})"
        return dict(self._database.execute(f"{query} GROUP BY kind ORDER BY min(id)", (step.id, *stages)))

    def count(self, step: Step, *stages: Stage) -> int:
        """How many actions of a step are at one of these stages."""
        query = f"SELECT count(*) FROM action WHERE step = ? AND stage IN ({_marks(stages)})"
        return int(self._database.execute(query, (step.id, *stages)).get)

    def is_begun(self, step: Step) -> bool:
        """Whether anything of a step was intended, done or not."""
        return bool(self._database.execute("SELECT EXISTS (SELECT 1 FROM action WHERE step = ?)", (step.id,)).get)

    def last_at(self, location: Location) -> Action | None:
        """The last action at a spot that was done and not undone."""
        query = f"SELECT {_COLUMNS} FROM action WHERE path = ? AND volume = ? AND stage = ? ORDER BY id DESC LIMIT 1"
        row = next(iter(self._database.execute(query, (stored(location.path), location.volume, Stage.DONE))), None)
        return _action(row) if row else None

    def history_at(self, location: Location) -> list[Action]:
        """The actions at a spot that were done and not undone, the oldest first."""
        query = f"SELECT {_COLUMNS} FROM action WHERE path = ? AND volume = ? AND stage = ? ORDER BY id"
        rows = self._database.execute(query, (stored(location.path), location.volume, Stage.DONE))
        return [_action(row) for row in rows]

    def places(self) -> Iterator[Location]:
        """Every spot of a file at which something was done and not undone."""
        query = "SELECT DISTINCT volume, path FROM action WHERE stage = ? AND kind <> ?"
        for volume, path in self._database.execute(query, (Stage.DONE, Kind.FOLDER)):
            yield Location(volume, restored(path))

    def rewritten_for(self, location: Location) -> dict[str, str]:
        """The notes of the replacements at a spot that were built from what was there, since it was placed.

        Each with the note of the last step that did so.
        """
        query = """SELECT a.kind, a.source, a.note, s.note FROM action AS a JOIN step AS s ON s.id = a.step
                   WHERE a.path = ? AND a.volume = ? AND a.stage = ? ORDER BY a.id DESC"""
        notes: dict[str, str] = {}
        at = (stored(location.path), location.volume, Stage.DONE)
        for kind, source, note, of_step in self._database.execute(query, at):
            if kind != Kind.REPLACE or source:
                break
            notes.setdefault(note, restored(of_step))
        return notes

    def plan_of_last_at(self, location: Location) -> str | None:
        """The note of the step that did the last action at a spot that was not undone; None when there is none."""
        query = """SELECT s.note FROM action AS a JOIN step AS s ON s.id = a.step
                   WHERE a.path = ? AND a.volume = ? AND a.stage = ? ORDER BY a.id DESC LIMIT 1"""
        row = self._database.execute(query, (stored(location.path), location.volume, Stage.DONE)).fetchone()
        return None if row is None else restored(row[0])

    def has_acted_at(self, location: Location) -> bool:
        """Whether there is such an action; of a million files this is asked one by one."""
        query = "SELECT EXISTS (SELECT 1 FROM action WHERE path = ? AND volume = ? AND stage = ?)"
        return bool(self._database.execute(query, (stored(location.path), location.volume, Stage.DONE)).get)

    def _begin_transaction(self) -> None:
        if self._database.in_transaction:
            self._database.execute("ROLLBACK")  # what an interrupted call left
        self._database.execute("BEGIN IMMEDIATE")

    def _now(self) -> str:
        return self._outside.clock.instant().isoformat()


def _marks(values: Sequence[object]) -> str:
    return ", ".join("?" for _ in values)


def _row(action: Action) -> tuple[str | bytes | int, ...]:
    new, old = action.facts, action.old_facts
    return (
        action.kind,
        action.location.volume,
        stored(action.location.path),
        action.stage,
        stored(action.source),
        action.sha512,
        action.old_sha512,
        action.aside,
        action.note,
        new.size_bytes,
        new.modified_ns,
        new.mode,
        stored(new.target),
        old.size_bytes,
        old.modified_ns,
        old.mode,
    )


def _action(row: tuple[Any, ...]) -> Action:
    number, kind, volume, path, stage, source, sha512, old_sha512, aside, note, *new_and_old = row
    size, modified_ns, mode, target, *old = new_and_old
    return Action(
        kind=Kind(kind),
        location=Location(volume, restored(path)),
        facts=FileFacts(_KIND_OF.get(kind, "file"), size, modified_ns, mode, restored(target)),
        old_facts=FileFacts("file", *old),
        source=restored(source),
        sha512=sha512,
        old_sha512=old_sha512,
        aside=aside,
        note=note,
        id=number,
        stage=Stage(stage),
    )


_KIND_OF = {Kind.FOLDER: "folder", Kind.LINK: "link"}
