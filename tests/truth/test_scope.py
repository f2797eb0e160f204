"""6: scope. What was not chosen is not carried, merged, counted as missing, or spoken of as opened."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import HEAD, SQLITE, Trip, document

GROUPS = """
[[holding.groups]]
table = "list"
key = "id"
name = "name"
members = { table = "line", group = "list", entry = "sound", order = "at" }
"""


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    """A catalog with two groups; the first one has a sound outside all folders of the program, and one that is gone."""
    trip = Trip(tmp_path, zesty)
    trip.guide(HEAD + SQLITE + GROUPS)
    outside = trip.home / "Desktop/bell.wav"
    outside.parent.mkdir()
    outside.write_bytes(b"bell")
    gone = "C:\\Users\\Odile\\Music\\Lamps\\gone.wav"
    at = trip.database([*trip.sounds(4), "C:\\Users\\Odile\\Desktop\\bell.wav", gone])
    database = sqlite3.connect(at)
    database.executescript(
        "CREATE TABLE list (id INTEGER PRIMARY KEY, name); CREATE TABLE line (list, sound, at);"
        "INSERT INTO list VALUES (1, 'Storm'), (2, 'Calm');"
        "INSERT INTO line VALUES (1, 1, 1), (1, 5, 2), (1, 6, 3), (2, 2, 1);"
    )
    database.close()
    return trip


def test_a_group_brings_its_media_from_anywhere_and_says_what_it_lacks(trip: Trip) -> None:
    trip.survey()
    packed = trip.pack("--group", "Storm")
    assert "gone.wav" in packed.stdout
    for step in (trip.plan, trip.unpack, trip.relink):
        assert step().returncode in (0, 1)
    assert (trip.new_home / "Desktop/bell.wav").read_bytes() == b"bell"
    assert [each.name for each in (trip.new_home / "Music/Lamps").iterdir()] == ["0.wav"]
    said = trip.check()
    assert said.returncode == 0, said.stdout
    report = document(trip.check("--json"))
    assert report["totals"]["missing"] == 0
    assert (report["totals"]["left-out"], report["totals"]["found"], report["totals"]["missing-before"]) == (3, 2, 1)
    assert "--outside" not in said.stdout
    out = sum(mark["verdict"] == "left-out" for mark in report["spot-checks"])
    assert out and f"; {out} outside the chosen scope" in said.stdout


def test_spot_checks_and_figures_are_of_what_was_chosen(trip: Trip) -> None:
    trip.survey()
    trip.pack("--folder", "C:\\Users\\Odile\\Music\\Lamps")
    for step in (trip.plan, trip.unpack, trip.relink):
        assert step().returncode in (0, 1)
    said = trip.check()
    assert said.returncode == 0, said.stdout
    assert "Outside the chosen scope, and not counted: Lamps: scenes." in said.stdout
    assert "Spot checks: 1 of 1 opened" in said.stdout  # the others are entries of a catalog that was not chosen
    report = document(trip.check("--json"))
    assert [each["id"] for each in report["holdings"]] == ["lamps/sounds"]
    assert report["unknown-media"] == []  # their catalog knows them, where it is


def test_what_is_on_the_new_computer_and_outside_the_scope_is_no_surplus(trip: Trip) -> None:
    there = trip.new_home / "Music/Lamps/other.wav"
    there.parent.mkdir(parents=True)
    there.write_bytes(b"other")
    trip.survey()
    trip.pack("--only", "lamps/scenes", "--outside")
    plan = document(trip.plan("--json"))
    assert [each["holding"] for each in plan["baseline"]] == ["lamps/scenes"]
    for step in (trip.unpack, trip.relink):
        assert step().returncode in (0, 1)
    report = document(trip.check("--json"))
    assert report["surplus"] == [] and report["unknown-media"] == []
    assert (report["totals"]["missing"], report["totals"]["left-out"]) == (0, 4), report["problems"]


def test_a_name_that_several_documents_have_asks_which(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    trip.guide(HEAD.rsplit("[[holding]]", 1)[0], "lamps")
    music = trip.home / "Music/Lamps"
    for folder in ("Barn", "Mill"):
        (music / folder).mkdir()
        (music / folder / f"{folder}.wav").write_bytes(folder.encode())
        (music / folder / "Storm.m3u8").write_text(f"{folder}.wav\n")
    trip.survey()
    asked = trip.pack("--group", "Storm.m3u8")
    assert asked.returncode == 3
    assert "Several documents have a group named 'Storm.m3u8'" in asked.stderr
    assert trip.pack("--group", "Storm.m3u8 in C:\\Users\\Odile\\Music\\Lamps\\Barn\\Storm.m3u8").returncode == 0
    assert sorted(each.name for each in trip.crate.rglob("*.wav")) == ["Barn.wav"]
