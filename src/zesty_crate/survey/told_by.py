"""Documents that are told by what is in them, and not by their name alone."""

from __future__ import annotations

import re
from contextlib import closing, suppress
from pathlib import Path
from xml.parsers import expat

import apsw

from ..guides import ToldByPart
from ..systems import this_system

_HEAD_BYTES = 1 << 16
_LARGEST_BYTES = 64 << 20  # of a file that is searched
_DATABASE = b"SQLite format 3\0"


def is_told(part: ToldByPart, path: Path) -> bool:
    """Whether a file has all that a guide says of its content. What cannot be read has not."""
    try:
        with path.open("rb") as stream:
            head = stream.read(_HEAD_BYTES)
    except OSError:
        return False
    begins = part.begins is None or head.startswith(part.begins.encode())
    return (
        begins
        and (part.holds is None or _holds(path, part.holds))
        and (part.root is None or _root_of(head) == part.root)
        and (part.table is None or (head.startswith(_DATABASE) and _has_table(path, part.table)))
    )


def _holds(path: Path, pattern: str) -> bool:
    """Whether an expression matches somewhere in a file, byte by byte."""
    if path.stat().st_size > _LARGEST_BYTES:
        return False
    return re.search(pattern.encode(), path.read_bytes()) is not None


def _root_of(head: bytes) -> str:
    """The name of an XML document's root element without its prefix; empty where there is none."""
    found: list[str] = []

    def note(name: str, _: object) -> None:
        found.append(name)
        raise _Enough

    parser = expat.ParserCreate()
    parser.StartElementHandler = note
    with suppress(_Enough, expat.ExpatError, ValueError, LookupError):
        parser.Parse(head, False)  # noqa: FBT003  which is what expat takes
    return found[0].rpartition(":")[2] if found else ""


class _Enough(Exception):  # noqa: N818  nothing failed
    """The root element was met: nothing behind it is parsed."""


def _has_table(path: Path, table: str) -> bool:
    flags = apsw.SQLITE_OPEN_READONLY | apsw.SQLITE_OPEN_URI
    try:
        uri = this_system().database_uri(str(path.absolute()))
        with closing(apsw.Connection(f"{uri}?mode=ro&immutable=1", flags=flags)) as database:
            query = "SELECT count(*) FROM sqlite_schema WHERE type = 'table' AND name = ? COLLATE NOCASE"
            return bool(database.execute(query, (table,)).get)
    except apsw.Error:
        return False
