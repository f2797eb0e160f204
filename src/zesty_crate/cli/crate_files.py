"""Crates that are given as one file: each is written out as a folder, which the command then works on."""

from __future__ import annotations

import argparse
from pathlib import Path

from .terminal import Terminal

_CRATES = ("crate", "since", "lacking_on", "other", "part")  # arguments that name crates, or lists of them


def open_crate_files(args: argparse.Namespace, terminal: Terminal) -> None:
    """Have folders in place of files among the arguments. Raises `ZestyError`."""
    for name in _CRATES:
        given = getattr(args, name, None)
        if isinstance(given, list):
            setattr(args, name, [_folder_of(each, args, terminal) for each in given])
        elif isinstance(given, Path):
            setattr(args, name, _folder_of(given, args, terminal))


def _folder_of(given: Path, args: argparse.Namespace, terminal: Terminal) -> Path:
    """The folder of a crate; anything but a crate as a file is given back as it is."""
    if not given.is_file():
        return given
    from ..crate import is_crate_file, open_one_file
    from ..machines import Disk

    disk = Disk()
    if given == getattr(args, "crate", None) and not is_crate_file(given, disk):
        from ..crate import tarfile_of

        tarfile_of(given, disk).close()  # which says what it is instead
    if not is_crate_file(given, disk):
        return given
    beside = getattr(args, "work", None) or given.parent
    with terminal.progress() as tell:
        folder = open_one_file(given, beside, disk, tell)
    terminal.tell(f"{given.name} is written out as {folder}.")
    return folder
