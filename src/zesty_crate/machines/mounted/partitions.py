"""What this computer knows of the disks that are mounted here: by it the old one's records of them are understood."""

from __future__ import annotations

import plistlib
import re
import subprocess
from collections.abc import Mapping
from pathlib import Path
from typing import NamedTuple

import psutil

from ...systems import this_system

_BLOCK_BYTES = 512  # in which Linux counts where partitions begin, whatever a disk has
_MBR = re.compile(r"([0-9a-f]{8})-[0-9a-f]+")
_DISKS = Path("/dev/disk")
_SERIAL = re.compile(r"(?:[0-9A-Fa-f]{8}){1,2}|[0-9A-Fa-f]{4}-[0-9A-Fa-f]{4}")  # of FAT, exFAT and NTFS


class Partition(NamedTuple):
    """A partition: its GUID (GPT), or its disk's signature and where on that it begins, in bytes (MBR).

    And of the volume on it: format, label, and its serial number or UUID. All are in small letters but the label, and
    empty where they are not known.
    """

    format: str = ""
    label: str = ""
    serial: str = ""
    uuid: str = ""
    guid: str = ""
    signature: str = ""
    offset: int = 0


def partitions() -> dict[Path, Partition]:
    """All that are mounted here, by the folders at which they are."""
    find = {"linux": _of_linux, "macos": _of_mac}.get(this_system().name)
    return {} if find is None else find()


def _of_linux() -> dict[Path, Partition]:
    names = {kind: _named(kind) for kind in ("by-label", "by-uuid", "by-partuuid")}
    found = {}
    for part in psutil.disk_partitions(all=False):
        device = str(Path(part.device).resolve())
        identity, own = names["by-uuid"].get(device, ""), names["by-partuuid"].get(device, "").lower()
        mbr = _MBR.fullmatch(own)
        serial, uuid = (identity, "") if _SERIAL.fullmatch(identity) else ("", identity)
        found[Path(part.mountpoint)] = Partition(
            part.fstype.lower(),
            names["by-label"].get(device, ""),
            serial,
            uuid,
            "" if mbr else own,
            mbr[1] if mbr else "",
            _start_of(device),
        )
    return found


def _named(kind: str) -> Mapping[str, str]:
    """What disks are called, by their devices; what a name cannot hold is written there in hexadecimal."""
    folder = _DISKS / kind
    if not folder.is_dir():
        return {}
    return {
        str(link.resolve()): re.sub(r"\\x([0-9a-f]{2})", lambda each: chr(int(each[1], 16)), link.name)
        for link in folder.iterdir()
    }


def _start_of(device: str) -> int:
    try:
        return int((Path("/sys/class/block") / Path(device).name / "start").read_text()) * _BLOCK_BYTES
    except (OSError, ValueError):
        return 0


def _of_mac() -> dict[Path, Partition]:
    found = {}
    for part in psutil.disk_partitions(all=False):
        try:
            command = ["/usr/sbin/diskutil", "info", "-plist", part.mountpoint]
            told = plistlib.loads(subprocess.run(command, capture_output=True, timeout=20, check=True).stdout)
        except (OSError, subprocess.SubprocessError, plistlib.InvalidFileException, ValueError):
            continue
        found[Path(part.mountpoint)] = Partition(
            str(told.get("FilesystemType", "")).lower(),
            str(told.get("VolumeName", "")),
            "",
            str(told.get("VolumeUUID", "")),
            str(told.get("DiskUUID", "")).lower(),
            "",
            int(told.get("PartitionMapPartitionOffset", 0)),
        )
    return found
