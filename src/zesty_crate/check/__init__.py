"""Judge every entry on the new computer, before and after, and say why what is missing is missing."""

from .alone import check_alone, survey_aside
from .check import check
from .compare import ComparedHolding, CompareReport, Side, compare
from .model import CheckedHolding, CheckReport, Content, ContentRead, Figures, LabelsSeen, SinceHandOver, Surplus, Why
from .record import CheckRecord, last_change, last_check, read_record
from .sides import computer_side, crate_side

__all__ = [
    "CheckRecord",
    "CheckReport",
    "CheckedHolding",
    "CompareReport",
    "ComparedHolding",
    "Content",
    "ContentRead",
    "Figures",
    "LabelsSeen",
    "Side",
    "SinceHandOver",
    "Surplus",
    "Why",
    "check",
    "check_alone",
    "compare",
    "computer_side",
    "crate_side",
    "last_change",
    "last_check",
    "read_record",
    "survey_aside",
]
