"""The demo computers, made by code: the old and the new one of a travelling shadow theatre."""

from .layout import Demo, lay_out

__all__ = ["Demo", "lay_out"]
