"""Entries and listed files, joined once: which entries no file confirms, and which media no entry names."""

from __future__ import annotations

from collections.abc import Iterator

from .store import SurveyStore

Pending = tuple[int, str | bytes, int | None, str]  # an entry to look at singly: rowid, path, size and holding

# Of names that a volume takes for one, none bears anything out.
_JOINED = """
SELECT e.rowid, f.id, e.judged OR (f.kind = 'file' AND (e.size IS NULL OR e.size = f.size) AND f.fault = '')
FROM entry AS e LEFT JOIN file AS f ON f.key = e.path_key
"""
_TWINS = """
INSERT OR IGNORE INTO pending SELECT e.rowid FROM entry AS e
WHERE NOT e.judged AND e.path_key IN (SELECT key FROM file GROUP BY key HAVING count(*) > 1)
"""
_PENDING = """
SELECT e.rowid, e.path, e.size, e.holding FROM pending AS p JOIN entry AS e ON e.rowid = p.number
WHERE p.number > ? ORDER BY p.number LIMIT ?
"""
# A media holding is asked about only when some entry points into it: others are of programs without a catalog.
_UNNAMED = """
INSERT INTO unnamed SELECT f.id FROM no_entry AS n JOIN file AS f ON f.id = n.number
WHERE f.kind = 'file' AND f.role = 'own' AND f.key NOT IN (SELECT key FROM belongs)
AND f.path NOT IN (SELECT path FROM document)
AND f.holding IN (
    SELECT h.id FROM holding AS h WHERE h.kind = 'media' AND h.class <> 'proxy' AND EXISTS (
        SELECT 1 FROM file AS o WHERE o.holding = h.id AND o.id NOT IN (SELECT number FROM no_entry)))
"""


def join_entries(store: SurveyStore, *, folds: bool) -> None:
    """Note the entries that no listed file confirms, for `pending_entries`, and the media that no entry names.

    Where a volume ``folds`` names, those that it takes for one are distinguished.
    """
    database = store.database
    database.execute("CREATE TEMP TABLE pending (number INTEGER PRIMARY KEY)")
    database.execute("CREATE TEMP TABLE no_entry (number INTEGER PRIMARY KEY)")
    is_named = bytearray(store.count("SELECT max(id) FROM file") + 1)
    is_confirmed = bytearray(b"\1") * (store.count("SELECT max(rowid) FROM entry") + 1)
    for entry, file, is_borne_out in database.execute(_JOINED):
        if file is not None:
            is_named[file] = 1
        if not is_borne_out:
            is_confirmed[entry] = 0
    database.executemany("INSERT INTO pending VALUES (?)", ((each,) for each in _zeros(is_confirmed)))
    if folds:
        database.execute(_TWINS)
    if any(is_named):
        database.executemany("INSERT INTO no_entry VALUES (?)", ((each,) for each in _zeros(is_named)))
        database.execute(_UNNAMED)
    database.execute("DROP TABLE no_entry")


def pending_entries(store: SurveyStore, at_once: int) -> Iterator[list[Pending]]:
    """The entries that no listed file confirms, in their order and so many at once: there may be a million."""
    last = 0
    while some := list(store.database.execute(_PENDING, (last, at_once))):
        last = some[-1][0]
        yield some
    store.database.execute("DROP TABLE pending")


def _zeros(marks: bytearray) -> Iterator[int]:
    """The places that are not marked, from 1 on."""
    place = marks.find(0, 1)
    while place > 0:
        yield place
        place = marks.find(0, place + 1)
