"""What is not sure, as a table that a person edits in a spreadsheet and hands back (CSV, RFC 4180)."""

from __future__ import annotations

import difflib
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from pathlib import Path

from ..errors import ZestyError
from ..machines import Disk, Finder
from ..paths import MachinePath, PathError
from ..spreadsheets import table_bytes, table_rows
from .matching import Matched

LEAVE = "leave"
_CANDIDATES = 3
_OWN = ("recorded path", "choice")
_COLUMNS = (*_OWN, *(f"{name} {n}" for n in range(1, _CANDIDATES + 1) for name in ("candidate", "confidence", "why")))
_MOST_TOLD = 20


def write_undecided(path: Path, matched: Iterable[Matched], disk: Disk) -> int:
    """Write a row for each match without a choice; returns their number. A byte-order mark marks the file as UTF-8."""
    undecided = [each for each in matched if each.choice is None]
    rows: list[Sequence[str]] = [_COLUMNS]
    for each in undecided:
        told = [(str(c.path), f"{c.confidence:.2f}", c.why) for c in each.candidates[:_CANDIDATES]]
        rows.append([str(each.lost.path), "", *(cell for candidate in told for cell in candidate)])
    disk.write_bytes(path, table_bytes(rows))
    return len(undecided)


def read_decisions(
    path: Path,
    lost: Iterable[MachinePath],
    finder: Finder,
    disk: Disk,
    found: Callable[[], Collection[str]] = frozenset,
) -> Mapping[MachinePath, MachinePath | None]:
    """The choices of a table that was handed back: a file for each old path, or None for one that must be left.

    A choice is the number of a candidate, a path, or ``leave``; rows without one decide nothing, and so do those that
    an earlier run has carried out: ``found`` gives the keys of the files that entries find. Raises `ZestyError` that
    lists every row that is wrong or stale by its number.
    """
    reader = _DecisionTable({finder.computer.key(each): each for each in lost}, finder, found)
    for number, row in enumerate(table_rows(disk.read_bytes(path), str(path), _OWN), start=2):
        reader.take(number, row)
    if reader.faults:
        more = [f"and {len(reader.faults) - _MOST_TOLD} more"] if len(reader.faults) > _MOST_TOLD else []
        raise ZestyError(
            f"The table {path} has mistakes; nothing was changed.",
            details=[*reader.faults[:_MOST_TOLD], *more],
            next_step="Correct these rows, or clear their choice. For a new table, name a file that does not exist.",
        )
    return reader.decided


class _DecisionTable:
    def __init__(self, lost: Mapping[str, MachinePath], finder: Finder, found: Callable[[], Collection[str]]) -> None:
        self._found = found
        self._lost = lost
        self._finder = finder
        self._first: dict[MachinePath, int] = {}
        self.decided: dict[MachinePath, MachinePath | None] = {}
        self.faults: list[str] = []

    def take(self, number: int, row: Mapping[str, str]) -> None:
        """Take one row, or note what is wrong with it."""
        choice = row["choice"]
        if not choice or self._is_done(row, choice):
            return
        try:
            old = self._old(row["recorded path"])
            if old in self._first:
                raise ZestyError(f"row {self._first[old]} decides on the same file")
            self.decided[old] = None if choice.lower() == LEAVE else self._new(choice, row)
            self._first[old] = number
        except ZestyError as error:
            self.faults.append(f"row {number}: {error.message}")

    def _is_done(self, row: Mapping[str, str], choice: str) -> bool:
        """Whether an entry finds now what a row says: then its old path is nobody's any more."""
        computer = self._finder.computer
        text = row.get(f"candidate {choice}", "") if choice.isascii() and choice.isdigit() else choice
        try:
            old = computer.key(computer.parse(row["recorded path"]))
            new = old if choice.lower() == LEAVE else computer.key(computer.parse(text))
        except PathError:
            return False
        return old not in self._lost and new in self._found()

    def _old(self, text: str) -> MachinePath:
        try:
            found = self._lost.get(self._finder.computer.key(self._finder.computer.parse(text)))
        except PathError:
            found = None
        if found is None:
            near = difflib.get_close_matches(text, [str(each) for each in self._lost.values()], n=1, cutoff=0.9)
            hint = f"; did you mean {near[0]}?" if near else ""
            raise ZestyError(f"no entry misses its file at {text!r} (any more){hint}")
        return found

    def _new(self, choice: str, row: Mapping[str, str]) -> MachinePath:
        text = choice
        if choice.isascii() and choice.isdigit():
            text = row.get(f"candidate {choice}", "")
            if not text:
                raise ZestyError(f"it chooses candidate {choice}, which the row does not have")
        try:
            seen = self._finder.find(self._finder.computer.parse(text))
        except PathError as error:
            expected = "the number of a candidate, a path, or leave"
            raise ZestyError(f"its choice is {choice!r}; expected {expected}") from error
        if seen.facts is None or not seen.facts.is_file:
            raise ZestyError(f"there is no file {text} any more" if text != choice else f"there is no file {text}")
        return seen.path


def undecided_of(matched: Sequence[Matched]) -> list[Matched]:
    """Those that a person must decide on: there are candidates, and none is sure."""
    return [each for each in matched if each.choice is None and each.candidates]
