"""Guides from evidence: documents told by content, fields that are paths because files say so, and a trial."""

from .draft import Drafter, draft_guide, drafter
from .model import Draft, DraftedEntries, Unexplained
from .not_covered import places_not_covered

__all__ = ["Draft", "DraftedEntries", "Drafter", "Unexplained", "draft_guide", "drafter", "places_not_covered"]
