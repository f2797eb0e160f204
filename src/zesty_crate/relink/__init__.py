"""Repair recorded paths, and prove that nothing else changed."""

from .relink import RelinkedCatalog, RelinkReport, Untouched, relink

__all__ = ["RelinkReport", "RelinkedCatalog", "Untouched", "relink"]
