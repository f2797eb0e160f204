"""Judge every entry on the new computer, before and after, and say why what is missing is missing."""

from .alone import check_alone, survey_aside
from .check import CheckedHolding, CheckReport, check
from .compare import ComparedHolding, CompareReport, Side, compare

__all__ = [
    "CheckReport",
    "CheckedHolding",
    "CompareReport",
    "ComparedHolding",
    "Side",
    "check",
    "check_alone",
    "compare",
    "survey_aside",
]
