"""Entries that are no more than a name in a folder of a tree: which of a million are so is for SQLite to say."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from itertools import compress, filterfalse, islice, starmap, tee, zip_longest
from operator import itemgetter, ne
from typing import Any

import apsw

from .reading import LONGEST_PATH
from .sqlite_file import quoted
from .sqlite_plan import Plan

_MOST_APART = 50_000
_FOLDERS = "temp.branch"
_PLAIN = 1

Row = tuple[Any, ...]


def first_rows(connection: apsw.Connection, plan: Plan) -> list[Row]:
    """The first entry of each folder, in the order of their table. Raises `apsw.Error` and `UnicodeDecodeError`."""
    of_each = f'SELECT min("own row") FROM ({plan.own_rows}) GROUP BY {quoted(_via(plan))} COLLATE BINARY'
    return list(connection.execute(plan.query_of_all(f' WHERE own."own row" IN ({of_each})')))


def rows_apart(connection: apsw.Connection, plan: Plan, folders: Collection[object]) -> tuple[int, list[Row]] | None:
    """How many entries are no more than a name in one of some folders, and all others in the order of their table.

    None where there are too many others. Every row is read. Raises `apsw.Error` and `UnicodeDecodeError`.
    """
    total = int(connection.execute(f"SELECT count(*) FROM ({plan.own_rows})").get)
    found = filterfalse(itemgetter(-1), _marked(connection, plan, folders, other=0))
    apart = [row[:-1] for row in islice(found, _MOST_APART + 1)]
    return (total - len(apart), apart) if len(apart) <= _MOST_APART else None


def unlike_rows(
    one: tuple[apsw.Connection, Plan], other: tuple[apsw.Connection, Plan], folders: Collection[object]
) -> list[tuple[Row | None, Row | None]] | None:
    """The rows of two catalogs that are not the same name in the same one of some folders, in step.

    None where there are too many. Every row of both is read. Raises `apsw.Error` and `UnicodeDecodeError`.
    """
    # What is no plain name is marked otherwise in the other one, so that it is never alike.
    before, before_too = tee(_marked(*one, folders, other=2))
    after, after_too = tee(_marked(*other, folders, other=3))
    ends = zip_longest(before_too, after_too)
    unlike = compress(ends, starmap(ne, zip_longest(before, after)))
    found = list(islice(unlike, _MOST_APART + 1))
    return [(a and a[:-1], b and b[:-1]) for a, b in found] if len(found) <= _MOST_APART else None


def _marked(connection: apsw.Connection, plan: Plan, folders: Collection[object], *, other: int) -> Iterator[Row]:
    """Every row with a mark behind it: `_PLAIN` for no more than a name in one of some folders, else the other one."""
    connection.execute(f"DROP TABLE IF EXISTS {_FOLDERS}; CREATE TABLE {_FOLDERS} (key PRIMARY KEY)")
    connection.executemany(f"INSERT INTO {_FOLDERS} VALUES (?)", ((each,) for each in folders))
    folder, name = f"own.{quoted(_via(plan))}", f"own.{quoted(plan.part.path[-1].at)}"
    is_name = (
        f"typeof({name}) = 'text' AND length(CAST({name} AS BLOB)) BETWEEN 1 AND {LONGEST_PATH - 1} "
        f"AND instr({name}, '/') = 0 AND instr({name}, '\\') = 0 AND {name} COLLATE BINARY NOT IN ('.', '..')"
    )
    is_here = 'own."is remote" IS NULL OR own."is remote" = 0'
    is_in_one = f"{folder} COLLATE BINARY IN (SELECT key FROM {_FOLDERS})"
    mark = f"CASE WHEN ({is_here}) AND {is_name} AND {is_in_one} THEN {_PLAIN} ELSE {other} END"
    return connection.execute(plan.query_of_all(more=mark))


def _via(plan: Plan) -> str:
    return plan.part.path[0].via_column
