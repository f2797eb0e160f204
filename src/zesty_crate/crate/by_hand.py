"""What only a person can do: the steps of a move and their ticks, in a table that a spreadsheet opens.

``zesty/by-hand.csv`` is no part of the tag manifest: it is written long after the crate was finished.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

from ..errors import ZestyError
from ..machines import Disk
from ..survey import SurveyStore
from .crate import Crate

WHENS = ("before-pack", "before-unpack", "after-unpack", "after-check", "before-retire")
_COLUMNS = ("id", "when", "about", "do", "source", "gates", "done", "note")


class Wanted(NamedTuple):
    """A step that is asked for. ``source`` is ``guide``, ``survey``, or the new computer's name.

    ``about`` is the short name of what it concerns, mostly a program's. One that ``gates`` keeps the step of the work
    that it comes before from being taken.
    """

    when: str
    about: str
    do: str
    source: str
    gates: bool = False


@dataclass(frozen=True, slots=True)
class Step:
    """A step with its id, by which it is ticked off. ``done`` is the date in ISO 8601, empty while it is open."""

    id: str
    when: str
    about: str
    do: str
    source: str
    gates: bool
    done: str = ""
    note: str = ""

    @property
    def wanted(self) -> Wanted:
        """What is asked for, by which a step is known again."""
        return Wanted(self.when, self.about, self.do, self.source, self.gates)


def kept_steps(crate: Crate, disk: Disk) -> list[Step]:
    """The steps as the table has them. Raises `ZestyError` when it is no such table."""
    path = crate.by_hand_path
    if disk.facts(path) is None:
        return []
    rows = list(csv.reader(io.StringIO(disk.read_text(path), newline="")))
    if not rows or tuple(rows[0]) != _COLUMNS:
        raise ZestyError(
            f"{path} is not the table of steps: its columns are not {', '.join(_COLUMNS)}.",
            next_step="Put it aside; it is written anew, and its ticks are to be set again.",
        )
    return [_step(*row) for row in rows[1:] if len(row) == len(_COLUMNS)]


def _step(name: str, when: str, about: str, do: str, source: str, gates: str, done: str, note: str) -> Step:
    return Step(name, when, about, do, source, gates == "yes", done, note)


def keep_steps(crate: Crate, steps: Iterable[Step], disk: Disk) -> None:
    """Write the table."""
    stream = io.StringIO(newline="")
    writer = csv.writer(stream)
    writer.writerow(_COLUMNS)
    for each in steps:
        gates = "yes" if each.gates else "no"
        writer.writerow([each.id, each.when, each.about, each.do, each.source, gates, each.done, each.note])
    disk.write_text(crate.by_hand_path, "\ufeff" + stream.getvalue())


def with_ids(wanted: Iterable[Wanted], kept: Sequence[Step]) -> list[Step]:
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
        steps.setdefault(step.id, replace(step, source=each.source, gates=each.gates))
    return sorted(steps.values(), key=lambda step: WHENS.index(step.when) if step.when in WHENS else len(WHENS))


def guide_steps(survey: SurveyStore) -> list[Wanted]:
    """The steps that guides ask for; those before another step of the work gate it."""
    seats = {each["guide"]: each["seats"] for each in survey.about("programs") if each["seats"]}
    steps = []
    for each in survey.about("by-hand"):
        guide, when, do = each["guide"], each["when"], each["do"]
        if when == "before-retire" and guide in seats:
            do += f" (Its licence has {seats[guide]} in all.)"
        steps.append(Wanted(when, guide, do, "guide", when.startswith("before-")))
    return steps


def open_gates(crate: Crate, survey: SurveyStore, when: str, disk: Disk) -> list[Step]:
    """The steps that are to be done before something, and are not ticked off."""
    steps = with_ids(guide_steps(survey), kept_steps(crate, disk))
    return [each for each in steps if each.when == when and each.gates and not each.done]


def require_done(crate: Crate, survey: SurveyStore, when: str, disk: Disk) -> None:
    """Raise `ZestyError` while a step that gates something is not ticked off."""
    waiting = open_gates(crate, survey, when, disk)
    if waiting:
        raise ZestyError(
            f"Steps for a person come first, and are not ticked off: {len(waiting)}.",
            details=[f"{each.id}: {each.do}" for each in waiting],
            next_step=f'Do them, then tick each off: zesty todo "{crate.root}" --done {waiting[0].id}',
        )
