"""Room and time before anything is copied: what is needed, what the carrier has and allows, and how fast it is."""

from __future__ import annotations

import time
from dataclasses import dataclass
from pathlib import Path

from ..errors import ZestyError
from ..machines import Disk
from ..paths import FORMATS
from .crate import Crate

_RECORDS_BYTES = 4 << 20  # the crate's own records, besides the survey that is there already
_SMALL_BYTES = 64 << 20  # what is not larger is copied before a measurement would have ended
_TRIAL_BYTES = 8 << 20
_TRIALS = 8
_TRIAL_S = 1.5
_FILE_S = (0.0005, 0.003)  # what a file costs besides its bytes, on a fast carrier and on a slow one
_READ_BACK = (0.3, 1.5)  # reading back, in times of writing


@dataclass(frozen=True, slots=True)
class Room:
    """What is to be copied, and the carrier that it goes to. Sizes in bytes, times in seconds.

    ``format`` is empty when it is not known; the times are None when so little is to be copied that they do not matter.
    """

    files: int
    size_bytes: int
    largest_bytes: int
    largest: str
    free_bytes: int
    format: str
    least_s: float | None
    most_s: float | None


def unannounced(room: Room) -> None:
    """For when nobody watches."""


def look_at_room(crate: Crate, disk: Disk, files: int, size_bytes: int, largest: tuple[str, int]) -> Room:
    """Look at the carrier; ``largest`` is the largest file's path and size.

    Raises `ZestyError` with the numbers when the carrier lacks room, or cannot hold a file of that size.
    """
    free, form = disk.free_bytes(crate.root), disk.format_of(crate.root)
    needed = size_bytes + _RECORDS_BYTES
    if needed > free:
        raise ZestyError(
            f"The carrier at {crate.root} has {free:,} bytes free, and {needed:,} are needed for {files:,} files; "
            f"{needed - free:,} are lacking.",
            next_step="Make room there, use a larger carrier, or carry less with --only, --classes or --metadata-only. "
            "Nothing was copied.",
        )
    limit = FORMATS[form].largest_file_bytes if form in FORMATS else None
    if limit is not None and largest[1] > limit:
        raise ZestyError(
            f"The carrier at {crate.root} is {form} and holds files up to {limit:,} bytes; {largest[0]} has "
            f"{largest[1]:,}.",
            next_step="Use a carrier with another format, such as exfat, or leave that file with --only or --folder. "
            "Nothing was copied.",
        )
    rate = _measured_rate(crate.own / "rate.part", disk) if size_bytes > _SMALL_BYTES else None
    times = (None, None) if rate is None else tuple(
        size_bytes / rate * (1 + again) + files * each for again, each in zip(_READ_BACK, _FILE_S, strict=True)
    )  # fmt: skip
    return Room(files, size_bytes, largest[1], largest[0], free, form, *times)


def _measured_rate(trial: Path, disk: Disk) -> float:
    """Bytes a second that reach the carrier: a short trial, onto the drive itself."""
    content, written = bytes(_TRIAL_BYTES), 0
    begun = time.perf_counter()
    try:
        while written < _TRIALS * _TRIAL_BYTES and time.perf_counter() - begun < _TRIAL_S:
            disk.write_bytes(trial, content)
            disk.settle(trial)
            written += len(content)
    finally:
        disk.remove(trial)
    return written / max(time.perf_counter() - begun, 1e-6)
