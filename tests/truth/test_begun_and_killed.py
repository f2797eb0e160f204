"""What was killed is gone on with, or taken back, by the same command; and nothing of it stays behind."""

from __future__ import annotations

import shutil
from itertools import count
from pathlib import Path

import pytest

from conftest import Zesty
from moving.test_storm import World
from support.moves import picture
from support.outside import LONG_STRIDE, STRIDE
from support.trip import SQLITE, Trip

KILLED = -9


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.database(trip.sounds(4))
    return trip


def test_a_killed_routine_leaves_one_whole_crate(trip: Trip, zesty: Zesty) -> None:
    weekly, routine = trip.root / "weekly", ("--from", trip.old, "--guides", trip.guides)
    for at in count(1, STRIDE):
        shutil.rmtree(weekly, ignore_errors=True)
        weekly.mkdir()
        killed = zesty("pack", "--routine", weekly, *routine, kill_at=at)
        again = zesty("pack", "--routine", weekly, *routine)
        assert again.returncode == 0, again.stderr
        if killed.returncode != KILLED:
            break
        left = sorted(each.name for each in weekly.iterdir())
        whole = [name for name in left if (weekly / name / "tagmanifest-sha512.txt").exists()]
        assert left == whole, f"killed at change {at}"
    assert at > 2 * STRIDE


def test_what_an_earlier_day_left_of_a_survey_goes(trip: Trip, zesty: Zesty) -> None:
    weekly = trip.root / "weekly"
    remains, other = weekly / "Odile - loft - 2020-02-02", weekly / "Odile - loft - 2020-02-03"
    (remains / "zesty/guides").mkdir(parents=True)
    (remains / "zesty/survey.db.part").write_bytes(bytes(100))
    other.mkdir()
    (other / "letter.txt").write_text("mine")
    assert zesty("pack", "--routine", weekly, "--from", trip.old, "--guides", trip.guides).returncode == 0
    assert not remains.exists()
    assert (other / "letter.txt").exists()


def test_a_killed_rehome_is_gone_on_with_by_the_same_command(trip: Trip, zesty: Zesty) -> None:
    keep = trip.root / "kept"
    old, new = "C:\\Users\\Odile\\Music\\Lamps", "C:\\Lamps"
    rehome = ("relink", "--at", trip.old, "--guides", trip.guides, "--keep-in", keep, "--rehome", f"{old}={new}")
    start = trip.root / "start"
    shutil.copytree(trip.root / "loft", start, symlinks=True)
    before, after = picture(start), None
    for at in count(1, LONG_STRIDE):
        shutil.rmtree(keep, ignore_errors=True)
        shutil.rmtree(trip.root / "loft")
        shutil.copytree(start, trip.root / "loft", symlinks=True)
        killed = zesty(*rehome, "--yes", kill_at=at)
        again = zesty(*rehome, "--yes", "--json")
        if killed.returncode != KILLED:
            assert killed.returncode == 0, killed.stderr
            break
        if again.returncode == 3:
            assert "was moved there by an earlier run" in again.stdout, f"killed at change {at}: {again.stdout}"
        else:
            assert again.returncode == 0, f"killed at change {at}: {again.stdout}{again.stderr}"
        after = after or picture(trip.root / "loft", dates=False)
        assert picture(trip.root / "loft", dates=False) == after, f"killed at change {at}"
        (crate,) = keep.iterdir()
        assert zesty("undo", crate, "--to", trip.old, "--yes").returncode == 0
        assert picture(trip.root / "loft") == before, f"undone after it was killed at change {at}"
    assert at > LONG_STRIDE


def test_a_folder_that_was_moved_already_is_said_to_be(trip: Trip, zesty: Zesty) -> None:
    old, new = "C:\\Users\\Odile\\Music\\Lamps", "C:\\Lamps"
    rehome = ("relink", "--at", trip.old, "--guides", trip.guides, "--keep-in", trip.root / "kept", "--yes")
    assert zesty(*rehome, "--rehome", f"{old}={new}").returncode == 0
    again = zesty(*rehome, "--rehome", f"{old}={new}")
    assert again.returncode == 3
    assert "was moved there by an earlier run" in " ".join(again.stderr.split())


def test_a_killed_relinking_in_place_is_gone_on_with(trip: Trip, zesty: Zesty) -> None:
    (trip.home / "Music/Lamps").rename(trip.home / "Desktop")
    here = ("--at", trip.old, "--guides", trip.guides)
    relink = ("relink", *here, "--keep-in", trip.root / "kept", "--look-in", "C:\\Users\\Odile\\Desktop", "--yes")
    start = trip.root / "start"
    shutil.copytree(trip.root / "loft", start, symlinks=True)
    for at in count(1, LONG_STRIDE):
        shutil.rmtree(trip.root / "kept", ignore_errors=True)
        shutil.rmtree(trip.root / "loft")
        shutil.copytree(start, trip.root / "loft", symlinks=True)
        killed = zesty(*relink, kill_at=at)
        if killed.returncode != KILLED:
            assert killed.returncode == 0, killed.stderr
            break
        again = zesty(*relink, "--json")
        assert again.returncode == 0, f"killed at change {at}: {again.stdout}{again.stderr}"
        left = [path for path in (trip.root / "loft").rglob("*") if "part" in path.name or "zesty" in path.name]
        assert left == [], f"killed at change {at}"
        checked = zesty("check", *here)
        assert "4 catalog entries: 4 found" in checked.stdout, f"killed at change {at}: {checked.stdout}"
        assert len(list((trip.root / "kept").iterdir())) <= 1


def test_a_killed_undo_of_a_registry_is_gone_on_with(tmp_path: Path, zesty: Zesty) -> None:
    world, crate = World(40, Trip(tmp_path, zesty)), tmp_path / "carrier"
    assert (tmp_path / "shed.reg").exists()
    start = world.seen()
    for command in world.commands(crate):
        assert zesty(*command).returncode in (0, 1)
    for at in count(1):
        if zesty(*world.undone(crate), kill_at=at).returncode != KILLED:
            break
    again = zesty(*world.undone(crate))
    assert again.returncode == 0 or "nothing to undo" in again.stderr
    assert world.seen() == start
