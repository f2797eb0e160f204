"""Repair recorded paths, and prove that nothing else changed."""

from .clues import Lost
from .decision_table import read_decisions, undecided_of, write_undecided
from .destinations import Explained, Rehomed
from .evidence import Doubt, Evidence, FoundRoute, Searcher
from .find_routes import Given, catalogs_concerned, find_routes, found_files, lost_files
from .foresee import LeftBehind, left_behind
from .matching import Candidate, Matched
from .model import RelinkedCatalog, RelinkReport, Untouched
from .registrations import Merging, Registrations
from .rehome import Leading, leading_into, rehome, rehome_route
from .relink import relink, relink_in_place
from .unfinished import ORIGINALS, mover_of, take_back, tidy_up, unfinished

__all__ = [
    "ORIGINALS",
    "Candidate",
    "Doubt",
    "Evidence",
    "Explained",
    "FoundRoute",
    "Given",
    "Leading",
    "LeftBehind",
    "Lost",
    "Matched",
    "Merging",
    "Registrations",
    "Rehomed",
    "RelinkReport",
    "RelinkedCatalog",
    "Searcher",
    "Untouched",
    "catalogs_concerned",
    "find_routes",
    "found_files",
    "leading_into",
    "left_behind",
    "lost_files",
    "mover_of",
    "read_decisions",
    "rehome",
    "rehome_route",
    "relink",
    "relink_in_place",
    "take_back",
    "tidy_up",
    "undecided_of",
    "unfinished",
    "write_undecided",
]
