"""Whether the old computer may be wiped, with the evidence. Nothing is ever deleted here."""

from .copies import Second
from .evidence import Evidence
from .retire import Removable, RetireReport, weigh

__all__ = [
    "Evidence",
    "Removable",
    "RetireReport",
    "Second",
    "weigh",
]
