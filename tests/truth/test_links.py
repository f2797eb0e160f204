"""Links: what a customer sees behind one is carried, placed, found again, and never mistaken for something else."""

from __future__ import annotations

import os
import shutil
import struct
import time
from itertools import count
from pathlib import Path

import pytest

from conftest import Zesty
from support.carriers import a_carrier
from support.moves import picture
from support.trip import SQLITE, Trip, document

pytestmark = pytest.mark.skipif(os.name == "nt", reason="links as another system has them")
SECOND_DISK = '[[volume]]\nanchor = "D:"\nmount = "spools"\n'


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.database(trip.sounds(3))
    return trip


def moved_to(trip: Trip, folder: Path, text: str) -> None:
    """Have the library on another disk, with a link in its place."""
    library = trip.home / "Music/Lamps"
    folder.parent.mkdir(parents=True, exist_ok=True)
    library.rename(folder)
    library.symlink_to(text)


@pytest.mark.parametrize("where", ["library", "on the way"])
def test_a_library_behind_a_link_is_carried_to_the_place_of_the_link(trip: Trip, where: str) -> None:
    trip.old.write_text(trip.old.read_text() + SECOND_DISK)
    if where == "library":
        moved_to(trip, trip.root / "spools/Lamps", "D:\\Lamps")
    else:
        (trip.root / "spools").mkdir()
        (trip.home / "Music").rename(trip.root / "spools/Media")
        (trip.home / "Music").symlink_to("D:\\Media")
    survey = document(trip.survey("--json"))
    assert survey["totals"]["found"] == 3
    assert survey["uncovered"] == []
    check = trip.moved()
    assert check.returncode == 0, check.stdout
    assert (trip.new_home / "Music/Lamps/2.wav").read_bytes() == b"2.wav"
    assert trip.new_paths()[2] == "/Users/odile/Music/Lamps/2.wav"


def test_a_technician_may_have_the_content_at_its_own_place_with_the_link_made_again(trip: Trip) -> None:
    trip.old.write_text(trip.old.read_text() + SECOND_DISK)
    folder = trip.home / "Music/Lamps/Storms"
    folder.symlink_to("D:\\Storms")
    storms = trip.root / "spools/Storms"
    storms.mkdir(parents=True)
    (storms / "a.wav").write_bytes(b"a")
    (storms / "round").symlink_to("D:\\Storms")
    at = trip.home / "AppData/Roaming/Lamps/scenes.db"
    trip.execute(at, "INSERT INTO sound (path) VALUES ('C:\\Users\\Odile\\Music\\Lamps\\Storms\\a.wav')")
    assert document(trip.survey("--json"))["totals"]["found"] == 4
    trip.pack()
    assert trip.plan("--route", "D:\\Storms=/Users/Shared/Storms").returncode == 0
    assert trip.arrived().returncode == 0
    assert (trip.root / "shed/Users/Shared/Storms/a.wav").read_bytes() == b"a"
    assert (trip.new_home / "Music/Lamps/Storms").readlink() == Path("/Users/Shared/Storms")
    assert trip.undo().returncode == 0
    assert not (trip.new_home / "Music").exists()


@pytest.mark.parametrize("asked", [True, False])
def test_a_file_behind_a_link_is_outside_and_carried_when_asked(trip: Trip, *, asked: bool) -> None:
    elsewhere = trip.home / "Elsewhere"
    elsewhere.mkdir()
    link = trip.home / "Music/Lamps/1.wav"
    link.rename(elsewhere / "1.wav")
    link.symlink_to("../../Elsewhere/1.wav")
    survey = trip.survey("--json")
    assert document(survey)["totals"]["outside"] == 1
    trip.pack(*["--outside"] * asked)
    check = trip.arrived()
    assert check.returncode == (0 if asked else 1), check.stdout
    assert document(trip.check("--json"))["totals"]["missing"] == (0 if asked else 1)
    assert "it was carried" not in check.stdout
    assert (trip.new_home / "Elsewhere/1.wav").exists() == asked
    assert ("Create the link" in trip.run("todo", trip.crate).stdout) != asked


def test_a_link_to_nothing_is_no_file(trip: Trip) -> None:
    link = trip.home / "Music/Lamps/1.wav"
    link.unlink()
    link.symlink_to("1.wav")
    survey = trip.survey()
    assert "1 missing-before" in survey.stdout or document(trip.survey_again("--json"))["totals"]["missing-before"] == 1


def test_absolute_links_of_a_mounted_computer_lead_within_it(trip: Trip, tmp_path: Path) -> None:
    """The new computer's own folder is a link to a path that exists on this computer, too."""
    bench = tmp_path / "shed/Users/odile/Music"
    bench.mkdir()
    (tmp_path / "shed" / str(tmp_path).lstrip("/")).mkdir(parents=True)
    own = tmp_path / "own"
    own.mkdir()
    (bench / "Lamps").symlink_to(str(own))
    for step in (trip.survey, trip.pack):
        assert step().returncode == 0
    blocked = trip.plan()
    assert blocked.returncode == 3
    assert "through a link which leads to nothing" in blocked.stdout
    (tmp_path / "shed" / str(own).lstrip("/")).mkdir()
    assert trip.arrived().returncode == 0
    assert [*own.iterdir()] == []
    assert (tmp_path / "shed" / str(own).lstrip("/") / "0.wav").exists()
    assert trip.undo().returncode == 0
    assert [*own.iterdir()] == []


@pytest.mark.parametrize("kind", ["file", "folder"])
def test_a_link_can_be_chosen_to_be_carried(trip: Trip, kind: str) -> None:
    elsewhere = trip.home / "Elsewhere"
    (elsewhere / "Storms").mkdir(parents=True)
    (elsewhere / "Storms/gale.wav").touch()
    link = trip.home / "Music/Lamps/link"
    link.symlink_to("../../Elsewhere/Storms" + ("/gale.wav" if kind == "file" else ""))
    assert trip.survey().returncode == 0
    packed = trip.pack("--folder", "C:\\Users\\Odile\\Music\\Lamps\\link")
    assert packed.returncode == 0, packed.stderr
    assert sorted(each.name for each in (trip.crate / "data").rglob("*") if each.is_file()) == ["gale.wav"]
    assert trip.arrived().returncode == 0
    found = trip.new_home / "Music/Lamps/link"
    assert (found if kind == "file" else found / "gale.wav").exists()


def out_of_the_disk(trip: Trip) -> Path:
    """A folder that was filled moves out of the new computer's disk, and an absolute link is left in its place."""
    placed, outside = trip.new_home / "Music/Lamps", trip.root / "bench"
    placed.rename(outside)
    placed.symlink_to(outside, target_is_directory=True)
    return outside


def test_undo_touches_nothing_through_a_link_that_leads_out(trip: Trip) -> None:
    assert trip.moved().returncode == 0
    outside = out_of_the_disk(trip)
    before = picture(outside)
    refused = trip.undo()
    assert refused.returncode == 3, refused.stdout
    assert "is reached by a link now" in " ".join(refused.stderr.split())
    assert "Lamps" in refused.stderr
    assert trip.undo("--leave-what-changed").returncode == 0
    assert picture(outside) == before
    assert not trip.new_database.exists()


def test_nothing_is_placed_through_a_link_that_appears_meanwhile(trip: Trip, zesty: Zesty) -> None:
    for step in (trip.survey, trip.pack, trip.plan):
        assert step().returncode == 0
    for at in count(1):  # until it is killed once the folder is there
        killed = zesty("unpack", trip.crate, "--to", trip.new, "--yes", kill_at=at)
        assert killed.returncode == -9
        if (trip.new_home / "Music/Lamps").exists():
            break
    outside = out_of_the_disk(trip)
    before = picture(outside)
    refused = trip.unpack()
    assert refused.returncode in (3, 4), refused.stdout
    assert "link" in refused.stderr
    assert picture(outside) == before
    assert trip.undo("--leave-what-changed").returncode == 0
    assert picture(outside) == before


def make_junction(link: Path, target: str) -> None:
    """A junction as Windows keeps one: a reparse point (MS-FSCC 2.1.2.5), which the driver takes as it is."""
    link.mkdir()
    names = [text.encode("utf-16-le") for text in ("\\??\\" + target, target)]
    places = (0, len(names[0]), len(names[0]) + 2, len(names[1]))
    data = struct.pack("<4H", *places) + b"".join(name + b"\0\0" for name in names)
    os.setxattr(link, "system.ntfs_reparse_data", struct.pack("<IHH", 0xA0000003, len(data), 0) + data)


def test_a_junction_on_a_real_ntfs_is_followed(trip: Trip, tmp_path: Path) -> None:
    with a_carrier(tmp_path / "disk", "ntfs") as disk:
        shutil.copytree(tmp_path / "loft", disk, dirs_exist_ok=True)
        trip.old.write_text(trip.old.read_text().replace('mount = "loft"', 'mount = "disk"'))
        library = disk / "Users/Odile/Music/Lamps"
        (disk / "Store").mkdir()
        library.rename(disk / "Store/Lamps")
        make_junction(library, "C:\\Store\\Lamps")
        time.sleep(1.1)  # for a second the driver remembers the folder that it was
        assert document(trip.survey("--json"))["totals"]["found"] == 3
        assert trip.moved().returncode == 0
        assert sorted(each.name for each in (trip.new_home / "Music/Lamps").iterdir()) == ["0.wav", "1.wav", "2.wav"]
