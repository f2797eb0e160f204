"""Judge every entry on the new computer, before and after, and say why what is missing is missing."""

from .check import check
from .compare import ComparedHolding, CompareReport, Side, compare
from .compared_sides import computer_side, crate_side
from .model import (
    RESIDUE,
    AttributesCompared,
    CheckedDocument,
    CheckedHolding,
    CheckReport,
    Content,
    ContentRead,
    Figures,
    Residue,
    ResidueKind,
    Searched,
    SinceHandOver,
    Surplus,
    SurplusReason,
)
from .one_computer import check_computer, survey_aside
from .record import CheckRecord, last_change, last_check, read_record

__all__ = [
    "RESIDUE",
    "AttributesCompared",
    "CheckRecord",
    "CheckReport",
    "CheckedDocument",
    "CheckedHolding",
    "CompareReport",
    "ComparedHolding",
    "Content",
    "ContentRead",
    "Figures",
    "Residue",
    "ResidueKind",
    "Searched",
    "Side",
    "SinceHandOver",
    "Surplus",
    "SurplusReason",
    "check",
    "check_computer",
    "compare",
    "computer_side",
    "crate_side",
    "last_change",
    "last_check",
    "read_record",
    "survey_aside",
]
