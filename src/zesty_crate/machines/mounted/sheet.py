"""The sheet of a computer whose disks are mounted here; what had to be guessed is marked, and why."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

from ...documents import Line, parse_document, table_text
from ...errors import ZestyError
from ...paths import FORMATS, System, format_named
from ..disk import Disk
from ..files import DiskError
from ..sheet import SheetPart
from .linux import linux_findings
from .macos import mac_findings
from .model import Findings, Mount, Profile
from .partitions import Partition
from .windows import windows_findings

_FINDERS = {System.WINDOWS: windows_findings, System.MACOS: mac_findings, System.LINUX: linux_findings}


def mounted_computer(
    mounts: Sequence[Path], user: str | None, disk: Disk, known: Mapping[Path, Partition] | None = None
) -> str:
    """The text of a sheet for a computer whose disks are mounted here, the one with its system first.

    ``known`` are the partitions that this computer knows of. Raises `ZestyError` when no system is recognised, or no
    such user is there.
    """
    for mount in mounts:
        if disk.facts(mount) is None:
            raise ZestyError(f"{mount} is not there.", next_step="Name the folder where the disk is mounted.")
    partitions = known or {}
    found = [Mount(each, partitions.get(each.absolute(), Partition())) for each in mounts]
    system, findings = _recognised(found, disk)
    profile, remark = _chosen(findings.profiles, user, disk)
    head = f"# A first sheet, made by looking at {mounts[0]}. Verify everything that is marked as a guess.\n"
    notes = [f"# {each}\n" for each in findings.remarks]
    computer = [
        Line("name", *findings.name),
        Line("system", system),
        Line("user", profile.user, remark),
    ]
    tables = [head, *notes, table_text("computer", computer)]
    for each, anchor in zip(found, findings.anchors, strict=True):
        label = "" if system is System.WINDOWS or each is found[0] else each.folder.name
        lines = [Line("anchor", *anchor), *_volume_lines(each, label), *_room_lines(disk.room_of_volume(each.folder))]
        tables.append(table_text("volume", lines, is_item=True))
    places = {**findings.more_places, **findings.places_of(profile)}
    if places:
        tables.append(table_text("places", [Line(name, *told) for name, told in places.items()]))
    text = "\n".join(tables)
    parse_document(text, SheetPart, "The new sheet")
    return text


def _recognised(mounts: Sequence[Mount], disk: Disk) -> tuple[System, Findings]:
    """The system on the first disk, and what all of them say."""
    for system, find in _FINDERS.items():
        findings = find(mounts, disk)
        if findings is not None:
            return system, findings
    raise ZestyError(
        f"No operating system recognized on {mounts[0].folder}: expected Users with Windows or Library, or home with "
        "etc.",
        next_step="Name the system disk first, or write the sheet yourself (see docs/sheets.md).",
    )


def _chosen(profiles: Sequence[Profile], user: str | None, disk: Disk) -> tuple[Profile, str]:
    """The person of the sheet, and a remark: who else is there."""
    wanted = [each for each in profiles if user is None or each.user.casefold() == user.casefold()]
    if not wanted:
        who = f"no folder of a user {user!r}" if user else "no folder of any user"
        names = ", ".join(sorted(each.user for each in profiles))
        raise ZestyError(
            f"On this disk there is {who}.",
            next_step=f"Name one of {names} with --user." if names else "Name another disk with --mounted.",
        )
    chosen = max(wanted, key=lambda each: _latest(each, disk))
    others = ", ".join(sorted(each.user for each in profiles if each.user != chosen.user))
    if not others or user:
        return chosen, ""
    return chosen, f"a guess: the most recently active user; there are also {others} (--user)"


def _latest(profile: Profile, disk: Disk) -> int:
    """When something in a person's folder changed last."""
    if profile.folder is None:
        return -1
    try:
        facts = [disk.facts(profile.folder / name) for name in disk.names(profile.folder)]
    except DiskError:
        return 0
    return max((each.modified_ns for each in facts if each), default=0)


def _volume_lines(mount: Mount, guessed_label: str) -> list[Line]:
    part, known = mount.partition, format_named(mount.partition.format) if mount.partition.format else ""
    lines = [Line("mount", str(mount.folder.absolute()))]
    lines += [Line(name, text) for name, text in (("serial", part.serial), ("uuid", part.uuid)) if text]
    if part.label or guessed_label:
        lines.append(Line("label", part.label or guessed_label, "" if part.label else "a guess"))
    return lines + ([Line("format", known)] if known in FORMATS else [])


def _room_lines(room: tuple[int, int] | None) -> list[Line]:
    return [Line("size-bytes", room[0]), Line("free-bytes", room[1])] if room else []
