"""New texts for recorded paths that a catalog keeps in several pieces, some of them shared by many entries."""

from .decide import PathDecider

__all__ = [
    "PathDecider",
]
