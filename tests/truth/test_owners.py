"""11: owners and modes. What is placed belongs to the home it goes into, with the permissions of its own system."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import NEW, SQLITE, Trip

WHO = 54_321
pytestmark = pytest.mark.skipif(not hasattr(os, "geteuid") or os.geteuid() != 0, reason="only an administrator may")


def owners(folder: Path) -> set[int]:
    return {each.lstat().st_uid for each in folder.rglob("*")}


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.database(trip.sounds(3)).chmod(0o777)
    for each in (trip.home / "Music/Lamps").iterdir():
        each.chmod(0o777)  # as a disk of Windows is seen here
    os.chown(trip.new_home, WHO, WHO)
    return trip


def test_what_is_placed_relinked_and_taken_back_belongs_to_the_home(trip: Trip) -> None:
    there = trip.new_home / "Music/Lamps/0.wav"
    for folder in (there.parent.parent, there.parent):
        folder.mkdir()
        os.chown(folder, WHO, WHO)
    there.write_bytes(b"another one")
    there.chmod(0o640)
    os.chown(there, WHO, WHO)
    trip.survey()
    trip.pack()
    trip.plan("--decide", "bring-in")
    for step in (trip.unpack, trip.relink):
        assert step().returncode == 0
    assert owners(trip.new_home) == {WHO}
    assert there.stat().st_mode & 0o777 == 0o640  # of what it replaced
    modes = {each.stat().st_mode & 0o777 for each in trip.new_home.rglob("*") if each != there}
    assert modes == {0o755, 0o644}
    assert trip.undo().returncode == 0
    assert there.read_bytes() == b"another one"
    assert owners(trip.new_home) == {WHO} and there.stat().st_mode & 0o777 == 0o640


def test_a_relink_leaves_a_catalog_to_its_owner(trip: Trip) -> None:
    for step in (trip.survey, trip.pack, trip.plan, trip.unpack):
        assert step().returncode in (0, 1)
    os.chown(trip.new_database, WHO + 1, WHO)
    trip.new_database.chmod(0o600)
    assert trip.relink().returncode == 0
    found = trip.new_database.stat()
    assert (found.st_uid, found.st_mode & 0o777) == (WHO + 1, 0o600)


def test_permissions_travel_between_posix_systems(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.old.write_text(NEW.replace("shed", "loft"))
    trip.home = trip.root / "loft/Users/odile"
    lamps = trip.home / "Music/Lamps"
    lamps.mkdir(parents=True)
    (lamps / "quiet.wav").touch(0o600)
    (lamps / "run.sh").touch()
    (lamps / "run.sh").chmod(0o750)
    for step in (trip.survey, trip.pack, trip.plan, trip.unpack):
        assert step().returncode in (0, 1)
    placed = trip.new_home / "Music/Lamps"
    assert {each.name: each.stat().st_mode & 0o777 for each in placed.iterdir()} == {
        "quiet.wav": 0o600,
        "run.sh": 0o750,
    }
