"""What a merge must know of a database beyond its entries: what hangs on them, what they point to, counters.

What foreign keys say is not said again. What only names of columns suggest is said, since losing it would lose work.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator

from ..catalogs import quoted
from .groups import name_of
from .read_sqlite import Database
from .tables import Table
from .write import Block

_LEAST = 10  # that a last number is, to be more than an accident
_FEW_ROWS = 12  # of a table in which a program keeps its own numbers


def merging_blocks(database: Database, entries: Table, key: str, taken: Collection[str]) -> Iterator[Block]:
    """The tables that hang on entries, those that others point to, and counters. ``taken`` are pieces and groups."""
    seen: set[str] = set()
    for table in database.tables.values():
        if table is entries or table.each in taken or not table.at:
            continue
        ways = [way for way in database.ways_from(table.each) if way.is_evident]
        for way in ways:
            if way.to == entries.each and not way.is_declared and way.via.lower() != key.lower():
                why = f"{table.count:,} rows, each with a key of {entries.each}"
                yield Block("[[holding.attached]]", {"table": table.each, "entry": way.via}, [why])
        for way in ways if any(way.to == entries.each for way in ways) else ():
            yield from _pointed_to(database, table, way.via, way.to, {*taken, entries.each, *seen}, way.is_declared)
            seen.add(way.to)
    for way in database.ways_from(entries.each):
        if way.is_evident:
            yield from _pointed_to(database, entries, way.via, way.to, {*taken, entries.each, *seen}, way.is_declared)
            seen.add(way.to)
    yield from _counters(database, entries)


def _pointed_to(
    database: Database, table: Table, column: str, to: str, known: Collection[str], is_declared: bool
) -> Iterator[Block]:
    """A table of names, and that a column points there."""
    if to in known:
        return
    name = name_of(database.tables[to])
    if name is not None and _differs(database.tables[to], name):
        yield Block("[[holding.lookups]]", {"table": to, "name": [name]}, [f"{database.tables[to].count:,} names"])
    if not is_declared:
        yield Block("[[holding.references]]", {"table": table.each, "column": column, "to": to})


def _differs(table: Table, name: str) -> bool:
    """Whether no two rows have one name, so that rows of two catalogs can be one by it."""
    return len(set(table.fields[name].texts)) == len(table.at)


def _counters(database: Database, entries: Table) -> Iterator[Block]:
    """Values of small tables that are the last number of the entries, or the one after it."""
    number = database.schema.number_of(entries.each)
    if number is None:
        return
    last = database.connection.execute(f"SELECT max({quoted(number)}) FROM {quoted(entries.each)}").get
    if not isinstance(last, int) or last < _LEAST:
        return
    for table in database.tables.values():
        if table is entries or not 0 < table.count <= _FEW_ROWS:
            continue
        for field in table:
            if field.selector in database.keys[table.each] or any(w.is_evident for w in database.ways_from(table.each)):
                continue
            rows = [row for row, value in enumerate(field.values) if _number(value) in (last, last + 1)]
            if len(rows) == 1:
                yield _counter(table, field.selector, rows[0], entries, last)


def _counter(table: Table, column: str, row: int, entries: Table, last: int) -> Block:
    value = _number(table.fields[column].values[row])
    told: dict[str, object] = {"table": table.each, "column": column}
    names = [each for each in table if each.selector != column and isinstance(each.values[row], str)]
    if table.count > 1 and names:
        text = str(names[0].values[row]).replace("'", "''")
        told["where"] = f"\"{names[0].selector}\" = '{text}'"
    told |= {"of": entries.each, "holds": "last" if value == last else "next"}
    # A number may be there by accident, so a person is to look.
    return Block(
        "[[holding.counters]]",
        told,
        [f"It is {value:,}, and the last number of {entries.each} is {last:,}"],
        commented=True,
    )


def _number(value: object) -> int | None:
    if isinstance(value, int):
        return value
    return int(value) if isinstance(value, str) and re.fullmatch(r"\d{1,18}", value) else None
