"""Judge every entry on the new computer, before and after, and say why what is missing is missing."""

from .alone import check_alone
from .check import CheckedHolding, CheckReport, check

__all__ = ["CheckReport", "CheckedHolding", "check", "check_alone"]
