"""Room and time before anything is copied: what is needed, what the carriers have and allow, and how fast they are."""

from __future__ import annotations

import hashlib
import time
from dataclasses import dataclass
from pathlib import Path

from ..errors import ZestyError
from ..machines import Disk
from .carriers import Carrier, Carriers
from .distribution import Distribution, Sum

_SMALL_BYTES = 64 << 20  # what is not larger is copied before a measurement would have ended
_RATES = (500e6, 4e6)  # of carriers that were not measured, bytes a second: a fast disk, an old stick
_TRIAL_BYTES = 8 << 20
_TRIALS = 8
_TRIAL_S = 1.5
_FILE_S = (0.0005, 0.003)  # what a file costs besides its bytes, on a fast carrier and on a slow one
_READ_BACK = (0.3, 1.5)  # reading back, in times of writing


@dataclass(frozen=True, slots=True)
class PartRoom:
    """What goes into one part now, and the carrier that it goes to. Sizes in bytes; ``format`` may be empty."""

    part: int
    at: str
    files: int
    size_bytes: int
    free_bytes: int
    format: str


@dataclass(frozen=True, slots=True)
class Room:
    """What must be copied, and the carriers that it goes to. Sizes in bytes, times in seconds.

    The times are a guess where so little must be copied that measuring would take as long. What is ``lacking`` needs
    more carriers, which will be asked for. Of ``cut`` files each goes in segments; ``shared`` files take no room.
    """

    files: int
    size_bytes: int
    largest_bytes: int
    largest: str
    parts: tuple[PartRoom, ...]
    cut: int
    shared: int
    lacking_bytes: int
    least_s: float
    most_s: float


def unannounced(room: Room) -> None:
    """For when nobody watches."""


def look_at_room(distribution: Distribution, carriers: list[Carrier], lacking: Sum, disk: Disk) -> Room:
    """Sum up what was shared out, and measure how fast the first carrier is."""
    parts = tuple(
        PartRoom(each.bag, str(each.part.root), *distribution.assigned_to(each.bag), each.free_bytes, each.format)
        for each in carriers
    )
    files = sum(part.files for part in parts) + lacking.files
    size = sum(part.size_bytes for part in parts) + lacking.size_bytes
    rate = _measured_rate(carriers[0].part.own / "rate.part", disk) if size > _SMALL_BYTES else None
    rates = _RATES if rate is None else (rate, rate)
    times = [
        size / speed * (1 + again) + files * each for speed, again, each in zip(rates, _READ_BACK, _FILE_S, strict=True)
    ]
    path, largest = distribution.largest()
    return Room(
        files,
        size,
        largest,
        path,
        parts,
        distribution.cut_files(),
        distribution.shared_files(),
        lacking.size_bytes,
        *times,
    )


def require_room(distribution: Distribution, carriers: Carriers, lacking: Sum, disk: Disk) -> None:
    """Raise `ZestyError` with the numbers when the carriers cannot hold what must be copied."""
    targets, opened = carriers.targets, carriers.opened
    if targets.part_bytes is not None and not any(each.space.most_bytes for each in opened):
        raise ZestyError(
            f"A part of {targets.part_bytes:,} bytes has room only for the crate's own records.",
            next_step="Give a larger --part-size. Nothing was copied.",
        )
    files, size = distribution.pending()
    if lacking.size_bytes and targets.ask is None:
        raise _too_little(opened, Sum(files, size), lacking.size_bytes)
    beside = [each for each in opened[1:] if each.part.root.parent.absolute() == opened[0].part.root.parent.absolute()]
    together = sum(distribution.assigned_to(each.bag).size_bytes for each in (opened[0], *beside))
    if beside and together > opened[0].free_bytes:
        raise _too_little(opened[:1], Sum(files, together), together - opened[0].free_bytes)
    if targets.second is not None and (free := disk.free_bytes(targets.second)) < size:
        raise ZestyError(
            f"{targets.second} has {free:,} bytes free, and {size:,} are needed for the second copy.",
            next_step="Name a larger carrier with --second-copy. Nothing was copied.",
        )


def _too_little(carriers: list[Carrier], needed: Sum, unplaced: int) -> ZestyError:
    """The numbers add up: what is lacking is what is needed less what is free; or, if that is less, what fits nowhere.

    (A file in many pieces, or blocks that are filled in part, may leave room that nothing fits into.)
    """
    free, records = sum(each.free_bytes for each in carriers), sum(each.records_bytes for each in carriers)
    lost = max(0, unplaced - (needed.size_bytes + records - free))  # room that blocks and limits of size take
    one = len(carriers) == 1
    where = f"The carrier at {carriers[0].part.root} has" if one else f"The {len(carriers)} carriers together have"
    return ZestyError(
        f"{needed.files:,} files need {needed.size_bytes:,} bytes, and the crate's records about {records + lost:,}. "
        f"{where} {free:,} bytes free; {needed.size_bytes + records + lost - free:,} bytes are lacking.",
        next_step="Make room there, name folders on more carriers with --onto, or carry less with --only, --classes or "
        "--metadata-only. Nothing was copied.",
    )


def _measured_rate(trial: Path, disk: Disk) -> float:
    """Bytes a second that are digested and reach the carrier: a short trial, onto the drive itself."""
    content, written = bytes(_TRIAL_BYTES), 0
    begun = time.perf_counter()
    try:
        while written < _TRIALS * _TRIAL_BYTES and time.perf_counter() - begun < _TRIAL_S:
            hashlib.sha512(content)
            disk.write_bytes(trial, content)
            disk.flush(trial)
            written += len(content)
    finally:
        disk.remove(trial)
    return written / max(time.perf_counter() - begun, 1e-6)
