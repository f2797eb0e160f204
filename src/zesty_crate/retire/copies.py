"""The crate itself and its second copy: both are read back, and one is not taken for the other."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from ..crate import Crate, DamagedCrate, open_finished, verify
from ..errors import ZestyError
from ..machines import Disk
from ..progress import Tell
from .evidence import Evidence, holds, is_open

_TAGS = "tagmanifest-sha512.txt"


@dataclass(frozen=True, slots=True)
class Second:
    """What is said about a second copy: the folder it is in, or that none is wanted."""

    folder: Path | None = None
    declined: bool = False


def crate_is_whole(crate: Crate, disk: Disk, tell: Tell) -> Evidence:
    """Read the crate back."""
    try:
        read = verify(crate, disk, tell, "reading the crate")
    except (DamagedCrate, ZestyError) as error:
        step = "Use its second copy, or pack again while the old computer is there."
        return is_open("the crate", error.message, step, error.details[:100])
    return holds("the crate", f"read back now: {read.files:,} files, identical to what was packed")


def second_copy(crate: Crate, second: Second, disk: Disk, tell: Tell) -> Evidence:
    """A second copy is another folder with the same records, and its content is read back."""
    about = "a second copy"
    written = crate.about(disk).get("second-copy")
    if second.folder is None and second.declined:
        return holds(about, "declined: --no-second-copy")
    if second.folder is None and not written:
        step = "Name it with --second-copy DIR, or use --no-second-copy."
        return is_open(about, "none is known; the files on the new computer would be the only copy", step)
    folder = second.folder or Path(str(written))
    place = next((each for each in (folder, folder / crate.name) if disk.facts(each / _TAGS)), None)
    step = "Connect its carrier, and name its folder with --second-copy DIR."
    if place is None:
        return is_open(about, f"there is no crate in {folder}", step)
    if disk.is_same(place / _TAGS, crate.root / _TAGS):
        return is_open(about, f"{place} is this crate itself, and no copy of it", step)
    if disk.read_bytes(place / _TAGS) != disk.read_bytes(crate.root / _TAGS):
        return is_open(about, f"{place} is another crate", step)
    try:
        copy = open_finished(place, disk)
        read = verify(copy, disk, tell, "reading the second copy")
    except ZestyError as error:
        return is_open(about, error.message, "Make another copy of the crate.", error.details[:100])
    return holds(about, f"{place}: read back now, {read.files:,} files, identical to what was packed")
