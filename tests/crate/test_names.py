"""Names on carriers: any name of any system, on any format, and on a real NTFS where one can be mounted."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import bagit
import pytest
from hypothesis import given
from hypothesis import strategies as st

from support.carriers import a_carrier
from support.outside import outside
from zesty_crate.crate import Crate, Scope, create_crate, open_finished, pack
from zesty_crate.crate.naming import PayloadNames, carrier_key
from zesty_crate.guides import load_guides
from zesty_crate.machines import Computer, Volume, load_sheet
from zesty_crate.moving import prepare_unpack, unpack
from zesty_crate.paths import FORMATS, MachinePath, System, name_fault
from zesty_crate.plan import make_plan, open_move

GUIDE = """[guide]
id = "songs"
title = "Songs"
language = 1
[[holding]]
id = "media"
kind = "media"
at = "{music}/Songs"
"""
SHEET = """[computer]
name = "{0}"
system = "{1}"
user = "odile"
[[volume]]
anchor = "{2}"
mount = "disk"
"""
HOMES = {System.WINDOWS: "Users/odile", System.MACOS: "Users/odile", System.LINUX: "home/odile"}
DEEP = "/".join(f"A folder in which there is another folder, number {number:02}" for number in range(30))
COMMON = ["Owl Hoot.wav", "100% Rain.wav", "~(25) tilde.wav", "For\u00eat.wav", "Rain/Deep/Drip.wav", "\u96e8" * 60]
NAMES = {
    System.WINDOWS: [*COMMON, "\u96e8" * 85, "Mouse & Moth.wav", "a" * 251 + ".wav"],
    System.MACOS: [*COMMON, "Why?.wav", "a:b.wav", "con", "NUL.txt", "ends with a dot.", "ends with a blank ", "a\\b"],
    System.LINUX: [
        *COMMON,
        "Why?.wav",
        'say "ah".wav',
        "con",
        "aux.wav",
        "dots...",
        " ",
        "owl hoot.wav",
        "OWL HOOT.WAV",
        "Fore\u0302t.wav",
        "line\nbreak",
        "\udcff\udcfe.wav",
        "e" * 255,
        "E" * 255,
        f"{DEEP}/end.wav",
        f"{DEEP}/End.wav",
        "rain/deep/Drip.wav",
    ],
}


def lay_out(root: Path, system: System) -> dict[str, bytes]:
    """A computer with nasty names; its files below the holding, with their content."""
    folder = root / "old/disk" / HOMES[system] / "Music/Songs"
    made = {}
    for number, name in enumerate(NAMES[system]):
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(b"%d" % number)
        made[name] = b"%d" % number
    for name in ("old", "new"):
        (root / name / "disk" / HOMES[system] / "Music").mkdir(parents=True, exist_ok=True)
        anchor = "C:" if system is System.WINDOWS else "/"
        (root / name / "sheet.toml").write_text(SHEET.format(name, system.value, anchor))
    (root / "guides").mkdir()
    (root / "guides/songs.toml").write_text(GUIDE)
    return made


def carried_over(root: Path, carrier: Path, system: System) -> dict[str, bytes]:
    """Survey, pack onto the carrier, unpack: the files on the new computer."""
    world = outside()
    crate = Crate(carrier / "crate")
    guides = load_guides([root / "guides"], world.disk)
    create_crate(crate, load_sheet(root / "old/sheet.toml", world.disk), guides, world)
    pack(crate, Scope(), world)
    assert bagit.Bag(str(crate.root)).is_valid()
    move = open_move(open_finished(crate.root, world.disk), load_sheet(root / "new/sheet.toml", world.disk), world)
    try:
        assert make_plan(move).blockers == ()
        unpack(move, prepare_unpack(move))
    finally:
        move.survey.close()
    folder = root / "new/disk" / HOMES[system] / "Music/Songs"
    return {str(path.relative_to(folder)): path.read_bytes() for path in folder.rglob("*") if path.is_file()}


@pytest.mark.parametrize("system", list(System))
def test_any_name_comes_back_as_it_was(system: System, tmp_path: Path) -> None:
    made = lay_out(tmp_path, system)
    assert carried_over(tmp_path, tmp_path, system) == made
    for path in (tmp_path / "crate/data").rglob("*"):
        assert_fits_everywhere(path.relative_to(tmp_path / "crate").as_posix())


def assert_fits_everywhere(payload: str) -> None:
    for part in payload.split("/"):
        assert [form for form, rules in FORMATS.items() if name_fault(part, rules)] == []
    assert len(payload.encode()) < 1000
    assert "%" not in payload


@pytest.fixture
def ntfs(tmp_path: Path) -> Iterator[Path]:
    """A real NTFS volume that takes no names which Windows would not."""
    with a_carrier(tmp_path / "ntfs", "ntfs") as mount:
        yield mount


@pytest.mark.parametrize("system", list(System))
def test_any_name_goes_over_a_real_ntfs(system: System, tmp_path: Path, ntfs: Path) -> None:
    made = lay_out(tmp_path, system)
    with pytest.raises(OSError, match="why"):
        (ntfs / "why?").write_text("x")
    assert carried_over(tmp_path, ntfs, system) == made


ANY_NAME = st.text(st.characters(exclude_characters="/\0"), min_size=1, max_size=80).filter(
    lambda name: (
        name not in (".", "..")
        and len(name.encode("utf-8", "surrogateescape" if name.isascii() else "surrogatepass")) <= 255
    )
)


@given(st.lists(st.lists(ANY_NAME, min_size=1, max_size=12).map(tuple), min_size=1, max_size=12, unique=True))
def test_whatever_the_names_are_they_fit_every_carrier_and_stay_apart(paths: list[tuple[str, ...]]) -> None:
    anchor = MachinePath(System.LINUX, "/", ())
    computer = Computer("barn", System.LINUX, "o", [Volume(anchor, FORMATS["ext4"], "", Path())], {})
    every = {anchor.below(*parts[:depth]) for parts in paths for depth in range(1, len(parts) + 1)}
    names = PayloadNames(computer, every)
    written = {path: names.name_of(path) for path in every}
    for name in written.values():
        assert_fits_everywhere(name)
    assert len({carrier_key(name) for name in written.values()}) == len(every)
