"""Full-text indexes over a table whose texts were rewritten: built anew where SQLite can, and named where it cannot.

Such an index keeps no texts of its own (FTS5 and FTS4 with ``content=``), so it must follow its table
(sqlite.org/fts5.html, 4.4.3 and 6.2; sqlite.org/fts3.html, 6.2). One that was out of step before stays as it is.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Iterator
from contextlib import closing
from pathlib import Path
from typing import NamedTuple

import apsw

from .sqlite_file import open_writable, quoted

_VIRTUAL = "SELECT name, sql FROM main.sqlite_schema WHERE type = 'table' AND sql LIKE 'CREATE VIRTUAL TABLE%'"
_MODULE = re.compile(r"USING\s+(fts[345])\s*\(", re.IGNORECASE)
_CONTENT = re.compile(r"""\bcontent\s*=\s*(?:"([^"]+)"|'([^']+)'|\[([^\]]+)\]|([^\s,)"']+))""", re.IGNORECASE)

Columns = Collection[tuple[str, str]]  # tables with a column, in small letters


class SearchIndex(NamedTuple):
    """An index by its name, the module that keeps it, and the table whose texts it is about."""

    name: str
    module: str
    table: str

    @property
    def shadows(self) -> frozenset[str]:
        """The tables in which its module keeps it, in small letters."""
        endings = ("_data", "_idx", "_docsize", "_config", "_segments", "_segdir", "_stat")
        return frozenset(self.name.lower() + ending for ending in endings)


def indexes_over(connection: apsw.Connection, columns: Columns) -> Iterator[SearchIndex]:
    """The indexes without texts of their own over any of these columns."""
    for name, sql in list(connection.execute(_VIRTUAL)):
        module, content = _MODULE.search(sql), _CONTENT.search(sql)
        if module is None or content is None:
            continue
        table = next(each for each in content.groups() if each)
        try:
            indexed = [row[0].lower() for row in connection.execute("SELECT name FROM pragma_table_info(?)", (name,))]
        except apsw.Error:  # a tokenizer of the program's own
            indexed = [column for of, column in columns if of == table.lower()]
        if any((table.lower(), column) in columns for column in indexed):
            yield SearchIndex(name, module.group(1).lower(), table)


def in_step(connection: apsw.Connection, index: SearchIndex) -> bool:
    """Whether an index agrees with its table; False, too, where only its program could tell."""
    name = quoted(index.name)
    ranked = index.module == "fts5"
    columns, values = (f"{name}, rank", "'integrity-check', 1") if ranked else (name, "'integrity-check'")
    try:
        connection.execute(f"INSERT INTO main.{name}({columns}) VALUES ({values})")
    except apsw.Error:
        return False
    return True


def rebuild(connection: apsw.Connection, indexes: Iterable[SearchIndex]) -> None:
    """Build these indexes anew from their tables."""
    for index in indexes:
        name = quoted(index.name)
        connection.execute(f"INSERT INTO main.{name}({name}) VALUES ('rebuild')")


def sort_by_step(path: Path, columns: Columns) -> tuple[list[SearchIndex], list[SearchIndex]]:
    """The indexes over these columns in a working copy: those that agree with their tables, and those that do not."""
    with closing(open_writable(path)) as connection:
        found = list(indexes_over(connection, columns))
        good = [each for each in found if in_step(connection, each)]
    return good, [each for each in found if each not in good]
