"""Crates: folders that are valid bags by RFC 8493, filled, read back, and trusted only after a look."""

from .bag import DamagedCrate
from .crate import Crate, open_finished
from .create import create_crate
from .pack import Left, LeftOut, PackReport, pack, readable_size
from .room import Room
from .scope import USUAL_CLASSES, Scope
from .verify import Verified, verify

__all__ = [
    "USUAL_CLASSES",
    "Crate",
    "DamagedCrate",
    "Left",
    "LeftOut",
    "PackReport",
    "Room",
    "Scope",
    "Verified",
    "create_crate",
    "open_finished",
    "pack",
    "readable_size",
    "verify",
]
