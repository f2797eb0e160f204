"""Repair recorded paths, and prove that nothing else changed."""

from .registrations import Merging, Registrations
from .relink import RelinkedCatalog, RelinkReport, Untouched, relink

__all__ = ["Merging", "Registrations", "RelinkReport", "RelinkedCatalog", "Untouched", "relink"]
