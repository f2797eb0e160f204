"""The demo computers, made by code: the old and the new one of a travelling shadow theatre."""

from .layout import Demo, correct_sheet, lay_out

__all__ = [
    "Demo",
    "correct_sheet",
    "lay_out",
]
