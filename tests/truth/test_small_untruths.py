"""Small things that were said and not so."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import SQLITE, Trip, document
from zesty_crate.machines import Disk
from zesty_crate.paths import FORMATS

LIGHT = '[[holding]]\nid = "light"\nkind = "media"\nclass = "proxy"\nat = "{music}/Light"\n'


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE + "[program]\nseats = 2\n")
    trip.database(trip.sounds(2))
    return trip


def test_seats_in_use_are_told_where_they_are_known(trip: Trip) -> None:
    trip.survey()
    assert "its license has 2 seats." in " ".join(trip.run("todo", trip.crate).stdout.split())
    trip.old.write_text(trip.old.read_text() + "[programs.lamps]\nseats-used = 2\n")
    survey = trip.run("survey", trip.root / "again", "--from", trip.old, "--guides", trip.guides)
    assert "license seats: Lamps 2, 2 in use" in survey.stdout
    assert "2 seats, 2 in use." in " ".join(trip.run("todo", trip.root / "again").stdout.split())


def test_media_without_a_class_is_in_the_sums_of_classes(trip: Trip) -> None:
    trip.guide(SQLITE + LIGHT)
    (trip.home / "Music/Light").mkdir()
    (trip.home / "Music/Light/0.wav").touch()
    survey = trip.survey().stdout
    assert "media of class original: 2 files" in survey and "media of class proxy: 1 file" in survey


def test_a_format_that_contradicts_the_carriers_own_is_refused(trip: Trip) -> None:
    trip.survey()
    known = Disk().format_of(trip.root)
    if known not in FORMATS:
        pytest.skip("this carrier does not tell its format")
    trip.run("survey", trip.root / "again", "--from", trip.old, "--guides", trip.guides)
    refused = trip.run("pack", trip.root / "again", "--carrier-format", "fat32")
    assert refused.returncode == 3
    assert f"is {known}, and not fat32" in refused.stderr


def test_a_small_job_has_a_time_range_too(trip: Trip) -> None:
    trip.survey()
    assert "; about 1 s." in trip.pack().stderr


def test_what_was_only_relinked_is_not_newer(trip: Trip) -> None:
    trip.moved()
    os.utime(trip.new_database, (2_000_000_000, 2_000_000_000))
    (difference,) = document(trip.run("compare", trip.crate, "--with", trip.new, "--json"))["differences"]
    assert difference["why"].startswith("the same entries, groups and annotations")
    assert difference["newer"] == ""
    trip.execute(trip.new_database, "UPDATE sound SET path = '/Users/odile/Music/Lamps/other.wav' WHERE id = 1")
    os.utime(trip.new_database, (2_000_000_000, 2_000_000_000))
    (difference,) = document(trip.run("compare", trip.crate, "--with", trip.new, "--json"))["differences"]
    assert "the same entries" not in difference["why"]


def test_the_crate_goes_last(trip: Trip) -> None:
    trip.moved()
    removable = document(trip.retire("--json"))["removable"]
    assert removable[-1]["what"].startswith("the crate") and len(removable) > 1


def test_what_a_passed_check_did_not_find_is_explained(trip: Trip) -> None:
    at = trip.home / "AppData/Roaming/Lamps/scenes.db"
    trip.execute(at, "INSERT INTO sound (path) VALUES ('C:\\gone.wav')")
    trip.moved()
    said = " ".join(trip.retire().stdout.split())
    assert "2 of 3 entries found, the others as before the move or by choice (1 missing-before)" in said


def test_the_place_of_a_volume_is_not_missing_though_its_folder_lists_no_such_name(
    tmp_path: Path, zesty: Zesty
) -> None:
    """It is mounted in a folder of a disk that is here by itself, as on a bench."""
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.old.write_text(trip.old.read_text() + '[[volume]]\nanchor = "C:\\\\Stage"\nlabel = "Stage"\nmount = "stage"\n')
    for folder in (trip.root / "stage", trip.home / "Stage"):
        folder.mkdir()
    trip.database([*trip.sounds(2), "C:\\Stage", "C:\\Stairs"])
    told = trip.survey().stdout
    assert "changed: expected a file, found a folder\n    C:\\Stage\n" in told
    assert "missing-before: no file is there\n    C:\\Stairs\n" in told
