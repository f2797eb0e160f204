"""Undo what a move did to the new computer, the newest step first."""

from __future__ import annotations

import logging
from contextlib import closing
from dataclasses import dataclass

from ..errors import ZestyError, halfway
from ..journal import Doer, Journal, Location, Locations, Stage, Step
from ..machines.moments import to_the_second
from ..plan import EarlierMoves, Move

_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class UndoneStep:
    """A step that was, or would be, taken back."""

    name: str
    begun: str
    changes: int


@dataclass(frozen=True, slots=True)
class UndoReport:
    """What undoing came to. ``kept_folders`` were made by the move, and hold something else by now.

    ``left`` was changed since and is left as it is, each with the reason; ``gone`` was not there any more.
    It ``is_recorded`` unless the carrier takes nothing; its journal then still lists what was undone.
    """

    computer: str
    steps: tuple[UndoneStep, ...]
    kept_folders: tuple[str, ...]
    left: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()
    is_recorded: bool = True


ALL, LAST = "all", "last"


def plan_undo(move: Move, what: str = ALL, *, leave_changed: bool = False) -> UndoReport:
    """The steps that `undo` would undo, the newest step first: ``all`` steps, the ``last`` one, or one by its name.

    Raises `ZestyError` when there is nothing, when a later step depends on a named one, or when a person has changed
    since what would be undone, unless that is to be left (``leave_changed``).
    """
    journal = Journal.open_existing(move.journal_path, move.outside)
    steps = _to_undo(journal, what) if journal else []
    if journal is None or not steps:
        named = "Nothing" if what in (ALL, LAST) else f"No step {what}"
        raise ZestyError(
            f"{named} of this crate was done on {move.new.name}, so there is nothing to undo.",
            next_step="Check that this is the right crate and the right computer.",
        )
    with closing(journal):
        with EarlierMoves(move) as others:
            later = others.later_than(journal)
        if later is not None:
            raise ZestyError(
                f"A later move, of the crate {later.crate}, changed files that this one placed.",
                next_step=f"Undo that one first: zesty undo with the crate {later.crate}.",
            )
        doer = Doer(move.contents, Locations(move.new), journal, move.outside, move.registry())
        changed, gone = _changed(journal, doer, steps)
        if changed and not leave_changed:
            raise ZestyError(
                f"Files on {move.new.name} that were changed since and would be lost: {len(changed)}.",
                details=_lines(changed),
                next_step="Move them elsewhere and run zesty undo again, or leave them with --leave-what-changed.",
            )
        described = tuple(_described(journal, step) for step in steps)
        return UndoReport(move.new.name, described, (), _lines(changed), gone)


def undo(move: Move, what: str = ALL) -> UndoReport:
    """Undo the steps that `plan_undo` lists. What was changed since is left as it is."""
    with closing(Journal.open_to_undo(move.journal_path, move.outside)) as journal, move.at_work("zesty undo"):
        doer = Doer(move.contents, Locations(move.new), journal, move.outside, move.registry())
        steps = _to_undo(journal, what)
        changed, gone = _changed(journal, doer, steps)
        done, kept = [], []
        for step in steps:
            done.append(_described(journal, step))
            _log.info("undoing step %s of %s", step.name, step.begun)
            with halfway():
                kept += doer.undo(step, changed)
        return UndoReport(move.new.name, tuple(done), tuple(kept), _lines(changed), gone, journal.is_recorded)


def _changed(journal: Journal, doer: Doer, steps: list[Step]) -> tuple[dict[Location, str], tuple[str, ...]]:
    """What a person changed since, each with the reason, and what is not there any more."""
    changed: dict[Location, str] = {}
    gone: list[str] = []
    for action in journal.newest(steps, Stage.INTENDED, Stage.DONE):
        if why := doer.changed_since(action):
            changed[action.location] = why
        elif doer.is_gone(action):
            gone.append(str(action.location))
    return changed, tuple(gone)


def _lines(changed: dict[Location, str]) -> tuple[str, ...]:
    return tuple(f"{location}: {why}" for location, why in changed.items())


def _to_undo(journal: Journal, what: str) -> list[Step]:
    standing = [step for step in reversed(journal.steps()) if not step.undone]
    if what == ALL:
        return standing
    if what == LAST:
        return standing[:1]
    if standing and what != standing[0].name and any(step.name == what for step in standing):
        raise ZestyError(
            f"The step {what} cannot be undone before the later step {standing[0].name}.",
            next_step=f"Undo {standing[0].name} first, or everything with zesty undo.",
        )
    return [step for step in standing[:1] if step.name == what]


def _described(journal: Journal, step: Step) -> UndoneStep:
    return UndoneStep(step.name, to_the_second(step.begun), journal.count(step, Stage.INTENDED, Stage.DONE))
