"""What could not be carried can be packed once the cause is gone; odd things are told; links between files stay."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from conftest import Zesty
from support.moves import picture
from support.trip import SQLITE, Trip, document


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.database(trip.sounds(3))
    return trip


@pytest.mark.parametrize("unpacked", [False, True])
@pytest.mark.parametrize("second", [False, True])
def test_what_could_not_be_carried_is_packed_later(trip: Trip, *, second: bool, unpacked: bool) -> None:
    more: list[str | Path] = ["--second-copy", trip.root / "second"] if second else []
    (trip.root / "second").mkdir()
    assert trip.survey().returncode == 0
    away = trip.home / "Music/Lamps/1.wav"
    away.rename(trip.root / "for a while")
    packed = trip.pack(*more)
    assert packed.returncode == 1
    assert "could not be carried" in " ".join(packed.stdout.split())
    if unpacked:
        assert trip.arrived().returncode == 1
    (trip.root / "for a while").rename(away)
    again = trip.pack(*more)
    assert again.returncode == 0, again.stderr
    assert trip.pack(*more).returncode == 3  # there is nothing left to do
    assert trip.run("pack", trip.crate, "--verify-only").returncode == 0
    assert trip.arrived().returncode == 0
    assert (trip.new_home / "Music/Lamps/1.wav").read_bytes() == b"1.wav"
    if second:
        (copy,) = [each for each in (trip.root / "second").iterdir() if each.is_dir()]
        assert (copy / "tagmanifest-sha512.txt").exists()
        assert [*copy.rglob("1.wav")]


@pytest.mark.skipif(not hasattr(os, "mkfifo"), reason="this system has no pipes among its files")
def test_a_pipe_is_no_file(trip: Trip) -> None:
    pipe = trip.home / "Music/Lamps/1.wav"
    pipe.unlink()
    os.mkfifo(pipe)
    survey = document(trip.survey("--json"))
    assert (survey["totals"]["found"], survey["totals"]["unclear"]) == (2, 1)
    packed = trip.pack()
    assert packed.returncode == 1
    assert "neither a file, a folder nor a link" in " ".join(packed.stdout.split())


def test_hard_links_stay_one_file(trip: Trip) -> None:
    sounds = trip.home / "Music/Lamps"
    os.link(sounds / "1.wav", sounds / "a second name.wav")
    os.link(sounds / "1.wav", sounds / "the same.wav")
    survey = " ".join(trip.survey().stdout.split())
    assert "2 of these are only other names of the same file (hard links)" in survey
    start = picture(trip.root / "shed")
    assert trip.pack().returncode == 0
    assert trip.plan().returncode == 0
    unpacked = trip.unpack()
    assert "2 names of files that have several (hard links), linked again" in unpacked.stdout
    assert trip.unpack().returncode == 0
    assert trip.relink().returncode == 0
    assert trip.check().returncode == 0
    names = [trip.new_home / "Music/Lamps" / name for name in ("1.wav", "a second name.wav", "the same.wav")]
    assert len({name.stat().st_ino for name in names}) == 1
    assert trip.undo().returncode == 0
    assert picture(trip.root / "shed") == start


def test_names_of_one_file_that_go_to_two_volumes_are_said_to_part(trip: Trip) -> None:
    (trip.home / "Music/Lamps/deep").mkdir()
    os.link(trip.home / "Music/Lamps/1.wav", trip.home / "Music/Lamps/deep/the same.wav")
    (trip.root / "store").mkdir()
    trip.new.write_text(trip.new.read_text() + '[[volume]]\nanchor = "/Volumes/Store"\nmount = "store"\n')
    assert trip.survey().returncode == trip.pack().returncode == 0
    assert trip.plan("--route", "C:\\Users\\Odile\\Music\\Lamps\\deep=/Volumes/Store/deep").returncode == 0
    assert "1 file that was only another name of one (hard links)" in trip.unpack().stdout
    assert (trip.root / "store/deep/the same.wav").read_bytes() == b"1.wav"
