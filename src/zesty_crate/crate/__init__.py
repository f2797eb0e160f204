"""Crates: folders that are valid bags by RFC 8493, filled, read back, and trusted only after a look."""

from .bag import DamagedCrate
from .carriers import Targets
from .crate import Crate, open_finished
from .create import create_crate
from .filling import Left
from .pack import PackedPart, PackReport, pack
from .records import LeftOut, readable_size
from .room import PartRoom, Room
from .scope import USUAL_CLASSES, Scope
from .verify import Verified, verify

__all__ = [
    "USUAL_CLASSES",
    "Crate",
    "DamagedCrate",
    "Left",
    "LeftOut",
    "PackReport",
    "PackedPart",
    "PartRoom",
    "Room",
    "Scope",
    "Targets",
    "Verified",
    "create_crate",
    "open_finished",
    "pack",
    "readable_size",
    "verify",
]
