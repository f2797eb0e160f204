"""What only a person can do: the steps of a move and their ticks, in a table that a spreadsheet opens.

``zesty/manual-steps.csv`` is not in the tag manifest, because it is written after the crate is finished.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import chain
from typing import NamedTuple

from ..errors import ZestyError
from ..machines import Disk
from ..spreadsheets import cell_text, write_rows
from ..survey import SurveyStore
from .crate import Crate

WHENS = ("before-pack", "before-unpack", "after-unpack", "after-check", "before-retire")
_COLUMNS = ("id", "when", "about", "do", "source", "gates", "who", "done", "note")


class RequestedStep(NamedTuple):
    """A step that a person must do: ``who``, the technician or the customer.

    ``source`` is ``guide``, ``survey``, or the name of the new computer. ``about`` is the short name of what the step
    concerns, usually a program. A step that ``gates`` must be done before the command that it precedes can run.
    """

    when: str
    about: str
    do: str
    source: str
    gates: bool = False
    who: str = "technician"


@dataclass(frozen=True, slots=True)
class Step:
    """A step with its id, by which it is marked done. ``done`` is the date in ISO 8601, empty while it is open."""

    id: str
    when: str
    about: str
    do: str
    source: str
    gates: bool
    who: str = "technician"
    done: str = ""
    note: str = ""

    @property
    def request(self) -> RequestedStep:
        """What is asked for, by which a step is known again."""
        return RequestedStep(self.when, self.about, self.do, self.source, self.gates, self.who)


def kept_steps(crate: Crate, disk: Disk) -> list[Step]:
    """The steps as the table has them. Raises `ZestyError` when it is no such table."""
    path = crate.manual_steps_path
    if disk.facts(path) is None:
        return []
    rows = list(csv.reader(io.StringIO(disk.read_text(path), newline="")))
    if not rows or tuple(rows[0]) != _COLUMNS:
        raise ZestyError(
            f"{path} is not the table of manual steps: its columns are not {', '.join(_COLUMNS)}.",
            next_step="Move it elsewhere; a new table is written, and its steps must be ticked again.",
        )
    return [_step(*map(cell_text, row)) for row in rows[1:] if len(row) == len(_COLUMNS)]


def _step(name: str, when: str, about: str, do: str, source: str, gates: str, *more: str) -> Step:
    return Step(name, when, about, do, source, gates == "yes", *more)


def keep_steps(crate: Crate, steps: Iterable[Step], disk: Disk) -> None:
    """Write the table."""
    stream = io.StringIO(newline="")
    rows = (
        [
            each.id,
            each.when,
            each.about,
            each.do,
            each.source,
            "yes" if each.gates else "no",
            each.who,
            each.done,
            each.note,
        ]
        for each in steps
    )
    write_rows(stream, chain([_COLUMNS], rows))
    disk.write_text(crate.manual_steps_path, "\ufeff" + stream.getvalue())


def with_ids(wanted: Iterable[RequestedStep], kept: Sequence[Step]) -> list[Step]:
    """The steps that are asked for, with the ids and ticks that they have already; new ones get the next number."""
    known = {(each.when, each.about, each.do): each for each in kept}
    taken = {each.id for each in kept}
    steps: dict[str, Step] = {}
    for each in wanted:
        step = known.get((each.when, each.about, each.do))
        if step is None:
            number = 1
            while f"{each.about}-{number}" in taken:
                number += 1
            step = Step(f"{each.about}-{number}", *each)
            taken.add(step.id)
        steps.setdefault(step.id, replace(step, source=each.source, gates=each.gates, who=each.who))
    return sorted(steps.values(), key=lambda step: WHENS.index(step.when) if step.when in WHENS else len(WHENS))


def guide_steps(survey: SurveyStore) -> list[RequestedStep]:
    """The steps that guides ask for; those before another step of the work gate it."""
    programs = survey.about("programs")
    seats = {each["guide"]: seats_of(each["seats"], each["seats_used"]) for each in programs if each["seats"]}
    steps = []
    for each in survey.about("manual-steps"):
        guide, when, do = each["guide"], each["when"], each["do"]
        if when == "before-retire" and guide in seats:
            do += f" (Its license has {seats[guide]}.)"
        steps.append(RequestedStep(when, guide, do, "guide", when.startswith("before-"), each["who"]))
    return steps


def seats_of(seats: int, used: int | None) -> str:
    """The seats of a license, with how many are in use where a sheet tells."""
    number = "1 seat" if seats == 1 else f"{seats} seats"
    return number if used is None else f"{number}, {used} in use"


def open_gates(crate: Crate, survey: SurveyStore, when: str, disk: Disk) -> list[Step]:
    """The steps that must be done before something, and are not marked done."""
    steps = with_ids(guide_steps(survey), kept_steps(crate, disk))
    return [each for each in steps if each.when == when and each.gates and not each.done]


def require_done(crate: Crate, survey: SurveyStore, when: str, disk: Disk) -> None:
    """Raise `ZestyError` while a step that gates something is not marked done."""
    waiting = open_gates(crate, survey, when, disk)
    if waiting:
        raise ZestyError(
            f"Manual steps that must come first are not ticked off: {len(waiting)}.",
            details=[f"{each.id}: {each.do}" for each in waiting],
            next_step=f'Do them, then tick each off: zesty todo "{crate.root}" --done {waiting[0].id}',
        )
