"""What this very move has placed by an earlier plan, and where the plan of now would not have it."""

from __future__ import annotations

from contextlib import closing

from ..journal import Journal
from ..paths import RouteMap
from .move import Move
from .placements import Placements


def placed_elsewhere(move: Move, routes: RouteMap) -> int:
    """How many files the last unpacking placed where ``routes`` do not lead: they stay there until it is undone."""
    journal = Journal.open_existing(move.journal_path, move.outside)
    if journal is None:
        return 0
    with closing(journal):
        unpacked = [step for step in journal.standing("unpack") if step.ended]
    if not unpacked:
        return 0
    before = move.arrangement(unpacked[-1].note).routes
    if before.lines() == routes.lines():
        return 0
    then, now = (Placements(move.survey, move.old, each).files() for each in (before, routes))
    return sum(one.new is not None and one.new != other.new for one, other in zip(then, now, strict=True))
