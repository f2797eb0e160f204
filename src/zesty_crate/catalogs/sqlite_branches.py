"""Entries that are no more than a name in a folder of a tree: which of a million are so is for SQLite to say."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterable, Iterator, Mapping
from itertools import compress, islice, repeat, starmap, tee, zip_longest
from operator import ne
from typing import Any

import apsw

from .reading import LONGEST_PATH
from .sqlite_file import quoted
from .sqlite_plan import Plan

_MOST_APART = 50_000
_AT_ONCE = 10_000
_FOLDERS = "temp.branch"

Row = tuple[Any, ...]


def first_rows(connection: apsw.Connection, plan: Plan) -> list[Row]:
    """The first entry of each folder, in the order of their table. Raises `apsw.Error` and `UnicodeDecodeError`."""
    of_each = f'SELECT min("own row") FROM ({plan.own_rows}) GROUP BY {quoted(_via(plan))} COLLATE BINARY'
    return list(connection.execute(plan.query_of_all(f' WHERE own."own row" IN ({of_each})')))


def rows_apart(
    connection: apsw.Connection, plan: Plan, folders: Mapping[object, int]
) -> tuple[Counter[int], list[Row]] | None:
    """How many entries are no more than a name in one of some folders, by their numbers, which are above 0.

    And all other entries, in the order of their table; None where there are too many. Every name is read. Raises
    `apsw.Error` and `UnicodeDecodeError`.
    """
    rows, plain, apart = _marked(connection, plan, folders.items(), other=0), Counter[int](), list[Any]()
    while some := list(islice(rows, _AT_ONCE)):
        marks = [row[-1] for row in some]
        plain.update(marks)
        apart += [row[0] for row in some if not row[-1]] if plain[0] else ()
        if len(apart) > _MOST_APART:
            return None
    del plain[0]
    return plain, [whole for number in apart for whole in connection.execute(plan.query_of_one, (number,))]


def unlike_rows(
    one: tuple[apsw.Connection, Plan], other: tuple[apsw.Connection, Plan], folders: Collection[object]
) -> list[tuple[Row | None, Row | None]] | None:
    """The rows of two catalogs that are not the same name in the same one of some folders, in step.

    None where there are too many. Every name of both is read. Raises `apsw.Error` and `UnicodeDecodeError`.
    """
    # What is no plain name is marked otherwise in the other one, so that it is never alike.
    before, before_too = tee(_marked(*one, zip(folders, repeat(1)), other=2))
    after, after_too = tee(_marked(*other, zip(folders, repeat(1)), other=3))
    ends = zip_longest(before_too, after_too)
    unlike = compress(ends, starmap(ne, zip_longest(before, after)))
    found = list(islice(unlike, _MOST_APART + 1))
    if len(found) > _MOST_APART:
        return None
    return [(_whole(*one, row), _whole(*other, row_after)) for row, row_after in found]


def _whole(connection: apsw.Connection, plan: Plan, row: Row | None) -> Row | None:
    return None if row is None else next(connection.execute(plan.query_of_one, row[:1]), None)


def _marked(
    connection: apsw.Connection, plan: Plan, folders: Iterable[tuple[object, int]], *, other: int
) -> Iterator[Row]:
    """The number of each row, its folder, its name, and a mark.

    That is the number of its folder where the row is no more than a name in one of some folders, else the other one.
    """
    connection.execute(f"DROP TABLE IF EXISTS {_FOLDERS}; CREATE TABLE {_FOLDERS} (key PRIMARY KEY, mark)")
    with connection:
        connection.executemany(f"INSERT INTO {_FOLDERS} VALUES (?, ?)", folders)
    folder, name = f"own.{quoted(_via(plan))}", f"own.{quoted(plan.part.path[-1].at)}"
    is_name = (
        f"typeof({name}) = 'text' AND length(CAST({name} AS BLOB)) BETWEEN 1 AND {LONGEST_PATH - 1} "
        f"AND instr({name}, '/') = 0 AND instr({name}, '\\') = 0 AND instr({name}, char(0)) = 0 "
        f"AND {name} COLLATE BINARY NOT IN ('.', '..')"
    )
    is_here = 'own."is remote" IS NULL OR own."is remote" = 0'
    its_mark = f"coalesce((SELECT mark FROM {_FOLDERS} WHERE key = +{folder} COLLATE BINARY), {other})"
    mark = f"CASE WHEN ({is_here}) AND {is_name} THEN {its_mark} ELSE {other} END"
    return connection.execute(
        f'SELECT own."own row", {folder}, {name}, {mark} FROM ({plan.own_rows}) AS own ORDER BY own."own row"'
    )


def _via(plan: Plan) -> str:
    return plan.part.path[0].via_column
