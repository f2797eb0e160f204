"""The same crate goes to any system, and names follow where the new volume tells them apart."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import Zesty
from support.moves import SmallMove, picture, shelf_paths

SHEET = """
[computer]
name = "barn"
system = "{system}"
user = "{user}"
[[volume]]
anchor = '{first}'
mount = "disks/first"
label = "System"
format = "{format}"
[[volume]]
anchor = '{second}'
mount = "disks/second"
label = "Box"
format = "{format}"
[programs.wimblethorn]
places = {{ store = '{store}' }}
"""
MACOS = {
    "system": "macos",
    "user": "bertille",
    "first": "/",
    "second": "/Volumes/Box",
    "format": "apfs-case",
    "store": "/Volumes/Box/Sounds",
}
LINUX = {
    "system": "linux",
    "user": "bertille",
    "first": "/",
    "second": "/mnt/box",
    "format": "ext4",
    "store": "/mnt/box/Sounds",
}
WINDOWS = {
    "system": "windows",
    "user": "Bertille",
    "first": "C:",
    "second": "G:",
    "format": "ntfs",
    "store": r"G:\Sounds",
}


@pytest.mark.parametrize(
    ("values", "rain", "owl", "catalog"),
    [
        (
            MACOS,
            "System/Users/bertille/Music/Wimblethorn Sounds/Weather/Rain/Rain 80% Softer.wav",
            "Owl Hoot.wav",
            "Users/bertille/Library/Application Support/Wimblethorn/shelf.db",
        ),
        (
            LINUX,
            "System/home/bertille/Music/Wimblethorn Sounds/Weather/Rain/Rain 80% Softer.wav",
            "Owl Hoot.wav",
            "home/bertille/.config/wimblethorn/shelf.db",
        ),
        (
            WINDOWS,
            "System/Users/Bertille/Music/Wimblethorn Sounds/Weather/Rain/Rain 80% Softer.wav",
            "OWL HOOT.wav",
            "Users/Bertille/AppData/Roaming/Wimblethorn/shelf.db",
        ),
    ],
    ids=["macos with case", "linux", "windows"],
)
def test_the_crate_goes_to_any_system(
    small: SmallMove, values: dict[str, str], rain: str, owl: str, catalog: str
) -> None:
    small.demo.new_sheet.write_text(SHEET.format(**values))
    for name in ("first", "second"):
        (small.new_disks / name).mkdir()
    before = picture(small.new_disks)
    assert small.plan().blockers == ()
    small.unpack()
    (relinked,) = small.relink().catalogs
    assert relinked.entries_moved == 8
    report = small.check()
    assert report.totals["found"] == 6, report.problems
    paths = shelf_paths(small.new_disks / "first" / catalog)
    assert rain in paths
    assert owl in {each.rpartition("/")[2] for each in paths}
    small.undo()
    assert picture(small.new_disks) == before


def test_a_volume_without_a_name_is_named_where_paths_begin_with_one(small: SmallMove) -> None:
    small.demo.new_sheet.write_text(SHEET.format(**LINUX).replace('label = "System"\n', ""))
    for name in ("first", "second"):
        (small.new_disks / name).mkdir()
    (blocker,) = small.plan().blockers
    assert "the sheet knows none of /" in blocker.what
    assert "its label in the sheet" in blocker.clear


def test_everything_can_be_looked_at_before_it_goes_live(zesty: Zesty, small: SmallMove, tmp_path: Path) -> None:
    before, look = picture(small.new_disks), tmp_path / "look"
    small.demo.new_sheet.write_text(small.demo.new_sheet.read_text().replace("running = false", "running = true"))
    target = (small.crate.root, "--to", small.demo.new_sheet, "--into", look)
    for command in (["unpack", "--yes"], ["relink", "--yes"], ["check"]):
        said = zesty(command[0], *target, *command[1:])
        assert said.returncode == 0, said.stdout + said.stderr
    assert f"--into {look}" in zesty("unpack", *target, "--yes").stdout
    assert (look / "Cartshed HD/Users/odile.k/Music/Wimblethorn Sounds/Lamp Lit.wav").exists()
    assert (look / "Spools/Lanternfold/Sound Store").is_dir()
    assert picture(small.new_disks) == before
    assert zesty("undo", *target, "--yes").returncode == 0
    assert not list(look.rglob("*.wav"))
    small.demo.new_sheet.write_text(small.demo.new_sheet.read_text().replace("running = true", "running = false"))
    small.unpack()
    small.relink()
    assert small.check().totals["found"] == 6
