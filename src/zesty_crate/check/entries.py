"""Judge the entries of the new computer's catalogs by what was carried, and by what they were before."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from itertools import chain
from typing import Any

from ..guides import HoldingKind
from ..machines import Finder
from ..machines.texts import restored, stored
from ..plan import Arrangement, MergeRecord, Move
from ..survey import (
    BY_WEIGHT,
    OF_DOCUMENT,
    WERE_READ,
    Document,
    EntryRow,
    Problem,
    Problems,
    State,
    SurveyStore,
    bounds_of,
    entry_row,
)
from .files import compare_content
from .reasons import Reasons

# An entry needs no report when it finds the file that it found before, unchanged since it was carried.
_WORTH_A_LOOK = """
SELECT e.rowid, e.*, x.state, x.why, x.chosen, b.path_key = x.old_key FROM main.entry AS e
LEFT JOIN expected AS x ON x.key = e.path_key AND x.kind = 'file'
LEFT JOIN old.entry AS b ON b.holding = e.holding AND b.key = e.key
WHERE NOT (e.state = 'found' AND x.state = 'found' AND b.path_key = x.old_key) OR x.state IS NULL OR b.key IS NULL
"""
_SILENT_FILES = """
SELECT x.holding, x.new, x.state, x.old, x.why, x.chosen FROM expected AS x WHERE x.state <> 'found'
AND (x.key IS NULL OR x.key NOT IN (SELECT path_key FROM main.entry)) AND x.old_key NOT IN (
    SELECT b.path_key FROM main.entry AS e JOIN old.entry AS b ON b.holding = e.holding AND b.key = e.key)
AND (x.key IS NULL OR x.key NOT IN (SELECT key FROM main.belongs))
"""
_LOST = f"""
SELECT * FROM old.entry AS b WHERE {OF_DOCUMENT.format("key")}
AND NOT EXISTS (SELECT 1 FROM main.entry AS e WHERE e.holding = b.holding AND e.key = b.key)
"""
_AS_BEFORE = ", ".join(f"'{state}'" for state in State if state.is_as_before)
_ALL_LOST = f"""
INSERT INTO lost SELECT holding, CASE WHEN state IN ({_AS_BEFORE}) THEN state
ELSE '{State.MISSING}' END FROM old.entry WHERE {OF_DOCUMENT.format("key")}
"""
_ALL_UNREAD = f"INSERT INTO lost SELECT holding, '{{}}' FROM old.entry WHERE {OF_DOCUMENT.format('key')}"
# What was found before, and is on a volume that is not connected now: entries, and files that none mentions.
_AWAY = (
    f"SELECT count(*) FROM main.entry AS e JOIN old.entry AS b ON b.holding = e.holding AND b.key = e.key "
    f"WHERE e.state = '{State.UNPLUGGED}' AND b.state NOT IN ({_AS_BEFORE})",
    f"SELECT count(*) FROM ({_SILENT_FILES}) WHERE state = '{State.UNPLUGGED}'",
)
_AWAY_WITH_IT = f"SELECT count(*) FROM old.entry WHERE {OF_DOCUMENT.format('key')} AND state NOT IN ({_AS_BEFORE})"
_NOT_CHOSEN = "it is in no group that was chosen, so it was not merged"
_COLUMNS = 15  # of an entry


def judge_entries(
    move: Move,
    arrangement: Arrangement,
    store: SurveyStore,
    finder: Finder,
    problems: Sequence[Problem],
    absent: Sequence[Document],
    away: Collection[int],
    merged: Mapping[int, MergeRecord],
) -> Problems:
    """Set every entry's final state in ``store``; what is not simply found, with what was a problem already.

    ``absent`` are catalogs that were carried and are not there, ``away`` those, by number, whose volumes are not
    connected, ``merged`` those that went into others.

    Carried files that are not as carried, and that no entry mentions, are reported on their own.
    """
    judge = _Judge(move, arrangement, store, finder)
    return Problems.by_state(
        chain(problems, judge.all(), _lost(store, absent, away, merged), _silent_files(store)), BY_WEIGHT
    )


def newly_away(store: SurveyStore, away: Collection[int]) -> int:
    """How many entries, and files that none mentions, were there before and are on volumes that are not connected.

    ``away`` are the documents, by number, that are there themselves.
    """
    with_it = [bounds_of(each) for each in store.documents("id > 0") if each.id in away]
    return sum(map(store.count, _AWAY)) + sum(store.count(_AWAY_WITH_IT, each) for each in with_it)


def _silent_files(store: SurveyStore) -> Iterator[Problem]:
    """Carried files that are not as carried, and that no entry mentions."""
    for holding, new, state, old, why, chosen in store.database.execute(_SILENT_FILES):
        yield Problem(holding, restored(new), State(state), restored(old), restored(why), bool(chosen))


def _lost(
    store: SurveyStore, absent: Sequence[Document], away: Collection[int], merged: Mapping[int, MergeRecord]
) -> Iterator[Problem]:
    """Entries that a catalog had and has no more: each is counted as what it is, though nothing mentions it now.

    Those of an ``absent`` catalog are only counted, since its absence is reported; so are those of one that cannot be
    read, which may have them still.
    """
    store.database.execute("CREATE TABLE lost (holding TEXT, state TEXT)")
    for document in absent:
        store.database.execute(_ALL_LOST, bounds_of(document))
    for document in store.documents(f"NOT ({WERE_READ}) AND id > 0"):
        state = State.UNPLUGGED if document.id in away else State.UNCLEAR
        store.database.execute(_ALL_UNREAD.format(state), bounds_of(document))
    for document in store.documents(WERE_READ):
        for row in list(store.database.execute(_LOST, bounds_of(document))):
            before, record = entry_row(row), merged.get(document.id)
            if record is not None and before.key.removeprefix(document.prefix) not in record.keys.entries:
                store.database.execute("INSERT INTO lost VALUES (?, ?)", (before.holding, State.LEFT_OUT))
                yield Problem(before.holding, before.key, State.LEFT_OUT, before.recorded, _NOT_CHOSEN, chosen=True)
                continue
            state = before.state if before.state.is_as_before else State.MISSING
            store.database.execute("INSERT INTO lost VALUES (?, ?)", (before.holding, state))
            why = f"its catalog, {document.path}, no longer has this entry"
            yield Problem(before.holding, before.key, state, before.recorded or before.name, why)


class _Judge:
    def __init__(self, move: Move, arrangement: Arrangement, store: SurveyStore, finder: Finder) -> None:
        self._move = move
        self._store = store
        self._finder = finder
        self._reasons = Reasons(move, arrangement, store, finder)
        self._registrations = {row.id for row in store.holdings() if row.kind == HoldingKind.REGISTRATIONS}

    def all(self) -> Iterator[Problem]:
        """Judge every entry that is worth a look; those that are not simply found."""
        for rowid, *row in self._store.database.execute(_WORTH_A_LOOK):
            now, file = entry_row(tuple(row[:_COLUMNS])), row[_COLUMNS:]
            before = self._move.survey.entry(now.holding, now.key)
            state, why, chosen = self._judge(now, before, file)
            if (state, why) != (now.state, now.why):
                self._store.database.execute(
                    "UPDATE main.entry SET state = ?, why = ? WHERE rowid = ?", (state, stored(why), rowid)
                )
            if state not in (State.FOUND, State.REMOTE):
                yield Problem(now.holding, now.key, state, now.recorded, why, chosen)

    def _judge(self, now: EntryRow, before: EntryRow | None, file: Sequence[Any]) -> tuple[State, str, bool]:
        verdict, why, chosen, is_same = file
        several = now.state is not State.MISSING and self._of_several(now)
        if several:
            return several
        if now.state not in (State.MISSING, State.REMOTE, State.UNPLUGGED, State.UNCLEAR) and now.path:
            if verdict is not None and (is_same or before is None):
                return State(verdict), restored(why), bool(chosen)
            return (*self._by_content(now, before), False)
        if before is not None and before.state is State.UNCLEAR:
            return before.state, before.why, False
        if before is None or now.state in (State.REMOTE, State.UNCLEAR):
            return (*self._of_itself(now), False)
        if before.state.is_as_before:
            return before.state, f"the same as on {self._move.old.name}: {before.why}", False
        if now.state is State.UNPLUGGED and self._is_known(now):
            return now.state, now.why, False
        if left := self._reasons.left_out(before):
            return State.LEFT_OUT, left, True
        if now.state is State.UNPLUGGED:
            return State.MISSING, "its drive was not carried and has no route", False
        return State.MISSING, self._reasons.of(before, now), False

    def _of_itself(self, now: EntryRow) -> tuple[State, str]:
        """An entry of which the move says nothing; the new computer's own registrations are not its doing."""
        if now.state is State.MISSING and now.holding in self._registrations:
            return State.MISSING_BEFORE, f"{self._move.new.name} registered it itself; it did not come with this move"
        return now.state, now.why

    def _is_known(self, now: EntryRow) -> bool:
        """Whether the volume of an entry is one of the new computer's own, which only waits to be connected."""
        return bool(now.path) and self._move.new.volume_of(self._move.new.parse(now.path)) is not None

    def _of_several(self, now: EntryRow) -> tuple[State, str, bool] | None:
        """An entry that represents several files: as good as the worst of them; None when it represents one."""
        query = """SELECT x.state, x.new, x.why, x.chosen FROM main.belongs AS b
                   LEFT JOIN expected AS x ON x.key = b.key WHERE b.holding = ? AND b.entry = ?"""
        states = list(self._store.database.execute(query, (now.holding, now.key)))
        if not states:
            return None
        for state, new, why, chosen in states:
            if state not in (None, State.FOUND):
                return State(state), f"{restored(new)}: {restored(why)}", bool(chosen)
        return (State.FOUND, "", False) if all(row[0] for row in states) else (now.state, now.why, False)

    def _by_content(self, now: EntryRow, before: EntryRow | None) -> tuple[State, str]:
        """An entry that finds another file than the one carried for it: is it one of the same content?"""
        carried = self._move.survey.carried_as(before.path_key) if before else None
        if carried is None:
            return now.state, now.why
        seen = self._finder.find(self._move.new.parse(now.path))
        verdict = compare_content(seen, carried[2], carried[1], self._move.outside.disk)
        return verdict.state, verdict.why
