"""Crates that go away: whole ones that nobody needs any more, and what killed surveys left of theirs."""

from __future__ import annotations

import contextlib
from pathlib import Path

from ..machines import BusyError, Disk, Outside, Sheet, one_at_a_time
from .bag import TAG_MANIFEST
from .crate import Crate
from .create import name_of_owner, survey_lock


def remove_crate(crate: Crate, disk: Disk) -> None:
    """Remove a whole crate. Its last manifest goes first, so that what is left, if this stops, is not taken for one."""
    disk.remove(crate.root / TAG_MANIFEST)
    disk.flush(crate.root)
    _remove_folder(crate.root, disk)


def remove_remains(folder: Path, sheet: Sheet, outside: Outside) -> None:
    """Remove what killed surveys of this computer and user left in a folder of crates: crates without a survey, locks.

    What another run is making just now stays.
    """
    disk, whose = outside.disk, name_of_owner(sheet)
    names = disk.names(folder)
    locked = {name[1:].removesuffix(".json").removesuffix(".lock") for name in names if name.startswith(f".{whose}")}
    for name in sorted(locked | {name for name in names if name.startswith(whose)}):
        crate = Crate(folder / name)
        with contextlib.suppress(BusyError), one_at_a_time(survey_lock(crate), name, "zesty survey", outside):
            if _is_remains(crate, disk):
                _remove_folder(crate.root, disk)


def _is_remains(crate: Crate, disk: Disk) -> bool:
    facts = disk.facts(crate.root)
    if facts is None or facts.kind != "folder" or set(disk.names(crate.root)) - {crate.own.name}:
        return False
    return disk.facts(crate.survey_path) is None and disk.facts(crate.about_path) is None


def _remove_folder(folder: Path, disk: Disk) -> None:
    for name in disk.names(folder):
        facts = disk.facts(folder / name)
        if facts is not None and facts.kind == "folder":
            _remove_folder(folder / name, disk)
        else:
            disk.remove(folder / name)
    disk.remove_folder(folder)
