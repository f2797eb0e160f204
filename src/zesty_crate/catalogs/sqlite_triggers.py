"""The triggers of a catalog: a program's own answers to a change, which relinking leaves off and reports."""

from __future__ import annotations

import re
from collections.abc import Iterable
from contextlib import closing
from pathlib import Path

from .sqlite_file import open_immutable

# The head of one that answers to an update, of certain columns or of any (sqlite.org/lang_createtrigger.html).
_ON_UPDATE = re.compile(r"\bUPDATE(?:\s+OF\s+(?P<columns>.+?))?\s+ON\s", re.IGNORECASE | re.DOTALL)
_BODY = re.compile(r"\bBEGIN\b", re.IGNORECASE)
_TRIGGERS = "SELECT name, sql FROM main.sqlite_schema WHERE type = 'trigger' AND tbl_name = ? COLLATE NOCASE ORDER BY 1"


def triggers_on(path: Path, columns: Iterable[tuple[str, str]]) -> tuple[str, ...]:
    """The names of the triggers that answer to an update of any of these columns, given with their tables."""
    with closing(open_immutable(path)) as connection:
        return tuple(
            {
                name: None
                for table, column in columns
                for name, sql in connection.execute(_TRIGGERS, (table,))
                if _answers_to(sql, column)
            }
        )


def _answers_to(sql: str, column: str) -> bool:
    head = _ON_UPDATE.search(_BODY.split(sql, 1)[0])
    if head is None:
        return False
    named = head["columns"]
    return named is None or column.lower() in {each.strip(' \t\r\n"`[]').lower() for each in named.split(",")}
