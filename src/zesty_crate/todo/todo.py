"""The list of steps for a person, and ticking them off."""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from ..crate import Crate, RequestedStep, Step, guide_steps, keep_steps, kept_steps, with_ids
from ..errors import ZestyError
from ..machines import DiskError, Outside
from ..plan import Move
from ..survey import SurveyStore, faults_of_survey, summarize
from .of_move import steps_of_move
from .of_survey import steps_of_survey


@dataclass(frozen=True, slots=True)
class TodoReport:
    """All steps in the order of the work; ``ticked`` are the ids of those that were ticked, or unticked, just now."""

    crate: str
    steps: tuple[Step, ...]
    ticked: tuple[str, ...] = ()

    @property
    def open(self) -> tuple[Step, ...]:
        """What is still to be done."""
        return tuple(step for step in self.steps if not step.done)


def list_steps(crate: Crate, survey: SurveyStore, outside: Outside, move: Move | None = None) -> TodoReport:
    """The steps as they are now; those of a move are asked for anew when one is given, and else as they were kept."""
    kept = kept_steps(crate, outside.disk)
    with faults_of_survey(str(crate.survey_path)):
        wanted = [*guide_steps(survey), *steps_of_survey(summarize(survey), crate, outside.disk)]
    wanted += steps_of_move(move) if move else _of_moves(kept)
    wanted += [each.request for each in kept if each.done]  # what was done stays told, though nothing asks for it now
    return TodoReport(str(crate.root), tuple(with_ids(wanted, kept)))


def refresh_steps(move: Move) -> TodoReport:
    """Ask for the steps anew, and keep them, unless the carrier takes nothing and the move's records are elsewhere."""
    report = list_steps(move.crate, move.survey, move.outside, move)
    try:
        keep_steps(move.crate, report.steps, move.outside.disk)
    except DiskError:
        if move.work is None:
            raise
    return report


def tick(
    report: TodoReport,
    crate: Crate,
    outside: Outside,
    *,
    done: Sequence[str] = (),
    undone: Sequence[str] = (),
    note: str = "",
) -> TodoReport:
    """Tick steps off with today's date, or take ticks back. Raises `ZestyError` for ids that there are not."""
    known = [step.id for step in report.steps]
    for each in (*done, *undone):
        if each not in known:
            near = difflib.get_close_matches(each, known, n=1)
            hint = f"Did you mean {near[0]}?" if near else "zesty todo lists the steps with their ids."
            raise ZestyError(f"There is no step {each!r}.", next_step=hint)
    today = outside.clock.now().date().isoformat()
    steps = tuple(_ticked(step, done, undone, today, note) for step in report.steps)
    keep_steps(crate, steps, outside.disk)
    return replace(report, steps=steps, ticked=(*done, *undone))


def _ticked(step: Step, done: Sequence[str], undone: Sequence[str], today: str, note: str) -> Step:
    if step.id in done:
        return replace(step, done=today, note=note or step.note)
    return replace(step, done="", note=note) if step.id in undone else step


def _of_moves(kept: Iterable[Step]) -> list[RequestedStep]:
    return [each.request for each in kept if each.source not in ("guide", "survey")]
