"""Share what is to be carried out over the carriers; and what is carried, pending, the largest, in files and bytes."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from ..machines import FileFacts
from ..machines.texts import restored
from ..survey import SurveyStore
from .scope import Scope
from .shares import Shelf, Wanted, share_out
from .sources import Sources

_SHARES = """
CREATE TEMP TABLE IF NOT EXISTS share (bag INTEGER, file INTEGER, first INTEGER, length INTEGER, is_segment INTEGER);
DELETE FROM share;
"""
_PENDING = """
SELECT f.id, iif(e.key IS NULL, f.size, 0) AS size,
    coalesce((SELECT sum(size) FROM segment WHERE file = f.id), 0) AS done
FROM file AS f LEFT JOIN same_file AS e ON e.key = f.key AND e.size = f.size AND e.modified_ns = f.modified_ns
WHERE f.kind = 'file' AND f.id IN (SELECT id FROM file WHERE {}) AND f.id NOT IN (SELECT file FROM carried)
ORDER BY f.path
"""
_BEGUN = """
SELECT DISTINCT f.id, f.path, f.size, s.modified_ns FROM segment AS s JOIN file AS f ON f.id = s.file
WHERE f.id NOT IN (SELECT file FROM carried)
"""


class Sum(NamedTuple):
    """Files and bytes."""

    files: int
    size_bytes: int


class Sharing:
    """What of the scope goes into which bag: in a table, for a million files are too many to hold."""

    def __init__(self, survey: SurveyStore, scope: Scope, sources: Sources) -> None:
        self._survey = survey
        self._scope = scope
        self._sources = sources

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

    def shared_files(self) -> int:
        """How many files an earlier crate has on the same carrier, so that they take no room."""
        query = "SELECT count(*) FROM share AS s JOIN file AS f ON f.id = s.file WHERE s.length = 0 AND f.size > 0"
        return self._survey.count(query)

    def cut_files(self) -> int:
        """How many files go in segments."""
        return self._survey.count("SELECT count(DISTINCT file) FROM share WHERE is_segment")

    def _forget_cut_files_that_changed(self) -> None:
        """Segments of a file that is not what it was when they were cut are of no use; it is taken from its start."""
        for file, path, size, modified_ns in list(self._survey.database.execute(_BEGUN)):
            source = self._sources.of(restored(path), FileFacts("file", size, modified_ns, 0))
            if source.why_not or source.facts.modified_ns != modified_ns:
                self._survey.database.execute("DELETE FROM segment WHERE file = ?", (file,))
