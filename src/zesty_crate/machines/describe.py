"""Write a first sheet by looking at this computer."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from ..documents import Line, parse_document, table_text
from ..paths import FORMATS, System, format_named
from .disk import Disk
from .host import Host
from .places import USUAL_PLACES
from .sheet import Sheet, SheetPart, load_sheet

THIS_COMPUTER = "this-computer"


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
    remark = "the administrator; name the person with --user" if host.is_administrator else ""
    computer = [Line("name", host.name()), Line("system", system), Line("user", host.user(), remark)]
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


def _room_lines(room: tuple[int, int] | None) -> list[Line]:
    return [Line("size-bytes", room[0]), Line("free-bytes", room[1])] if room else []


def _filled(name: str, places: dict[str, str]) -> str:
    text = places[name]
    for other in places:
        if "{" + other + "}" in text:
            text = text.replace("{" + other + "}", _filled(other, places))
    return text
