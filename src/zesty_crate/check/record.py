"""What a check came to, kept beside the move's journal: for the report, for the list of things to do, for retiring."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..journal import Journal
from ..machines import Disk, make_folders
from ..machines.texts import stored
from ..plan import Move
from ..survey import Problems
from .model import CheckReport

if TYPE_CHECKING:
    from pydantic import TypeAdapter

FORMAT = 6
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
    make_folders(move.outside.disk, move.folder)
    move.outside.disk.write_text(move.folder / FILE, _written(record))


def _written(record: CheckRecord) -> Iterator[str]:
    """A check as lines of JSON: what it came to, then problems, some on each, since there may be a million."""
    rest = _form().dump_python(replace(record, report=replace(record.report, problems=())))
    yield _line({"format": FORMAT, "record": rest, "problems": len(record.report.problems)})
    problems = record.report.problems
    yield from map(_line, (problems if isinstance(problems, Problems) else Problems(problems)).blocks())


@cache
def _form() -> TypeAdapter[CheckRecord]:
    """What a record is like; this is worked out once, which takes longer than a small record."""
    from pydantic import TypeAdapter

    return TypeAdapter(CheckRecord)


def _line(value: Any) -> str:
    text = json.dumps(value, ensure_ascii=False)
    is_unicode = isinstance(stored(text), str)
    return f"{text if is_unicode else json.dumps(_plain(value), ensure_ascii=False)}\n"


def last_check(move: Move) -> CheckRecord | None:
    """The last check of this move, or None when there is none that is understood here."""
    return read_record(move.folder, move.outside.disk)


def read_record(folder: Path, disk: Disk) -> CheckRecord | None:
    """The last check of the move whose records are in ``folder``."""
    from pydantic import ValidationError

    path = folder / FILE
    if disk.facts(path) is None:
        return None
    try:
        lines = disk.read_lines(path)
        kept = json.loads(next(lines, ""))
        if kept["format"] != FORMAT:
            return None
        record = _form().validate_python(kept["record"])
        problems = Problems.of_blocks(map(json.loads, lines))
        if len(problems) != kept["problems"]:
            return None
        return replace(record, report=replace(record.report, problems=problems))
    except (ValueError, TypeError, KeyError, ValidationError):
        return None  # a check is soon made again


def _plain(value: Any) -> Any:
    """Texts that are not Unicode are marked as such."""
    if isinstance(value, dict):
        return {key: _plain(each) for key, each in value.items()}
    if isinstance(value, list | tuple):
        return [_plain(each) for each in value]
    return value.encode("utf-8", "backslashreplace").decode() if isinstance(value, str) else value
