"""What a check came to, kept beside the move's journal: for the report, for the list of things to do, for retiring."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..journal import Journal
from ..machines import Disk, make_folders
from ..plan import Move
from .model import CheckReport

FORMAT = 4
FILE = "check.json"


@dataclass(frozen=True, slots=True)
class CheckRecord:
    """A check as it was kept: when it was made, after which change, and what it came to. Times as in ISO 8601.

    The sheet of the checked computer is kept, to look there again: its text, its folder, and whether it ``is_here``.
    """

    checked: str
    last_change: str
    report: CheckReport
    sheet: str
    sheet_folder: str
    is_here: bool

    @property
    def passed(self) -> bool:
        """Whether all was well."""
        return not self.report.attention


def last_change(journal: Journal) -> str:
    """What the move's last change is known by: it differs after each. It is no time, since clocks may go back."""
    steps = [f"{step.id} {step.begun} {step.ended} {step.undone}" for step in journal.steps()]
    return hashlib.sha256("\n".join(steps).encode()).hexdigest()


def keep_record(move: Move, record: CheckRecord) -> None:
    """Keep a check in the place of the one before it."""
    from pydantic import TypeAdapter

    content = TypeAdapter(CheckRecord).dump_python(record)
    text = json.dumps({"format": FORMAT, "record": _plain(content)}, ensure_ascii=False)
    make_folders(move.outside.disk, move.folder)
    move.outside.disk.write_text(move.folder / FILE, text)


def last_check(move: Move) -> CheckRecord | None:
    """The last check of this move, or None when there is none that is understood here."""
    return read_record(move.folder, move.outside.disk)


def read_record(folder: Path, disk: Disk) -> CheckRecord | None:
    """The last check of the move whose records are in ``folder``."""
    from pydantic import TypeAdapter, ValidationError

    path = folder / FILE
    if disk.facts(path) is None:
        return None
    try:
        kept = json.loads(disk.read_text(path))
        return TypeAdapter(CheckRecord).validate_python(kept["record"]) if kept["format"] == FORMAT else None
    except (ValueError, TypeError, KeyError, ValidationError):
        return None  # a check is soon made again


def _plain(value: Any) -> Any:
    """Texts that are not Unicode are marked as such."""
    if isinstance(value, dict):
        return {key: _plain(each) for key, each in value.items()}
    if isinstance(value, list | tuple):
        return [_plain(each) for each in value]
    return value.encode("utf-8", "backslashreplace").decode() if isinstance(value, str) else value
