"""What changed on the new computer since it was handed over: since the first check that came out well."""

from __future__ import annotations

from contextlib import closing
from pathlib import Path

from ..machines import Finder, Sight
from ..machines.moments import SAME_MOMENT_NS
from ..machines.texts import restored
from ..paths import MachinePath
from ..plan import Move
from ..survey import OF_DOCUMENT, WERE_READ, SurveyStore, attached, bounds_of
from .model import SinceHandOver

FILE = "hand-over.db"
_NEW = """
SELECT path FROM main.file AS n WHERE kind = 'file' AND role = 'own'
AND NOT EXISTS (SELECT 1 FROM past.file AS p WHERE p.key = n.key AND p.kind = 'file') ORDER BY path
"""
_EDITED = """
SELECT n.path FROM main.file AS n JOIN past.file AS p ON p.key = n.key AND p.kind = 'file'
WHERE n.kind = 'file' AND n.role = 'own' AND (n.size <> p.size OR abs(n.modified_ns - p.modified_ns) > ?)
ORDER BY n.path
"""
_GONE = """
SELECT path FROM past.file AS p WHERE kind = 'file' AND role = 'own'
AND NOT EXISTS (SELECT 1 FROM main.file AS n WHERE n.key = p.key AND n.kind = 'file') ORDER BY path
"""
_ENTRIES = """
SELECT count(*) FROM {}.entry AS a
WHERE NOT EXISTS (SELECT 1 FROM {}.entry AS b WHERE b.holding = a.holding AND b.key = a.key)
"""
_ALL_OF_IT = f"SELECT count(*) FROM past.entry WHERE {OF_DOCUMENT.format('key')}"


def since_hand_over(move: Move, store: SurveyStore, finder: Finder, last_change: str) -> SinceHandOver | None:
    """What changed; None when nothing was handed over yet, or the move itself changed something after that.

    What cannot be looked at now may be there still, and is not called gone.
    """
    path = move.folder / FILE
    if move.outside.disk.facts(path) is None:
        return None
    with closing(SurveyStore.open(path)) as past:
        taken, after = str(past.about("taken")), str(past.about("last-change"))
    if after != last_change:
        return None
    database = store.database
    with attached(store, path, "past"):
        gone = [path for (path,) in database.execute(_GONE)]
        unread = [bounds_of(each) for each in store.documents(f"NOT ({WERE_READ})")]
        unknown = sum(store.count(_ALL_OF_IT, each) for each in unread)
        return SinceHandOver(
            handed_over=taken,
            files_new=tuple(restored(row[0]) for row in database.execute(_NEW)),
            files_edited=tuple(restored(row[0]) for row in database.execute(_EDITED, (SAME_MOMENT_NS,))),
            files_gone=tuple(path for path in map(restored, gone) if _is_surely_gone(move.new.parse(path), finder)),
            entries_new=store.count(_ENTRIES.format("main", "past")),
            entries_gone=store.count(_ENTRIES.format("past", "main")) - unknown,
        )


def _is_surely_gone(path: MachinePath, finder: Finder) -> bool:
    return finder.find(path).sight not in (Sight.DENIED, Sight.UNPLUGGED)


def hand_over(move: Move, survey: Path) -> None:
    """Keep the survey of a check that came out well, as what was handed over."""
    disk = move.outside.disk
    disk.flush(survey)
    disk.rename(survey, move.folder / FILE)
    disk.flush(move.folder)
