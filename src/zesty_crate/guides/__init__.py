"""Guides: what a program keeps, and where. One language for the guides that ship and for a technician's own."""

from .also import ALSO, also_guide
from .entries import (
    FIELD,
    AttachedPart,
    CopyPart,
    CounterPart,
    DimensionsPart,
    DurationPart,
    EntriesPart,
    GroupsPart,
    MembersPart,
    NumberedPart,
    PiecePart,
    SiblingPart,
)
from .guide import (
    FactoryPatterns,
    Guide,
    Holding,
    find_guides,
    first_start,
    holdings_on,
    is_pattern,
    is_running,
    load_guides,
    places_on,
    shipped_guides,
)
from .kinds import HoldingKind
from .model import HoldingPart, LayerPart, NamedByPart, StartPart, ToldByPart, WholeGuide
from .versions import program_tables

__all__ = [
    "ALSO",
    "FIELD",
    "AttachedPart",
    "CopyPart",
    "CounterPart",
    "DimensionsPart",
    "DurationPart",
    "EntriesPart",
    "FactoryPatterns",
    "GroupsPart",
    "Guide",
    "Holding",
    "HoldingKind",
    "HoldingPart",
    "LayerPart",
    "MembersPart",
    "NamedByPart",
    "NumberedPart",
    "PiecePart",
    "SiblingPart",
    "StartPart",
    "ToldByPart",
    "WholeGuide",
    "also_guide",
    "find_guides",
    "first_start",
    "holdings_on",
    "is_pattern",
    "is_running",
    "load_guides",
    "places_on",
    "program_tables",
    "shipped_guides",
]
