"""Compare two computers, and write down what goes where before anything happens."""

from .document import Blocker, PlannedRoute, load_plan, read_routes
from .make import Baseline, Move, PlanReport, blockers_of_programs, current_blockers, make_plan, open_move
from .placements import Placement, Placements
from .propose import propose_routes
from .readiness import Readiness

__all__ = [
    "Baseline",
    "Blocker",
    "Move",
    "Placement",
    "Placements",
    "PlanReport",
    "PlannedRoute",
    "Readiness",
    "blockers_of_programs",
    "current_blockers",
    "load_plan",
    "make_plan",
    "open_move",
    "propose_routes",
    "read_routes",
]
