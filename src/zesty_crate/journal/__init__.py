"""The journal: what is about to be done is written down first, so that it can be resumed and undone."""

from .doer import Doer
from .journal import Journal
from .locations import Locations
from .model import NOTHING, Action, Kind, Location, Stage, Step
from .parts import SAME_AS
from .registry import digest_of

__all__ = [
    "NOTHING",
    "SAME_AS",
    "Action",
    "Doer",
    "Journal",
    "Kind",
    "Location",
    "Locations",
    "Stage",
    "Step",
    "digest_of",
]
