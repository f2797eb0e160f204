"""Relinking in place that was killed: found by the crates that it keeps its originals in, and taken back."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from ..crate import Crate, name_of_owner, open_finished, remove_crate, remove_remains
from ..errors import halfway
from ..journal import Doer, Journal, Kind, Locations
from ..machines import Finder, Outside, Sheet, computer_of, lock_of_computer, one_at_a_time
from ..paths import Route
from ..plan import Move, open_move

ORIGINALS = "catalogs before relinking"  # what names the crates


def unfinished(folder: Path, sheet: Sheet, outside: Outside) -> list[Crate]:
    """The crates of relinkings of this computer that were begun and did not end."""
    found = []
    for crate in _crates(folder, sheet, outside):
        with _opened(crate, sheet, outside) as (_, journal):
            if journal is not None and any(not (step.ended or step.undone) for step in journal.steps()):
                found.append(crate)
    return found


def take_back(crate: Crate, sheet: Sheet, outside: Outside) -> None:
    """Take back what an unfinished relinking did; its crate, of which nothing is needed then, goes too."""
    with _opened(crate, sheet, outside) as (move, journal):
        if journal is None:
            return
        with move.at_work("zesty relink"), halfway():
            doer = Doer(move.contents, Locations(move.new), journal, move.outside, move.registry())
            for step in reversed([step for step in journal.steps() if not step.undone]):
                doer.undo(step)
    remove_crate(crate, outside.disk)


def tidy_up(folder: Path, sheet: Sheet, outside: Outside) -> None:
    """Remove what killed runs left and never used: surveys, and originals of catalogs that were not changed then."""
    if outside.disk.facts(folder) is None:
        return
    with one_at_a_time(lock_of_computer(computer_of(sheet)), sheet.part.computer.name, "zesty relink", outside):
        remove_remains(folder, sheet, outside)
        for crate in _crates(folder, sheet, outside, finished=False):
            remove_crate(crate, outside.disk)
        for crate in _crates(folder, sheet, outside):
            with _opened(crate, sheet, outside) as (_, journal):
                is_used = journal is not None and bool(journal.steps())
            if not is_used:
                remove_crate(crate, outside.disk)


def mover_of(folder: Path, route: Route, sheet: Sheet, outside: Outside) -> Crate | None:
    """The crate of the run that moved a folder by this very route, and was not undone."""
    computer = computer_of(sheet)
    finder, locations = Finder(computer, outside.disk), Locations(computer)
    now, before = locations.at(finder, route.new), locations.at(finder, route.old).path
    for crate in _crates(folder, sheet, outside):
        with _opened(crate, sheet, outside) as (_, journal):
            done = journal.history_at(now) if journal is not None else ()
            if any(action.kind is Kind.MOVE and action.source == before for action in done):
                return crate
    return None


def _crates(folder: Path, sheet: Sheet, outside: Outside, *, finished: bool = True) -> Iterator[Crate]:
    disk, whose = outside.disk, name_of_owner(sheet)
    for name in disk.names(folder) if disk.facts(folder) is not None else ():
        crate = Crate(folder / name)
        is_ours = name.startswith(whose) and ORIGINALS in name and disk.facts(crate.survey_path) is not None
        if is_ours and crate.is_finished(disk) is finished:
            yield crate


@contextmanager
def _opened(crate: Crate, sheet: Sheet, outside: Outside) -> Iterator[tuple[Move, Journal | None]]:
    """A crate's move to the computer that it is of, and its journal if there is one."""
    move = open_move(open_finished(crate.root, outside.disk), sheet, outside)
    with closing(move.survey):
        journal = Journal.open_existing(move.journal_path, outside)
        try:
            yield move, journal
        finally:
            if journal is not None:
                journal.close()
