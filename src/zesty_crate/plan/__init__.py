"""Compare two computers, and write down what goes where before anything happens."""

from .arrangement import Arrangement
from .blockers import blockers_of_programs, current_blockers, programs_of
from .conflicts import Conflict, Version, date_of
from .decisions import Choice, Decision
from .differences import Difference
from .document import Blocker, PlanFile, PlannedRoute, load_plan, read_plan
from .followers import followers, named_by
from .inspect import is_same
from .make import Baseline, PlanReport, make_plan
from .move import Move, open_move
from .placements import Placement, Placements
from .propose import propose_routes
from .readiness import Readiness
from .supplied import Supplied, supplied_content
from .there_before import note_there_before, there_before
from .wishes import Wishes, given_route

__all__ = [
    "Arrangement",
    "Baseline",
    "Blocker",
    "Choice",
    "Conflict",
    "Decision",
    "Difference",
    "Move",
    "Placement",
    "Placements",
    "PlanFile",
    "PlanReport",
    "PlannedRoute",
    "Readiness",
    "Supplied",
    "Version",
    "Wishes",
    "blockers_of_programs",
    "current_blockers",
    "date_of",
    "followers",
    "given_route",
    "is_same",
    "load_plan",
    "make_plan",
    "named_by",
    "note_there_before",
    "open_move",
    "programs_of",
    "propose_routes",
    "read_plan",
    "supplied_content",
    "there_before",
]
