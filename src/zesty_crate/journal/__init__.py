"""The journal: what is about to be done is written down first, so that it can be resumed and undone."""

from .doer import Doer
from .journal import Journal
from .model import NOTHING, Action, Kind, Spot, Stage, Step
from .registry import digest_of
from .spots import Spots

__all__ = ["NOTHING", "Action", "Doer", "Journal", "Kind", "Spot", "Spots", "Stage", "Step", "digest_of"]
