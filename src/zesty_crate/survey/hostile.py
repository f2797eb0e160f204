"""A survey comes from a carrier, and may be damaged or made to mislead: looked at before anything of it is believed."""

from __future__ import annotations

import contextlib
import json
import re
from collections.abc import Iterator

import apsw

from ..errors import ZestyError
from .schema import TABLES
from .states import State

_NEXT = "Use the second copy of the crate, or pack again."
_TEXTS = "('text', 'blob')"
_STATES = ", ".join(f"'{state}'" for state in State)
_LISTS = ("volumes", "programs", "manual-steps", "guides", "links", "warnings")
# What must be so of every row; by these nothing leads out of a crate, and no number is anything else.
_NOT_SO = {
    "file": f"typeof(id) <> 'integer' OR typeof(path) NOT IN {_TEXTS} OR typeof(key) NOT IN {_TEXTS} "
    "OR typeof(size) <> 'integer' OR typeof(modified_ns) <> 'integer' OR typeof(mode) <> 'integer' "
    "OR kind NOT IN ('file', 'folder', 'link', 'other')",
    "carried": "typeof(size) <> 'integer' OR typeof(modified_ns) <> 'integer' OR typeof(bag) <> 'integer' OR {payload}",
    "segment": "typeof(size) <> 'integer' OR typeof(first) <> 'integer' OR typeof(bag) <> 'integer' OR {payload}",
    "entry": f"state NOT IN ({_STATES}) OR typeof(path) NOT IN {_TEXTS} OR typeof(path_key) NOT IN {_TEXTS} "
    f"OR typeof(why) NOT IN {_TEXTS}",
}
_PAYLOAD = (
    "payload NOT GLOB 'data/*' OR instr(payload, '\\') OR instr(payload, '/../') OR substr(payload, -3) = '/..' "
    "OR instr(payload, '/./') OR instr(payload, char(0))"
)


def require_plain(database: apsw.Connection, title: str) -> None:
    """See that nothing in a file acts by itself, so that it can be asked for its format. Raises `ZestyError`."""
    for kind, name, sql in database.execute("SELECT type, name, coalesce(sql, '') FROM sqlite_master"):
        if kind not in ("table", "index") or re.match(r"CREATE\s+VIRTUAL", sql, re.IGNORECASE):
            raise ZestyError(f"{title} has a {kind} {name}, which no survey has.", next_step=_NEXT)


def require_tables(database: apsw.Connection, title: str) -> None:
    """See that a survey has the tables of this format. Raises `ZestyError`."""
    found = {sql for (sql,) in database.execute("SELECT sql FROM sqlite_master")}  # as each statement was written
    if lacking := [each.split()[2] for each in TABLES if each not in found]:
        raise ZestyError(f"{title} is damaged: its table {lacking[0]} is missing, or is another one.", next_step=_NEXT)


def require_sound_rows(database: apsw.Connection, title: str) -> None:
    """See that every row is of the right kind. Raises `ZestyError`."""
    with faults_of_survey(title):
        facts = {name: json.loads(value) for name, value in database.execute("SELECT name, value FROM about")}
        if wrong := [name for name in _LISTS if not isinstance(facts.get(name), list)]:
            raise TypeError(f"{wrong[0]} is no list")
    for table, condition in _NOT_SO.items():
        query = f"SELECT EXISTS (SELECT 1 FROM {table} WHERE {condition.replace('{payload}', _PAYLOAD)})"
        if database.execute(query).get:
            raise ZestyError(f"{title} is damaged: a row of {table} is not as any survey has it.", next_step=_NEXT)


@contextlib.contextmanager
def faults_of_survey(title: str) -> Iterator[None]:
    """Facts of another form than a survey has arise as `ZestyError`."""
    try:
        yield
    except (TypeError, ValueError, KeyError, AttributeError, IndexError, RecursionError, apsw.SQLError) as error:
        what = f"{title} is damaged: {type(error).__name__}: {error}"
        raise ZestyError(f"{what}.", next_step=_NEXT) from error
