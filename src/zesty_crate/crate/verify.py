"""Read a crate back: every payload file against its digest, nothing more and nothing less than the manifest says."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..machines import Disk, DiskError, side_by_side
from ..progress import Progress, Tell, silent
from .bag import PAYLOAD_MANIFEST, DamagedCrate, payload_files, read_bag_info, read_manifest
from .crate import Crate

_BATCH_FILES, _BATCH_BYTES = 64, 8 << 20


@dataclass(frozen=True, slots=True)
class Verified:
    """What was read back and found to be as it was written."""

    files: int
    size_bytes: int


def verify(crate: Crate, disk: Disk, tell: Tell = silent, stage: str = "reading back") -> Verified:
    """Read the whole payload of a finished crate from the drive.

    Raises `DamagedCrate` that names every file that is missing, that differs, or that does not belong.
    """
    manifest = read_manifest(disk, crate.root / PAYLOAD_MANIFEST)
    present = dict(payload_files(disk, crate.data, "data/")) if disk.facts(crate.data) else {}
    faults = [f"{name}: not there" for name in sorted(manifest.keys() - present.keys())]
    faults += [f"{name}: not in the manifest" for name in sorted(present.keys() - manifest.keys())]
    faults += _oxum_fault(crate, disk, present)
    total, done = sum(size for size in present.values() if size > 0), 0
    listed = [(name, digest) for name, digest in sorted(manifest.items()) if name in present]
    number = 0
    for batch, found in side_by_side(
        lambda rows: _payload_faults(crate, disk, rows, present), _batches(listed, present)
    ):
        faults += found
        number += len(batch)
        done += sum(max(present[name], 0) for name, _ in batch)
        tell(Progress(stage, number, len(manifest), done, total))
    if faults:
        raise DamagedCrate(
            f"{crate.root} is damaged: {len(faults)} of {len(manifest)} files are not what was carried.",
            details=faults,
            next_step="Use another copy of the crate, or run zesty pack again while the old computer is there.",
        )
    return Verified(len(manifest), total)


def _batches(rows: list[tuple[str, str]], sizes: dict[str, int]) -> Iterator[list[tuple[str, str]]]:
    """Small files by the handful, so that handing them out costs little."""
    batch: list[tuple[str, str]] = []
    room = _BATCH_BYTES
    for row in rows:
        batch.append(row)
        room -= sizes[row[0]] + _BATCH_BYTES // _BATCH_FILES
        if room <= 0:
            yield batch
            batch, room = [], _BATCH_BYTES
    if batch:
        yield batch


def _payload_faults(crate: Crate, disk: Disk, rows: list[tuple[str, str]], sizes: dict[str, int]) -> list[str]:
    return [fault for name, digest in rows if (fault := _payload_fault(crate, disk, name, digest, sizes[name]))]


def _payload_fault(crate: Crate, disk: Disk, name: str, digest: str, size_bytes: int) -> str:
    if size_bytes < 0:
        return f"{name}: a link, and not the file that was carried"
    try:
        found = disk.digest(f"{crate.root}/{name}", from_drive=True).sha512
    except DiskError as error:
        return f"{name}: {error.message}"
    return "" if found == digest else f"{name}: other content than was carried"


def _oxum_fault(crate: Crate, disk: Disk, present: dict[str, int]) -> list[str]:
    """The quick check of RFC 8493, 2.2.2: bytes and number of payload files."""
    said = read_bag_info(disk, crate.root / "bag-info.txt").get("Payload-Oxum")
    counted = f"{sum(size for size in present.values() if size > 0)}.{len(present)}"
    return [] if said == counted else [f"bag-info.txt: Payload-Oxum says {said}, and {counted} was counted"]
