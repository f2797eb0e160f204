"""What the disk of a Linux computer says: hostname(5), passwd(5), fstab(5), and user-dirs.dirs of xdg-user-dirs."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from pathlib import Path

from ...errors import ZestyError
from ..disk import Disk
from .model import Findings, Mount, Profile, Told, folders_in

_FIRST_PERSON, _LAST_PERSON = 1000, 59_999  # what login.defs(5) gives to people
_USER_DIR = re.compile(r'^\s*XDG_([A-Z]+)_DIR="((?:[^"\\]|\\.)*)"', re.MULTILINE)
_PLACES = {
    "DOCUMENTS": "documents",
    "PICTURES": "pictures",
    "MUSIC": "music",
    "VIDEOS": "movies",
    "DESKTOP": "desktop",
    "DOWNLOAD": "downloads",
}
_USUAL = {"movies": "Videos"}


def linux_findings(mounts: Sequence[Mount], disk: Disk) -> Findings | None:
    """What the disks of a Linux computer say, the system's first; None when that is none."""
    top = mounts[0].folder
    if not {"home", "etc"} <= set(disk.names(top)):
        return None
    anchors = [Told("/"), *_anchors(mounts, disk)]
    people = list(_people(mounts, anchors, disk))

    def places_of(profile: Profile) -> dict[str, Told]:
        found = {} if profile.home == f"/home/{profile.user}" else {"home": Told(profile.home)}
        if profile.folder is not None:
            found |= {
                name: Told(path, "as user-dirs.dirs says")
                for name, path in user_dirs(profile.folder, profile.home, disk).items()
            }
        return found

    name = _text(top / "etc/hostname", disk).strip()
    told = Told(name.partition("\n")[0]) if name else Told(top.absolute().name or "computer", "a guess")
    return Findings(told, anchors, people, places_of)


def user_dirs(home: Path, named: str, disk: Disk) -> dict[str, str]:
    """The folders of a person that are not the usual ones. ``home`` is here, and ``named`` as its computer calls it."""
    found = {}
    for name, text in _USER_DIR.findall(_text(home / ".config/user-dirs.dirs", disk)):
        place, path = _PLACES.get(name), re.sub(r"\\(.)", r"\1", text).replace("$HOME", named).rstrip("/")
        if place and path.startswith("/") and path not in (named, f"{named}/{_USUAL.get(place, place.title())}"):
            found[place] = path
    return found


def _people(mounts: Sequence[Mount], anchors: Sequence[Told], disk: Disk) -> Iterator[Profile]:
    seen = set[str]()
    for line in _text(mounts[0].folder / "etc/passwd", disk).splitlines():
        name, _, number, _, _, home, *_ = (*line.split(":"), *[""] * 7)
        if number.isdigit() and _FIRST_PERSON <= int(number) <= _LAST_PERSON and home.startswith("/"):
            seen.add(home)
            yield Profile(name, home, _real(home, mounts, anchors, disk))
    for name in folders_in(mounts[0].folder / "home", disk):
        if f"/home/{name}" not in seen and name != "lost+found":
            yield Profile(name, f"/home/{name}", mounts[0].folder / "home" / name)


def _real(path: str, mounts: Sequence[Mount], anchors: Sequence[Told], disk: Disk) -> Path | None:
    """Where a path of the computer is here: on the disk with the longest anchor that begins it."""
    pairs = sorted(zip(anchors, mounts, strict=True), key=lambda pair: len(pair[0].text), reverse=True)
    for anchor, mount in pairs:
        begins = anchor.text.rstrip("/") + "/"
        if path.startswith(begins):
            real = mount.folder / path[len(begins) :]
            return real if disk.facts(real) is not None else None
    return None


def _anchors(mounts: Sequence[Mount], disk: Disk) -> Iterator[Told]:
    """Where the other disks were mounted, as fstab says."""
    known = dict(_of_fstab(_text(mounts[0].folder / "etc/fstab", disk)))
    for mount in mounts[1:]:
        part = mount.partition
        names = {f"UUID={part.uuid or part.serial}", f"LABEL={part.label}", f"PARTUUID={part.guid}"}
        found = next((known[each.lower()] for each in names if each.lower() in known and not each.endswith("=")), "")
        if found:
            yield Told(found, "as its fstab says")
        elif part.label:
            yield Told(f"/mnt/{part.label}", "a guess: by its label")
        else:
            yield Told(f"/mnt/{mount.folder.name}", "a guess: by the folder where it is mounted here")


def _of_fstab(text: str) -> Iterator[tuple[str, str]]:
    for line in text.splitlines():
        fields = line.partition("#")[0].split()
        if len(fields) >= 2 and fields[1].startswith("/"):
            place = re.sub(r"\\([0-7]{3})", lambda each: chr(int(each[1], 8)), fields[1])
            yield fields[0].replace('"', "").lower(), place


def _text(path: Path, disk: Disk) -> str:
    try:
        return disk.read_text(path) if disk.facts(path) is not None else ""
    except ZestyError:
        return ""
