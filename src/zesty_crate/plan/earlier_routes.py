"""Routes and decisions of an earlier move between the same two computers, from the crates beside this one.

A move the other way counts too: its routes lead back, and what was decided without regard to a side holds again.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from ..documents import DocumentError, parse_document
from ..errors import ZestyError
from ..machines import Computer
from ..paths import Route
from .decisions import Choice, Decision
from .document import PlanPart, read_plan
from .move import Move

_WITHOUT_A_SIDE = (Choice.MERGE, Choice.NEWER, Choice.BOTH)


@dataclass(frozen=True, slots=True)
class EarlierPlan:
    """What a person asked for in the newest earlier plan; nothing where there is none."""

    made: str = ""
    routes: tuple[Route, ...] = ()
    decisions: tuple[Decision, ...] = ()


def newest_earlier_plan(move: Move) -> EarlierPlan:
    """The newest earlier plan between the two computers; one that cannot be read any more is none."""
    there, back = _plans(move, move.old, move.new), _plans(move, move.new, move.old)
    found = [*there, *(_turned(each) for each in back)]
    return max(found, key=lambda each: each.made, default=EarlierPlan())


def _plans(move: Move, old: Computer, new: Computer) -> Iterator[EarlierPlan]:
    disk, carrier = move.outside.disk, move.crate.root.absolute().parent
    own = move.own_folder if new is move.new else f"moves/{new.name}"
    for name in disk.names(carrier):
        path = carrier / name / own / "plan.toml"
        if name == move.crate.name or disk.facts(path) is None:
            continue
        try:
            text = disk.read_text(path)
            head = parse_document(text, PlanPart, str(path)).plan
            if (head.from_computer, head.to_computer) == (old.name, new.name):
                why = f"as in the move of {head.made[:10]}, {head.crate}"
                plan = read_plan(text, str(path), old, new)
                manual = tuple(replace(each, why=why) for each in plan.routes if each.manual)
                yield EarlierPlan(head.made, manual, tuple(plan.decisions))
        except (DocumentError, ZestyError):
            continue  # an earlier plan is a help and no more


def _turned(plan: EarlierPlan) -> EarlierPlan:
    """The same for the other way."""
    routes = (Route(each.new, each.old, f"back, {each.why}", manual=True) for each in plan.routes)
    decisions = (each for each in plan.decisions if each.choice in _WITHOUT_A_SIDE)
    return EarlierPlan(plan.made, tuple(routes), tuple(decisions))
