"""New texts for recorded paths that a catalog keeps in several pieces, some of them shared by many entries."""

from .branches import Branches
from .by_folder import DecidedFolders
from .decide import PathDecider
from .deciding import Decided, Unsayable, decided, unsayable
from .meaning import prove_meaning
from .rewriting import CarriedCatalog, relinked_copy
from .targets import ALL_NAMES, Destinations, Target, Targets, always_told, keys_around, part_there

__all__ = [
    "ALL_NAMES",
    "Branches",
    "CarriedCatalog",
    "Decided",
    "DecidedFolders",
    "Destinations",
    "PathDecider",
    "Target",
    "Targets",
    "Unsayable",
    "always_told",
    "decided",
    "keys_around",
    "part_there",
    "prove_meaning",
    "relinked_copy",
    "unsayable",
]
