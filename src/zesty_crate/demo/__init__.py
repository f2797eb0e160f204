"""The demo computers, made by code: the old and the new one of a travelling shadow theatre."""

from .layout import Demo, correct_guide, correct_sheet, first_guide, lay_out

__all__ = [
    "Demo",
    "correct_guide",
    "correct_sheet",
    "first_guide",
    "lay_out",
]
