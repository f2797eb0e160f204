"""Guides: what a program keeps, and where. One language for the guides that ship and for a technician's own."""

from .guide import FactoryPatterns, Guide, Holding, holdings_on, load_guides, places_on, shipped_guides
from .model import EntriesPart, GroupsPart, HoldingPart, PiecePart, WholeGuide

__all__ = [
    "EntriesPart",
    "FactoryPatterns",
    "GroupsPart",
    "Guide",
    "Holding",
    "HoldingPart",
    "PiecePart",
    "WholeGuide",
    "holdings_on",
    "load_guides",
    "places_on",
    "shipped_guides",
]
