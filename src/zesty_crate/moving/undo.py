"""Take back what a move did to the new computer, the newest step first."""

from __future__ import annotations

from contextlib import closing
from dataclasses import dataclass

from ..errors import ZestyError
from ..journal import Action, Doer, Journal, Spot, Spots, Stage, Step
from ..plan import Move


@dataclass(frozen=True, slots=True)
class UndoneStep:
    """A step that was, or would be, taken back."""

    name: str
    begun: str
    changes: int


@dataclass(frozen=True, slots=True)
class UndoReport:
    """What undoing came to. ``kept_folders`` were made by the move, and hold something else by now."""

    computer: str
    steps: tuple[UndoneStep, ...]
    kept_folders: tuple[str, ...]


def plan_undo(move: Move) -> UndoReport:
    """What `undo` would take back, the newest step first.

    Raises `ZestyError` when there is nothing, or when a person has changed since what would be taken back.
    """
    journal = Journal.open_existing(move.journal_path, move.outside)
    steps = _to_undo(journal) if journal else []
    if journal is None or not steps:
        raise ZestyError(
            f"Nothing of this crate stands on {move.new.name}, so there is nothing to take back.",
            next_step="See whether this is the right crate and the right computer.",
        )
    with closing(journal):
        doer = Doer(move.contents, Spots(move.new), journal, move.outside)
        changed = [f"{action.spot}: {why}" for action in _latest(journal, steps) if (why := doer.changed_since(action))]
        if changed:
            raise ZestyError(
                f"Files on {move.new.name} that were changed since, which undoing would lose: {len(changed)}.",
                details=changed,
                next_step="Move them elsewhere, then run zesty undo again.",
            )
        return UndoReport(move.new.name, tuple(_described(journal, step) for step in steps), ())


def undo(move: Move) -> UndoReport:
    """Take back every step that stands."""
    with closing(Journal.open(move.journal_path, move.outside)) as journal:
        doer = Doer(move.contents, Spots(move.new), journal, move.outside)
        done, kept = [], []
        for step in _to_undo(journal):
            done.append(_described(journal, step))
            kept += doer.undo(step)
        return UndoReport(move.new.name, tuple(done), tuple(kept))


def _to_undo(journal: Journal) -> list[Step]:
    return [step for step in reversed(journal.steps()) if not step.undone]


def _described(journal: Journal, step: Step) -> UndoneStep:
    changes = sum(1 for _ in journal.actions(step, Stage.INTENDED, Stage.DONE))
    return UndoneStep(step.name, step.begun, changes)


def _latest(journal: Journal, steps: list[Step]) -> list[Action]:
    """Of each spot, the action that made what is there now."""
    latest: dict[Spot, Action] = {}
    for step in steps:
        for action in journal.actions(step, Stage.INTENDED, Stage.DONE, newest_first=True):
            latest.setdefault(action.spot, action)
    return list(latest.values())
