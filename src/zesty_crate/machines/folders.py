"""Folders that are made when they are needed, and folders that are gone when they are not."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator
from pathlib import Path

from .disk import Disk
from .files import FileFacts
from .outside import Outside


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


@contextlib.contextmanager
def own_folder(outside: Outside, folder: Path, name: str) -> Iterator[Path]:
    """A working folder of this process in one that is shared with others; those of killed ones are cleared away."""
    disk = outside.disk
    make_folders(disk, folder)
    for each in disk.names(folder):
        number = each.removeprefix(f"{name}-")
        if number != each and number.isdigit() and not outside.processes.is_running(int(number)):
            _empty(disk, folder / each)
            disk.remove_folder(folder / each)
    with working_folder(disk, folder / f"{name}-{os.getpid()}") as own:
        yield own


def _empty(disk: Disk, folder: Path) -> None:
    for name, facts in disk.scan(folder).items():
        if isinstance(facts, FileFacts) and facts.kind == "folder":
            _empty(disk, folder / name)
            disk.remove_folder(folder / name)
        else:
            disk.remove(folder / name)
