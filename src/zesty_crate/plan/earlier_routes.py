"""Routes and decisions of an earlier move between the same two computers, from the crates beside this one."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from ..documents import DocumentError, parse_document
from ..errors import ZestyError
from ..paths import Route
from .decisions import Decision
from .document import PlanPart, read_plan
from .move import Move


def earlier_routes(move: Move) -> list[Route]:
    """The manual routes of the newest earlier plan; none when there is no such plan, or it cannot be read any more."""
    newest = max(_earlier_plans(move), key=lambda each: each[0], default=None)
    return newest[1] if newest else []


def earlier_decisions(move: Move) -> tuple[Decision, ...]:
    """The decisions of the newest earlier plan."""
    newest = max(_earlier_plans(move), key=lambda each: each[0], default=None)
    return newest[2] if newest else ()


def _earlier_plans(move: Move) -> Iterator[tuple[str, list[Route], tuple[Decision, ...]]]:
    disk, carrier = move.outside.disk, move.crate.root.absolute().parent
    for name in disk.names(carrier):
        path = carrier / name / move.own_folder / "plan.toml"
        if name == move.crate.name or disk.facts(path) is None:
            continue
        try:
            text = disk.read_text(path)
            head = parse_document(text, PlanPart, str(path)).plan
            if (head.from_computer, head.to_computer) == (move.old.name, move.new.name):
                why = f"as in the move of {head.made[:10]}, {head.crate}"
                plan = read_plan(text, str(path), move.old, move.new)
                yield head.made, [replace(each, why=why) for each in plan.routes if each.manual], plan.decisions
        except (DocumentError, ZestyError):
            continue  # an earlier plan is a help and no more
