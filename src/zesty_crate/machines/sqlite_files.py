"""The files that SQLite keeps beside a database (sqlite.org/tempfiles.html); they belong to it and go where it goes."""

from __future__ import annotations

UNFINISHED_ENDINGS = ("-journal", "-wal")
"""Endings of files that hold changes which the database itself does not have yet."""

SIDE_ENDINGS = (*UNFINISHED_ENDINGS, "-shm")
"""Endings of all files that may stand beside a database."""


def database_name(name: str) -> str | None:
    """The name of the database that a file of this ``name`` would be beside; None if it has no such ending."""
    ending = next((each for each in SIDE_ENDINGS if name.endswith(each)), None)
    return name.removesuffix(ending) if ending else None
