"""Folders that are made when they are needed, and folders that are gone when they are not."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from pathlib import Path

from .disk import Disk


def make_folders(disk: Disk, folder: Path) -> None:
    """Make a folder and those above it that are missing."""
    missing = []
    while disk.facts(folder) is None:
        missing.append(folder)
        folder = folder.parent
    for each in reversed(missing):
        disk.make_folder(each)


@contextlib.contextmanager
def working_folder(disk: Disk, folder: Path) -> Iterator[Path]:
    """A folder for working copies, empty before and gone after; the system's temporary folder may be too small."""
    make_folders(disk, folder)
    _empty(disk, folder)
    try:
        yield folder
    finally:
        _empty(disk, folder)
        disk.remove_folder(folder)


def _empty(disk: Disk, folder: Path) -> None:
    for name in disk.names(folder):
        disk.remove(folder / name)
