"""Crates: folders that are valid bags by RFC 8493, filled, read back, and trusted only after a look."""

from .bag import DamagedCrate
from .crate import Crate, open_finished
from .create import create_crate
from .pack import Left, PackReport, Scope, pack, readable_size
from .verify import Verified, verify

__all__ = [
    "Crate",
    "DamagedCrate",
    "Left",
    "PackReport",
    "Scope",
    "Verified",
    "create_crate",
    "open_finished",
    "pack",
    "readable_size",
    "verify",
]
