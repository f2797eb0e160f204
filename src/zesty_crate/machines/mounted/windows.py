"""What a Windows disk says: in its registry's hives (Microsoft, "Registry Hives"), and by its folders.

Who is on it: ``ProfileList``. Where their folders are: ``User Shell Folders``. Which letter a disk has:
``MountedDevices``, by the signature of a disk and the place of a partition on it, or by the partition's GUID.
"""

from __future__ import annotations

import re
import struct
import uuid
from collections.abc import Iterator, Sequence
from pathlib import Path

from ...paths import System
from ..disk import Disk
from ..files import DiskError
from ..places import USUAL_PLACES
from ..registry import Block, RegistryError, blocks_of_hive, shown_value
from .model import Findings, Mount, Profile, Told, file_below, folders_in
from .partitions import Partition

_CONFIG = ("Windows", "System32", "config")
_SYSTEM, _SOFTWARE, _USER = (
    f"HKEY_{each}" for each in ("LOCAL_MACHINE\\SYSTEM", "LOCAL_MACHINE\\SOFTWARE", "CURRENT_USER")
)
_PROFILES = f"{_SOFTWARE}\\Microsoft\\Windows NT\\CurrentVersion\\ProfileList"
_SHELL = f"{_USER}\\Software\\Microsoft\\Windows\\CurrentVersion\\Explorer\\User Shell Folders"
_PERSON = re.compile(r".*\\S-1-(?:5-21|12-1)-[0-9-]+", re.IGNORECASE)  # and no service
_LETTER = re.compile(r"\\DosDevices\\([A-Z]):", re.IGNORECASE)
_GPT = b"DMIO:ID:"
_KNOWN_FOLDERS = {
    "documents": "personal",
    "pictures": "my pictures",
    "music": "my music",
    "movies": "my video",
    "desktop": "desktop",
    "downloads": "{374de290-123f-4565-9164-39c4925e467b}",
    "app-data": "appdata",
    "app-data-local": "local appdata",
}
_OLD_PLACES = {
    "home": r"C:\Documents and Settings\{user}",
    "documents": r"{home}\My Documents",
    "pictures": r"{documents}\My Pictures",
    "music": r"{documents}\My Music",
    "movies": r"{documents}\My Videos",
    "app-data": r"{home}\Application Data",
    "app-data-local": r"{home}\Local Settings\Application Data",
    "shared-data": r"C:\Documents and Settings\All Users\Application Data",
}
_NOT_PEOPLE = ("default", "default user", "public", "all users", "guest", "localservice", "networkservice")
_NOTHING_SAYS = "a guess: nothing says which letter it had"


def windows_findings(mounts: Sequence[Mount], disk: Disk) -> Findings | None:
    """What the disks of a Windows computer say, the system's first; None when that is none."""
    top = mounts[0].folder
    present = {name.lower() for name in disk.names(top)}
    if "windows" not in present or not present & {"users", "documents and settings"}:
        return None
    return _Reader(mounts, disk, is_old="users" not in present).findings()


class _Reader:
    def __init__(self, mounts: Sequence[Mount], disk: Disk, *, is_old: bool) -> None:
        self._mounts = mounts
        self._disk = disk
        self._is_old = is_old
        self._remarks: list[str] = []
        self._system = self._hive(mounts[0].folder, (*_CONFIG, "SYSTEM"))
        self._software = self._hive(mounts[0].folder, (*_CONFIG, "SOFTWARE"))
        self._anchors = self._letters()

    def findings(self) -> Findings:
        """All of it."""
        old = {name: Told(text) for name, text in _OLD_PLACES.items()} if self._is_old else {}
        return Findings(self._name(), self._anchors, self._profiles(), self._places_of, old, self._remarks)

    # -- hives ------------------------------------------------------------------------------------------------------

    def _hive(self, top: Path, names: Sequence[str]) -> Path | None:
        return file_below(top, names, self._disk)

    def _keys(self, hive: Path | None, branch: str) -> Iterator[tuple[str, dict[str, Told | bytes]]]:
        """The keys of a branch with their values, by names in small letters: texts, or bytes as they are."""
        if hive is None:
            return
        try:
            for block in blocks_of_hive(hive, hive.name, branch):
                yield block.key, _values(block)
        except (RegistryError, DiskError) as error:
            remark = f"{hive} could not be read: {error.message}"
            if remark not in self._remarks:
                self._remarks.append(remark)

    def _value(self, hive: Path | None, branch: str, name: str) -> str:
        """One text; empty where it is not."""
        for key, values in self._keys(hive, branch):
            found = values.get(name)
            if key.casefold() == branch.casefold() and isinstance(found, Told):
                return found.text
        return ""

    # -- the computer -----------------------------------------------------------------------------------------------

    def _name(self) -> Told:
        number = self._value(self._system, f"{_SYSTEM}\\Select", "current")
        control = f"ControlSet{int(number):03d}" if number.isdigit() else "ControlSet001"
        found = self._value(self._system, f"{_SYSTEM}\\{control}\\Control\\ComputerName\\ComputerName", "computername")
        return Told(found) if found else Told(self._mounts[0].folder.absolute().name or "computer", "a guess")

    def _letters(self) -> list[Told]:
        """The letter of each disk that is here."""
        recorded = self._recorded()
        root = self._value(self._software, f"{_SOFTWARE}\\Microsoft\\Windows NT\\CurrentVersion", "systemroot")
        first = root[:2].upper() if re.match(r"[A-Za-z]:", root) else ""
        known = [_recognised(each.partition, recorded) for each in self._mounts]
        if not known[0].text:  # C for the system is so usual that only the letters of the others are guesses
            known[0] = Told(first or "C:", "as its registry says" if first else "")
        taken = {each.text for each in known}
        free = [each for each in recorded if each not in taken] + [
            f"{chr(each)}:" for each in range(ord("D"), ord("Z")) if f"{chr(each)}:" not in {*taken, *recorded}
        ]
        rest = iter(free)
        return [each if each.text else Told(next(rest), _NOTHING_SAYS) for each in known]

    def _recorded(self) -> dict[str, bytes]:
        """The letters that the computer gave, each with what it knew of the disk."""
        found = dict[str, bytes]()
        for _, values in self._keys(self._system, f"{_SYSTEM}\\MountedDevices"):
            for name, value in values.items():
                letter = _LETTER.fullmatch(name)
                if letter and isinstance(value, bytes):
                    found[f"{letter[1].upper()}:"] = value
        return dict(sorted(found.items()))

    # -- people -----------------------------------------------------------------------------------------------------

    def _profiles(self) -> list[Profile]:
        letter = self._anchors[0].text
        homes = {
            home.casefold(): home
            for key, values in self._keys(self._software, _PROFILES)
            if _PERSON.fullmatch(key) and (home := _expanded(values.get("profileimagepath"), {"systemdrive": letter}))
        }
        top = "Documents and Settings" if self._is_old else "Users"
        folder = file_below(self._mounts[0].folder, (top,), self._disk)
        for name in folders_in(folder, self._disk) if folder is not None else ():
            if name.lower() not in _NOT_PEOPLE:
                home = f"{letter}\\{top}\\{name}"
                homes.setdefault(home.casefold(), home)
        return [Profile(home.rpartition("\\")[2], home, self._real(home)) for home in homes.values()]

    def _real(self, path: str) -> Path | None:
        for anchor, mount in zip(self._anchors, self._mounts, strict=True):
            if path.casefold().startswith(f"{anchor.text}\\".casefold()):
                return file_below(mount.folder, path[len(anchor.text) + 1 :].split("\\"), self._disk)
        return None

    def _places_of(self, profile: Profile) -> dict[str, Told]:
        usual = {**USUAL_PLACES[System.WINDOWS], **(_OLD_PLACES if self._is_old else {})}
        found = dict[str, Told]()
        if profile.home.casefold() != usual["home"].replace("{user}", profile.user).casefold():
            found["home"] = Told(profile.home, "as its registry says" if self._software else "")
        hive = None if profile.folder is None else self._hive(profile.folder, ("NTUSER.DAT",))
        variables = {"userprofile": profile.home, "systemdrive": self._anchors[0].text}
        for _, values in self._keys(hive, _SHELL):
            for place, name in _KNOWN_FOLDERS.items():
                folder = _expanded(values.get(name), variables)
                if folder and folder.casefold() != _filled(usual[place], usual, profile).casefold():
                    found[place] = Told(folder, "moved there, as the registry says")
        return found


def _values(block: Block) -> dict[str, Told | bytes]:
    told = dict[str, Told | bytes]()
    for name, value in block.values:
        if value is not None:
            told[name.casefold()] = value.data if value.kind == 3 else Told(shown_value(value))
    return told


def _expanded(value: Told | bytes | None, variables: dict[str, str]) -> str:
    """A path of the registry with its variables filled in; empty for none, or where one is not known."""
    if not isinstance(value, Told):
        return ""
    text = re.sub(r"%([^%]+)%", lambda each: variables.get(each[1].casefold(), each[0]), value.text)
    return "" if "%" in text or not re.match(r"[A-Za-z]:\\|\\\\", text) else text.rstrip("\\")


def _filled(template: str, places: dict[str, str], profile: Profile) -> str:
    filled = template.replace("{user}", profile.user).replace("{home}", profile.home)
    for name in re.findall(r"\{([a-z-]+)\}", filled):
        filled = filled.replace("{" + name + "}", _filled(places[name], places, profile))
    return filled


def _recognised(partition: Partition, recorded: dict[str, bytes]) -> Told:
    """The letter that the computer gave a partition; empty where nothing says it."""
    for letter, known in recorded.items():
        if known.startswith(_GPT) and len(known) == len(_GPT) + 16:
            if partition.guid and str(uuid.UUID(bytes_le=known[len(_GPT) :])) == partition.guid:
                return Told(letter, "known by its partition")
        elif len(known) == 12:
            signature, offset = struct.unpack("<IQ", known)
            if partition.signature and (f"{signature:08x}", offset) == (partition.signature, partition.offset):
                return Told(letter, "known by its disk and its place there")
    return Told("")
