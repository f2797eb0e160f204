"""A survey as tables for a spreadsheet: one CSV file (RFC 4180, UTF-8 with a mark) for each kind of thing."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import chain
from pathlib import Path

from ..errors import ZestyError
from ..machines import Disk, make_folders
from ..machines.texts import restored
from ..spreadsheets import write_rows
from .store import SurveyStore

_TABLES = {
    "holdings": """SELECT id, guide, title, kind, class, at, present FROM holding ORDER BY rowid""",
    "files": """SELECT holding, role, kind, path, size AS size_bytes,
                datetime(modified_ns / 1000000000, 'unixepoch') || 'Z' AS modified, target AS leads_to, fault
                FROM file ORDER BY id""",
    "entries": """SELECT holding, key, name, recorded, path, state, why FROM entry ORDER BY rowid""",
    "annotations": """SELECT holding, entry, name, value FROM annotation ORDER BY rowid""",
    "groups": """SELECT holding, key, name, parent FROM grp ORDER BY rowid""",
    "members": """SELECT holding, grp AS "group", position, entry FROM member ORDER BY rowid""",
    "catalogs": """SELECT holding, path, verdict, unread, reasons FROM document ORDER BY id""",
    "duplicates": """SELECT d.grp AS "set", f.size AS size_bytes, f.path FROM duplicate AS d
                     JOIN file AS f ON f.id = d.file ORDER BY d.grp, f.path""",
    "spot-checks": """SELECT holding, entry, path, named, what, fault, duration_s, width, height FROM spot_check
                    ORDER BY rowid""",
    "unregistered": """SELECT holding, path FROM unregistered ORDER BY rowid""",
}


def write_tables(store: SurveyStore, folder: Path, disk: Disk) -> list[Path]:
    """Write every table into ``folder``; the files. Raises `ZestyError` when one of them is there already."""
    make_folders(disk, folder)
    targets = {name: folder / f"{name}.csv" for name in _TABLES}
    taken = [str(path) for path in targets.values() if disk.facts(path) is not None]
    if taken:
        raise ZestyError(f"{taken[0]} already exists and is not overwritten.", next_step="Name an empty folder.")
    for name, query in _TABLES.items():
        cursor = store.database.execute(f"SELECT * FROM ({query})")
        columns = [column.replace("_", "-") for column in _columns(store, query)]
        with disk.new_text(targets[name]) as stream:
            write_rows(stream, chain([columns], map(_shown, cursor)))
    return list(targets.values())


def _columns(store: SurveyStore, query: str) -> list[str]:
    """The names of a query's columns, also when it has no row."""
    store.database.execute(f"CREATE TEMP VIEW IF NOT EXISTS shown AS {query}")
    try:
        return [row[0] for row in store.database.execute("SELECT name FROM pragma_table_info('shown')")]
    finally:
        store.database.execute("DROP VIEW shown")


def _shown(row: Iterable[object]) -> list[object]:
    """A row with its texts in Unicode; what is not Unicode is escaped."""
    return [_unicode(value) if isinstance(value, str | bytes) else value for value in row]


def _unicode(value: str | bytes) -> str:
    return restored(value).encode("utf-8", "backslashreplace").decode()
