"""What a check came to, kept beside the move's journal: for the report, for the list of things to do, for retiring."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from ..journal import Journal
from ..machines import Disk, make_folders
from ..plan import Move
from ..survey import Problem
from .model import CheckReport

FORMAT = 5
FILE = "check.json"
_TOGETHER = 1_000  # problems that are written at once


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
    make_folders(move.outside.disk, move.folder)
    move.outside.disk.write_text(move.folder / FILE, _written(record))


def _written(record: CheckRecord) -> Iterator[str]:
    """A check as JSON, piece by piece: there may be a problem with each of a million entries."""
    from pydantic import TypeAdapter

    problems, listed = record.report.problems, TypeAdapter(list[Problem])
    rest = TypeAdapter(CheckRecord).dump_python(replace(record, report=replace(record.report, problems=())))
    yield f'{{"format": {FORMAT}, "record": {json.dumps(_plain(rest), ensure_ascii=False)}, "problems": ['
    for first in range(0, len(problems), _TOGETHER):
        some = listed.dump_python(list(problems[first : first + _TOGETHER]))
        yield ", " * bool(first) + json.dumps(_plain(some), ensure_ascii=False)[1:-1]
    yield "]}"


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
        if kept["format"] != FORMAT:
            return None
        kept["record"]["report"]["problems"] = kept["problems"]
        return TypeAdapter(CheckRecord).validate_python(kept["record"])
    except (ValueError, TypeError, KeyError, ValidationError):
        return None  # a check is soon made again


def _plain(value: Any) -> Any:
    """Texts that are not Unicode are marked as such."""
    if isinstance(value, dict):
        return {key: _plain(each) for key, each in value.items()}
    if isinstance(value, list | tuple):
        return [_plain(each) for each in value]
    return value.encode("utf-8", "backslashreplace").decode() if isinstance(value, str) else value
