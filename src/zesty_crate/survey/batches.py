"""Rows on their way into tables, many at a time. Names that are not Unicode go in, too."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from itertools import groupby
from typing import Any

import apsw

from ..machines.texts import stored

_BATCH = 5_000
# The columns of rows that do not fill all of a table: of what there are millions, each column counts.
_SHORT = {
    ("file", 10): "(holding, role, kind, path, key, size, modified_ns, mode, target, fault)",
    ("entry", 6): "(holding, key, recorded, path, path_key, size)",
}


class Batches:
    """Adds rows to the tables of one database; what was added is in them after `flush`."""

    def __init__(self, database: apsw.Connection) -> None:
        self._database = database
        self._rows: defaultdict[str, list[tuple[Any, ...]]] = defaultdict(list)

    def add(self, table: str, row: tuple[Any, ...]) -> None:
        """Add a row."""
        batch = self._rows[table]
        batch.append(row)
        if len(batch) >= _BATCH:
            self._write(table)

    def add_all(self, table: str, rows: Sequence[tuple[Any, ...]]) -> None:
        """Add many rows."""
        batch = self._rows[table]
        batch += rows
        if len(batch) >= _BATCH:
            self._write(table)

    def flush(self) -> None:
        """Have all that was added in the tables."""
        for table in list(self._rows):
            self._write(table)

    def _write(self, table: str) -> None:
        rows = self._rows[table]
        for width, several in groupby(rows, len):
            some = list(several)
            query = f"INSERT INTO {table} {_SHORT.get((table, width), '')} VALUES ({', '.join('?' * width)})"
            before = self._database.total_changes()
            try:
                self._database.executemany(query, some)
            except UnicodeEncodeError:  # seldom, and asking every text whether it is Unicode would cost more
                written = self._database.total_changes() - before  # there is no journal to roll back with
                self._database.executemany(query, (_storable(row) for row in some[written:]))
        rows.clear()


def _storable(row: tuple[Any, ...]) -> tuple[Any, ...]:
    return tuple(stored(value) if isinstance(value, str) else value for value in row)
