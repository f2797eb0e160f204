"""Whether the old computer may be wiped, with the evidence. Nothing is ever deleted here."""

from .retire import Evidence, Removable, RetireReport, Second, weigh

__all__ = [
    "Evidence",
    "Removable",
    "RetireReport",
    "Second",
    "weigh",
]
