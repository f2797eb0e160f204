"""What the disk of a Mac says: its name in its preferences, people by their folders, volumes by their labels."""

from __future__ import annotations

import plistlib
from collections.abc import Sequence

from ..disk import Disk
from .model import Findings, Mount, Profile, Told, file_below, folders_in

_PREFERENCES = ("Library", "Preferences", "SystemConfiguration", "preferences.plist")
_NOT_PEOPLE = ("shared", "guest")


def mac_findings(mounts: Sequence[Mount], disk: Disk) -> Findings | None:
    """What the disks of a Mac say, the system's first; None when that is none."""
    top = mounts[0].folder
    if not {"users", "library"} <= {name.lower() for name in disk.names(top)}:
        return None
    people = [
        Profile(name, f"/Users/{name}", top / "Users" / name)
        for name in folders_in(top / "Users", disk)
        if name.lower() not in _NOT_PEOPLE
    ]
    anchors = [Told("/"), *(_anchor(each) for each in mounts[1:])]
    return Findings(_name(mounts[0], disk), anchors, people, lambda _: {})


def _name(mount: Mount, disk: Disk) -> Told:
    place = file_below(mount.folder, _PREFERENCES, disk)
    try:
        told = plistlib.loads(disk.read_bytes(place)) if place is not None else {}
        return Told(str(told["System"]["System"]["ComputerName"]))
    except Exception:  # noqa: BLE001  the standard reader raises whatever its parsers do
        return Told(mount.folder.absolute().name or "computer", "a guess")


def _anchor(mount: Mount) -> Told:
    if mount.partition.label:
        return Told(f"/Volumes/{mount.partition.label}")
    return Told(f"/Volumes/{mount.folder.name}", "a guess: by the folder where it is mounted here")
