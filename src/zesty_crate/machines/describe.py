"""Write a first sheet by looking: at this computer, or at the mounted disks of another one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from ..documents import Line, parse_document, table_text
from ..errors import ZestyError
from ..paths import FORMATS, System, format_named
from .disk import Disk
from .files import DiskError
from .host import Host
from .places import USUAL_PLACES
from .sheet import Sheet, SheetPart, load_sheet

THIS_COMPUTER = "this-computer"

_NOT_PEOPLE = {
    "default",
    "default user",
    "public",
    "all users",
    "shared",
    "guest",
    "localservice",
    "networkservice",
    "lost+found",
}
_OLD_WINDOWS_PLACES = {
    "home": r"C:\Documents and Settings\{user}",
    "documents": r"{home}\My Documents",
    "pictures": r"{documents}\My Pictures",
    "music": r"{documents}\My Music",
    "movies": r"{documents}\My Videos",
    "app-data": r"{home}\Application Data",
    "app-data-local": r"{home}\Local Settings\Application Data",
    "shared-data": r"C:\Documents and Settings\All Users\Application Data",
}


def read_sheet(path: Path, disk: Disk) -> Sheet:
    """The sheet at ``path``; for ``this-computer``, one that is made now. Raises what `load_sheet` raises.

    One that was made on this very machine describes what is here, whenever it was made.
    """
    host = Host()
    if str(path) == THIS_COMPUTER:
        return this_computer(host, Path.cwd())
    sheet = load_sheet(path, disk)
    machine = sheet.part.computer.machine
    return as_it_is_now(sheet, host) if machine and machine == host.machine() else sheet


def as_it_is_now(sheet: Sheet, host: Host) -> Sheet:
    """A sheet of this very computer, with the volumes that were connected since it was made."""
    known = {each.anchor.rstrip("\\").casefold() for each in sheet.part.volume}
    new = [each for each in this_computer(host, sheet.folder).part.volume if each.anchor.casefold() not in known]
    return replace(sheet, part=sheet.part.model_copy(update={"volume": (*sheet.part.volume, *new)}), is_here=True)


def this_computer(host: Host, folder: Path) -> Sheet:
    """The sheet of the computer that the program runs on. ``folder`` is used as the folder of a sheet file."""
    system = host.system()
    computer = [Line("name", host.name()), Line("system", system), Line("user", host.user())]
    computer += [Line("machine", machine)] if (machine := host.machine()) else []
    tables = [table_text("computer", computer)]
    for volume in host.volumes():
        anchor = volume.anchor.rstrip("\\") if system is System.WINDOWS else volume.anchor
        known = format_named(volume.format)
        rows = [Line("anchor", anchor), Line("mount", volume.anchor)]
        known_by = (("label", volume.label), ("serial", volume.serial), ("uuid", volume.uuid))
        rows += [Line(name, text) for name, text in known_by if text]
        rows += [Line("format", known)] if known in FORMATS else []
        rows += _room_lines(volume.room)
        tables.append(table_text("volume", rows, is_item=True))
    usual = USUAL_PLACES[system]
    found = host.places()
    templates = {**usual, "user": host.user()}
    places = [Line("home", found["home"])] if found["home"] != _filled("home", templates) else []
    templates["home"] = found["home"]
    places += [Line(name, text) for name, text in found.items() if text != _filled(name, templates)]
    if places:
        tables.append(table_text("places", places))
    text = "\n".join(["# This computer, as detected.\n", *tables])
    return Sheet(parse_document(text, SheetPart, "The sheet of this computer"), text, folder, is_here=True)


def mounted_computer(mounts: Sequence[Path], user: str | None, disk: Disk) -> str:
    """The text of a sheet for a computer whose disks are mounted here, the one with its system first.

    What had to be guessed is marked so. Raises `ZestyError` when no system is recognised, or no such user is there.
    """
    for mount in mounts:
        if not _there(mount, disk):
            raise ZestyError(f"{mount} is not there.", next_step="Name the folder where the disk is mounted.")
    system, users = _recognised(mounts[0], disk)
    folders = {name for name in disk.names(mounts[0] / users) if _is_person(mounts[0] / users / name, disk)}
    if not folders or (user and user not in folders):
        who = f"no folder of a user {user!r}" if user else "no folder of any user"
        raise ZestyError(
            f"In {mounts[0] / users} there is {who}.",
            next_step=f"Name one of {', '.join(sorted(folders)) or 'another disk'}, with --user or --mounted.",
        )
    chosen = user or max(folders, key=lambda name: _modified(mounts[0] / users / name, disk))
    others = ", ".join(sorted(folders - {chosen}))
    remark = f"a guess: the most recently active user; there are also {others}" if others and not user else ""
    head = f"# A first sheet, made by looking at {mounts[0]}. Verify everything that is marked as a guess.\n"
    computer = [
        Line("name", _name_of(mounts[0], system, disk), "a guess" if system is System.WINDOWS else ""),
        Line("system", system),
        Line("user", chosen, remark),
    ]
    tables = [head, table_text("computer", computer)]
    for number, mount in enumerate(mounts):
        volume = [*_volume_lines(system, mount, number), *_room_lines(disk.room_of_volume(mount))]
        tables.append(table_text("volume", volume, is_item=True))
    if users == "Documents and Settings":
        tables.append(table_text("places", [Line(name, text) for name, text in _OLD_WINDOWS_PLACES.items()]))
    text = "\n".join(tables)
    parse_document(text, SheetPart, "The new sheet")
    return text


def _recognised(mount: Path, disk: Disk) -> tuple[System, str]:
    """The system on a mounted disk, and the folder of its users' folders."""

    present = {name.lower() for name in disk.names(mount)}

    def has(*names: str) -> bool:
        return present.issuperset(name.lower() for name in names)

    if has("Documents and Settings", "WINDOWS") and not has("Users"):
        return System.WINDOWS, "Documents and Settings"
    if has("Users", "Windows"):
        return System.WINDOWS, "Users"
    if has("Users", "Library"):
        return System.MACOS, "Users"
    if has("home", "etc"):
        return System.LINUX, "home"
    raise ZestyError(
        f"No operating system recognized on {mount}: expected Users with Windows or Library, or home with etc.",
        next_step="Name the system disk first, or write the sheet yourself (see docs/sheets.md).",
    )


def _volume_lines(system: System, mount: Path, number: int) -> list[Line]:
    where = Line("mount", str(mount.absolute()))
    if system is System.WINDOWS:
        # C for the system is so usual that only the letters of the others are guesses worth the name.
        return [Line("anchor", f"{chr(ord('C') + number)}:", "a guess" if number else ""), where]
    if number == 0:
        return [Line("anchor", "/"), where]
    above = "/Volumes/" if system is System.MACOS else "/mnt/"
    return [Line("anchor", above + mount.name, "a guess"), where, Line("label", mount.name, "a guess")]


def _room_lines(room: tuple[int, int] | None) -> list[Line]:
    return [Line("size-bytes", room[0]), Line("free-bytes", room[1])] if room else []


def _name_of(mount: Path, system: System, disk: Disk) -> str:
    named = mount / "etc" / "hostname"
    if system is System.LINUX and _there(named, disk):
        return disk.read_text(named).strip() or mount.name
    return mount.absolute().name or "computer"


def _is_person(folder: Path, disk: Disk) -> bool:
    facts = disk.facts(folder)
    hidden = folder.name.startswith(".") or folder.name.lower() in _NOT_PEOPLE
    return facts is not None and facts.kind == "folder" and not hidden


def _modified(folder: Path, disk: Disk) -> int:
    try:
        facts = [disk.facts(folder / name) for name in disk.names(folder)]
    except DiskError:
        return 0
    return max((each.modified_ns for each in facts if each), default=0)


def _there(path: Path, disk: Disk) -> bool:
    return disk.facts(path) is not None


def _filled(name: str, places: dict[str, str]) -> str:
    text = places[name]
    for other in places:
        if "{" + other + "}" in text:
            text = text.replace("{" + other + "}", _filled(other, places))
    return text
