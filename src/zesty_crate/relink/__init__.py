"""Repair recorded paths, and prove that nothing else changed."""

from .alone import catalogs_concerned, find_routes
from .evidence import Displaced, Doubt, Evidence, FoundRoute, Searcher
from .registrations import Merging, Registrations
from .relink import RelinkedCatalog, RelinkReport, Untouched, relink, relink_in_place
from .targets import Explained

__all__ = [
    "Displaced",
    "Doubt",
    "Evidence",
    "Explained",
    "FoundRoute",
    "Merging",
    "Registrations",
    "RelinkReport",
    "RelinkedCatalog",
    "Searcher",
    "Untouched",
    "catalogs_concerned",
    "find_routes",
    "relink",
    "relink_in_place",
]
