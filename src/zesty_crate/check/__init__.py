"""Judge every entry on the new computer, before and after, and say why what is missing is missing."""

from .check import CheckedHolding, CheckReport, check

__all__ = ["CheckReport", "CheckedHolding", "check"]
