"""Lay out the demo: two computers as folders with a sheet each, and the guides of made-up programs."""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import dataclass
from importlib import resources
from pathlib import Path

from ..errors import ZestyError
from . import dapplegarth, gorsebell, handcart, mothwick, thrumbarrow, trailer
from .catalog import write_catalog
from .content import DESKTOP, HOUSE, OPENING_LIST, PRESETS, STORE, STORM_LIST, Sound, sounds
from .sound import tone

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
size-bytes = 512000000000
free-bytes = 41300000000

[[volume]]
anchor = "E:"
mount  = "disks/e"
label  = "Spools"
format = "ntfs"
size-bytes = 2000000000000
free-bytes = 730000000000

[[volume]]
anchor = "F:"              # the festival's stick, which nobody has found yet
label  = "Festival"
format = "exfat"

[programs.wimblethorn]
version = "3.2.1"
running = false
places  = { store = 'E:\Lanternfold\Sound Store' }

[programs.mothwick]
version = "1.8"

[programs.gorsebell]
version = "5.0.2"

[programs.thrumbarrow]
version = "2.4"
places  = { instruments = 'E:\Lanternfold\Instruments' }

[windows-registry]
file = "registry.reg"
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

[programs.mothwick]
version = "1.9"            # what is carried asks for 1.8

[programs.gorsebell]
version = "5.1"

[programs.thrumbarrow]
version = "2.4"
places  = { instruments = "/Volumes/Spools/Lanternfold/Instruments" }
"""

TENT_SHEET = r"""# Bertille's laptop: some instruments are to go there, too.
[computer]
name   = "tentwagon"
system = "windows"
user   = "Bertille"

[[volume]]
anchor = "C:"
mount  = "disks/c"
label  = "System"
format = "ntfs"

[programs.thrumbarrow]
version = "2.4"
places  = { instruments = 'C:\Users\Bertille\Documents\Instruments' }

[windows-registry]
file = "registry.reg"
"""

_WORKSHOP = (
    "Cutting plan, geese",
    "Cutting plan, heron",
    "Glue",
    "Rods and joints",
    "Screen frame",
    "Lamp box",
    "To buy",
)
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
    def tent_sheet(self) -> Path:
        """The sheet of a second new computer, to which the same crate may go."""
        return self.root / "tentwagon" / "sheet.toml"

    @property
    def cart_sheet(self) -> Path:
        """The sheet of a travel computer, whose catalog goes into the new one's."""
        return self.root / "handcart" / "sheet.toml"

    @property
    def guides(self) -> Path:
        """The technician's guides."""
        return self.root / "guides"

    @property
    def carrier(self) -> Path:
        """The drive that the crate travels on."""
        return self.root / "carrier"


def lay_out(root: Path, rows: Sequence[Sound] | None = None) -> Demo:
    """Make the demo computers in ``root``: the whole theatre, or one program alone with these ``rows`` in its catalog.

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
    guides = resources.files(__package__).joinpath("guides")
    texts = {demo.old_sheet: OLD_SHEET, demo.new_sheet: NEW_SHEET}
    for name in sorted(each.name for each in guides.iterdir()):
        if rows is None or name == "wimblethorn.toml":
            texts[demo.guides / name] = guides.joinpath(name).read_text(encoding="utf-8")
    for path, text in texts.items():
        _write(path, text.encode(), 900)
    _lay_out_old(demo.old_sheet.parent, sounds() if rows is None else rows)
    if rows is None:
        _lay_out_theatre(demo.old_sheet.parent)
    _lay_out_new(demo.new_sheet.parent)
    if rows is None:
        _lay_out_work(demo)
        _lay_out_tent(demo)
        _lay_out_cart(demo)
    return demo


def first_guide(demo: Demo) -> None:
    """The guide of Hobbinreel as it was first written, which takes every shot for a sequence of pictures."""
    path = demo.guides / "hobbinreel.toml"
    text = path.read_text(encoding="utf-8")
    head, _, _ = text.rpartition("[[holding.entries]]")
    _write(path, head.replace("$.shots[?!@.still]", "$.shots[*]").encode(), 900)


def correct_guide(demo: Demo) -> None:
    """What a technician does about a document that was read in part: tell the guide of what it did not know."""
    text = resources.files(__package__).joinpath("guides", "hobbinreel.toml").read_text(encoding="utf-8")
    _write(demo.guides / "hobbinreel.toml", text.encode(), 901)


def correct_sheet(demo: Demo) -> None:
    """What a technician does about the wrong version: install the right one, and say so in the sheet."""
    text = demo.new_sheet.read_text(encoding="utf-8")
    wrong = 'version = "1.9"            # what is carried asks for 1.8'
    _write(demo.new_sheet, text.replace(wrong, 'version = "1.8"').encode(), 900)


def _lay_out_old(computer: Path, rows: Sequence[Sound]) -> None:
    for number, sound in enumerate(each for each in rows if each.on_disk):
        folder = computer.joinpath(*_FOLDERS[sound.place], *filter(None, sound.folder.split("\\")))
        _write(folder / sound.on_disk, tone(number), number)
    home = computer.joinpath("disks/c", "Users", "Odile")
    lists = {"Music/Lists/Storm.m3u8": STORM_LIST, "Documents/Opening night.xspf": OPENING_LIST}
    for number, (name, text) in enumerate(lists.items(), start=500):
        _write(home / name, text.encode(), number)
    waves = home / "AppData/Local/Wimblethorn Waves"
    for number in range(12):
        _write(waves / f"{number:04x}.wave", bytes((number * n) % 251 for n in range(2000)), 300 + number)
    own = computer.joinpath(*_OLD_OWN)
    _write(own / "desk.ini", b"[desk]\nfade = 3\ncolumns = title stars note\n", 350)
    _write_presets(own / "Presets", list(PRESETS))
    write_catalog(own / "shelf.db", rows)
    _date(own / "shelf.db", 400)


def _lay_out_theatre(computer: Path) -> None:
    """All other programs, what was never filed, and an installer."""
    downloads = "disks/c/Users/Odile/Downloads"
    files = [
        *mothwick.files(),
        *gorsebell.files(sounds()),
        *thrumbarrow.files(),
        *dapplegarth.files(),
        *trailer.files(),
        ("registry.reg", thrumbarrow.registry()),
        (f"{downloads}/Wimblethorn take 7.wav", tone(71)),
        (f"{downloads}/from the barn/Wimblethorn take 8.wav", tone(71)),
        (f"{downloads}/wimblethorn-3.2.1.msi", bytes(range(256)) * 40),
        (f"{downloads}/bus times.txt", b"to the harbour: 7.10, 8.40\n"),
        *((f"disks/e/Workshop/{name}.txt", f"{name}\n".encode() * 200) for name in _WORKSHOP),
    ]
    for number, (name, content) in enumerate(files):
        _write(computer / name, content, number % 690)


def _lay_out_new(computer: Path) -> None:
    """A fresh computer: the usual folders, and what the program's installer and its first start have left."""
    home = computer.joinpath(*_NEW_HOME)
    for name in ("Documents", "Desktop", "Downloads", "Music", "Library/Application Support/Wimblethorn"):
        (home / name).mkdir(parents=True)
    (computer / "disks/spools").mkdir(parents=True)
    welcome = b"The new cart computer. Ask Bertille for the wireless key.\n"
    _write(home / "Documents/Read me first.txt", welcome, 700)
    presets = home / "Library/Application Support/Wimblethorn/Presets"
    _write_presets(presets, [name for name in PRESETS if name.startswith("Factory/")])


def _lay_out_work(demo: Demo) -> None:
    """What Odile has done on the new computer already, in the week before anybody came."""
    computer = demo.new_sheet.parent
    home = computer.joinpath(*_NEW_HOME)
    mailed = "Creatures/Toad Choir.wav"  # to herself, and saved where it belongs
    content = demo.old_sheet.parent.joinpath(*_FOLDERS[HOUSE], mailed).read_bytes()
    storm = b"#EXTM3U\n../Wimblethorn Sounds/Weather/Wind in the Eaves.wav\n"
    own = home / "Library/Application Support/Wimblethorn"
    work = (
        (own / "Presets/Barn.wsp", b"reverb = 0.7\nlow-cut = 55\n", 710),  # newer than what is carried
        (home / "Music/Lists/Storm.m3u8", storm, 200),  # older
        (home / "Music/Wimblethorn Sounds/Lamp Lit.wav", tone(72), 705),  # another sound of that name
        (home / "Music/Wimblethorn Sounds" / mailed, content, 705),
        (home / "Library/Application Support/Mothwick/Layouts/Two rows.layout", b"rows = 2\n", 690),
        (
            computer / "disks/system/Library/Application Support/Gorsebell/Plugins" / gorsebell.PLUGINS[0],
            gorsebell.PLUGINS[0].encode() * 20,
            600,
        ),
    )
    for path, written, days in work:
        _write(path, written, days)
    write_catalog(own / "shelf.db", ())
    _date(own / "shelf.db", 702)


def _lay_out_tent(demo: Demo) -> None:
    """A second computer with a registry of its own."""
    computer = demo.tent_sheet.parent
    for name in ("Documents", "Music"):
        (computer / "disks/c/Users/Bertille" / name).mkdir(parents=True)
    _write(demo.tent_sheet, TENT_SHEET.encode(), 900)
    _write(computer / "registry.reg", thrumbarrow.registry_of_tentwagon(), 700)


def _lay_out_cart(demo: Demo) -> None:
    """A travel computer, with a catalog that holds a week of work."""
    computer = demo.cart_sheet.parent
    known = demo.old_sheet.parent.joinpath(*_FOLDERS[HOUSE], handcart.KNOWN).read_bytes()
    for number, (name, content) in enumerate(handcart.files(known)):
        _write(computer / name, content, 695 + number)
    _write(demo.cart_sheet, handcart.SHEET.encode(), 900)
    shelf = computer / handcart.SHELF
    shelf.parent.mkdir(parents=True)
    handcart.write_shelf(shelf, known)
    _date(shelf, 712)


def _write_presets(folder: Path, names: list[str]) -> None:
    for number, name in enumerate(names):
        _write(folder / name, PRESETS[name].encode(), 100 + number)


def _write(path: Path, content: bytes, days: int) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(content)
    _date(path, days)


def _date(path: Path, days: int) -> None:
    seconds = _FIRST_DATE + days * _A_DAY
    os.utime(path, (seconds, seconds))
