"""Read a crate back: every payload file against its digest, nothing more and nothing less than the manifest says."""

from __future__ import annotations

from dataclasses import dataclass

from ..machines import Disk, DiskError, side_by_side
from ..progress import Progress, Tell, silent
from .bag import PAYLOAD_MANIFEST, DamagedCrate, payload_files, read_bag_info, read_manifest
from .crate import Crate


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
    looked = side_by_side(lambda row: _payload_fault(crate, disk, *row), listed)
    for number, ((name, _), found) in enumerate(looked, start=1):
        faults += found
        done += max(present[name], 0)
        tell(Progress(stage, number, len(manifest), done, total))
    if faults:
        raise DamagedCrate(
            f"{crate.root} is damaged: {len(faults)} of {len(manifest)} files are not what was carried.",
            details=faults,
            next_step="Use another copy of the crate, or run zesty pack again while the old computer is there.",
        )
    return Verified(len(manifest), total)


def _payload_fault(crate: Crate, disk: Disk, name: str, digest: str) -> list[str]:
    path = crate.root / name
    facts = disk.facts(path)
    if facts is None or not facts.is_file:
        return [f"{name}: a link, and not the file that was carried"]
    try:
        found = disk.digest(path, from_drive=True).sha512
    except DiskError as error:
        return [f"{name}: {error.message}"]
    return [] if found == digest else [f"{name}: other content than was carried"]


def _oxum_fault(crate: Crate, disk: Disk, present: dict[str, int]) -> list[str]:
    """The quick check of RFC 8493, 2.2.2: bytes and number of payload files."""
    said = read_bag_info(disk, crate.root / "bag-info.txt").get("Payload-Oxum")
    counted = f"{sum(size for size in present.values() if size > 0)}.{len(present)}"
    return [] if said == counted else [f"bag-info.txt: Payload-Oxum says {said}, and {counted} was counted"]
