"""Guides put to the test: their mistakes, what they find on a computer, and whether their catalogs could move."""

from .lint import Mistake, lint, lint_on
from .rehearsal import RehearsalReport, RehearsedDocument, RehearsedMove, rehearse
from .sources import KnownGuide, guide_named, known_guides
from .trial import TrialReport, TriedDocument, TriedEntry, TriedHolding, try_guide

__all__ = [
    "KnownGuide",
    "Mistake",
    "RehearsalReport",
    "RehearsedDocument",
    "RehearsedMove",
    "TrialReport",
    "TriedDocument",
    "TriedEntry",
    "TriedHolding",
    "guide_named",
    "known_guides",
    "lint",
    "lint_on",
    "rehearse",
    "try_guide",
]
