"""Values that two merged catalogs have differently, as a table that a person edits and hands back."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from pathlib import Path

from ..errors import ZestyError
from ..machines import Disk
from ..merge import Taken
from ..spreadsheets import table_bytes, table_rows
from .conflicts import Conflict
from .document import ValueChoice

COLUMNS = ("catalog", "entry", "field", "there", "carried", "origin", "choose")
_OWN = ("catalog", "entry", "field", "choose")


def write_value_table(path: Path, conflicts: Iterable[Conflict], disk: Disk) -> int:
    """Write a row for each value that needs a decision; how many there are. Nothing is written when there is none."""
    rows = [
        (each.new, v.entry, v.field, v.there, v.carried, v.origin or "", "")
        for each in conflicts
        for v in (each.merge.undecided if each.merge else ())
    ]
    if rows:
        disk.write_bytes(path, table_bytes([COLUMNS, *rows]))
    return len(rows)


def read_value_table(path: Path, disk: Disk) -> tuple[ValueChoice, ...]:
    """The choices in a table. Raises `ZestyError` that names each row that cannot be understood."""
    return tuple(_choices(path, disk))


def _choices(path: Path, disk: Disk) -> Iterator[ValueChoice]:
    faults = []
    for number, row in enumerate(table_rows(disk.read_bytes(path), str(path), _OWN), start=2):
        choice = row["choose"].strip().lower()
        if not choice:
            continue
        if choice not in list(Taken):
            faults.append(f"row {number}: {row['choose']!r} is not one of {', '.join(Taken)}")
            continue
        yield ValueChoice(row["catalog"], row["entry"], row["field"], Taken(choice))
    if faults:
        raise ZestyError(f"{path} has choices that mean nothing.", details=faults, next_step="Correct them.")
