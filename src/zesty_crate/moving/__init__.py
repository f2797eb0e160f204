"""Put things into their place on a computer, and take them back."""

from .counts import UnpackReport
from .replacing import Replacer
from .undo import UndoneStep, UndoReport, plan_undo, undo
from .unpack import Blocked, count_unpack, prepare_unpack, unpack

__all__ = [
    "Blocked",
    "Replacer",
    "UndoReport",
    "UndoneStep",
    "UnpackReport",
    "count_unpack",
    "plan_undo",
    "prepare_unpack",
    "undo",
    "unpack",
]
