"""Paths for libraries that open files themselves: however long they are, and whatever their names are."""

from __future__ import annotations

from pathlib import Path

from .model import AnyPath
from .this import this_system


def reached(path: AnyPath) -> Path:
    """A path in the form in which this system takes it."""
    return Path(this_system().reach(path))
