"""Lay out the demo: two computers as folders with a sheet each, and the guide of a made-up program."""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import dataclass
from importlib import resources
from pathlib import Path

from ..errors import ZestyError
from .catalog import write_catalog
from .content import DESKTOP, HOUSE, OPENING_LIST, PRESETS, STORE, STORM_LIST, Sound, sounds
from .sound import write_tone

_FIRST_DATE = 1_700_000_000  # in November 2023; every file of the demo is some days younger than the one before it
_A_DAY = 86_400

OLD_SHEET = r"""# The old computer of Lanternfold, a travelling shadow theatre.
[computer]
name   = "paintloft"
system = "windows"
user   = "Odile"

[[volume]]
anchor = "C:"
mount  = "disks/c"
label  = "System"
format = "ntfs"

[[volume]]
anchor = "E:"
mount  = "disks/e"
label  = "Spools"
format = "ntfs"

[[volume]]
anchor = "F:"              # the festival's stick, which nobody has found yet
label  = "Festival"
format = "exfat"

[programs.wimblethorn]
version = "3.2.1"
running = false
places  = { store = 'E:\Lanternfold\Sound Store' }
"""

NEW_SHEET = """# The new computer of Lanternfold.
[computer]
name   = "cartshed"
system = "macos"
user   = "odile.k"

[[volume]]
anchor = "/"
mount  = "disks/system"
label  = "Cartshed HD"
format = "apfs"

[[volume]]
anchor = "/Volumes/Spools"
mount  = "disks/spools"
label  = "Spools"
format = "apfs"

[programs.wimblethorn]
version = "3.2.1"
running = false
places  = { store = "/Volumes/Spools/Lanternfold/Sound Store" }
"""

_FOLDERS = {
    HOUSE: ("disks/c", "Users", "Odile", "Music", "Wimblethorn Sounds"),
    STORE: ("disks/e", "Lanternfold", "Sound Store"),
    DESKTOP: ("disks/c", "Users", "Odile", "Desktop"),
}
_OLD_OWN = ("disks/c", "Users", "Odile", "AppData", "Roaming", "Wimblethorn")
_NEW_HOME = ("disks/system", "Users", "odile.k")


@dataclass(frozen=True, slots=True)
class Demo:
    """Where everything of the demo is."""

    root: Path

    @property
    def old_sheet(self) -> Path:
        """The sheet of the old computer."""
        return self.root / "paintloft" / "sheet.toml"

    @property
    def new_sheet(self) -> Path:
        """The sheet of the new computer."""
        return self.root / "cartshed" / "sheet.toml"

    @property
    def guides(self) -> Path:
        """The technician's guides."""
        return self.root / "guides"

    @property
    def carrier(self) -> Path:
        """The drive that the crate travels on."""
        return self.root / "carrier"


def lay_out(root: Path, rows: Sequence[Sound] | None = None) -> Demo:
    """Make the demo computers in ``root``; ``rows`` are the catalog's records, all of Lanternfold's by default.

    Raises `ZestyError` when something is in that folder already.
    """
    if root.exists() and (not root.is_dir() or any(root.iterdir())):
        raise ZestyError(
            f"{root} is not an empty folder, and nothing in it may be lost.",
            next_step="Name a folder that is empty or not there yet: zesty demo FOLDER.",
        )
    demo = Demo(root)
    for folder in (demo.old_sheet.parent, demo.new_sheet.parent, demo.guides, demo.carrier):
        folder.mkdir(parents=True)
    guide = resources.files(__package__).joinpath("wimblethorn.toml").read_text(encoding="utf-8")
    texts = {demo.old_sheet: OLD_SHEET, demo.new_sheet: NEW_SHEET, demo.guides / "wimblethorn.toml": guide}
    for path, text in texts.items():
        path.write_text(text, encoding="utf-8", newline="\n")
        _date(path, 900)
    _lay_out_old(demo.old_sheet.parent, sounds() if rows is None else rows)
    _lay_out_new(demo.new_sheet.parent)
    return demo


def _lay_out_old(computer: Path, rows: Sequence[Sound]) -> None:
    for number, sound in enumerate(each for each in rows if each.on_disk):
        folder = computer.joinpath(*_FOLDERS[sound.drawer], *filter(None, sound.tray.split("\\")))
        folder.mkdir(parents=True, exist_ok=True)
        write_tone(folder / sound.on_disk, number)
        _date(folder / sound.on_disk, number)
    home = computer.joinpath("disks/c", "Users", "Odile")
    lists = {"Music/Lists/Storm.m3u8": STORM_LIST, "Documents/Opening night.xspf": OPENING_LIST}
    for number, (name, text) in enumerate(lists.items(), start=500):
        path = home / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text, encoding="utf-8", newline="")
        _date(path, number)
    waves = home / "AppData/Local/Wimblethorn Waves"
    waves.mkdir(parents=True)
    for number in range(12):
        (waves / f"{number:04x}.wave").write_bytes(bytes((number * n) % 251 for n in range(2000)))
        _date(waves / f"{number:04x}.wave", 300 + number)
    own = computer.joinpath(*_OLD_OWN)
    own.mkdir(parents=True)
    (own / "desk.ini").write_text("[desk]\nfade = 3\ncolumns = title stars note\n", encoding="utf-8", newline="\n")
    _date(own / "desk.ini", 350)
    _write_presets(own / "Presets", list(PRESETS))
    write_catalog(own / "shelf.db", rows)
    _date(own / "shelf.db", 400)


def _lay_out_new(computer: Path) -> None:
    """A fresh computer: the usual folders, and what the program's installer and its first start have left."""
    home = computer.joinpath(*_NEW_HOME)
    for name in ("Documents", "Desktop", "Downloads", "Music", "Library/Application Support/Wimblethorn"):
        (home / name).mkdir(parents=True)
    (computer / "disks/spools").mkdir(parents=True)
    welcome = home / "Documents" / "Read me first.txt"
    welcome.write_text("The new cart computer. Ask Bertille for the wireless key.\n", encoding="utf-8")
    _date(welcome, 700)
    presets = home / "Library/Application Support/Wimblethorn/Presets"
    _write_presets(presets, [name for name in PRESETS if name.startswith("Factory/")])


def _write_presets(folder: Path, names: list[str]) -> None:
    for number, name in enumerate(names):
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(PRESETS[name], encoding="utf-8", newline="\n")
        _date(path, 100 + number)


def _date(path: Path, days: int) -> None:
    seconds = _FIRST_DATE + days * _A_DAY
    os.utime(path, (seconds, seconds))
