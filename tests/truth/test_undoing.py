"""Undoing never gets stuck: what a person changed is named, kept on request, and everything else is undone."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import SQLITE, Trip, document


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.database(trip.sounds(3))
    assert trip.moved().returncode == 0
    return trip


def placed(trip: Trip) -> list[Path]:
    return [path for path in trip.new_home.rglob("*") if path.is_file()]


@pytest.mark.parametrize("moved_away", [True, False])
def test_a_catalog_that_a_person_moved_or_deleted_is_no_obstacle(trip: Trip, *, moved_away: bool) -> None:
    away = trip.new_home / "my scenes.db"
    if moved_away:
        trip.new_database.rename(away)
    else:
        trip.new_database.unlink()
    undo = trip.undo()
    assert undo.returncode == 0, undo.stderr
    assert placed(trip) == ([away] if moved_away else [])
    assert "not there any more: 1" in undo.stdout
    assert "scenes.db" in undo.stdout
    assert trip.undo().returncode == 3, "there is nothing left to undo"


def test_an_edited_file_of_the_same_size_and_date_is_not_removed(trip: Trip) -> None:
    edited = trip.new_home / "Music/Lamps/1.wav"
    facts = edited.stat()
    edited.write_bytes(b"9.wav")
    os.utime(edited, ns=(facts.st_atime_ns, facts.st_mtime_ns))
    refused = trip.undo()
    assert (refused.returncode, "1.wav" in refused.stderr) == (3, True)
    assert "--leave-what-changed" in refused.stderr
    assert len(placed(trip)) == 4
    undo = trip.undo("--leave-what-changed", "--json")
    assert undo.returncode == 0, undo.stderr
    assert placed(trip) == [edited]
    (left,) = document(undo)["left"]
    assert "1.wav: its content was changed" in left


def test_a_relinked_catalog_with_new_work_can_be_left_while_all_else_is_undone(trip: Trip) -> None:
    trip.execute(trip.new_database, "INSERT INTO sound (path) VALUES ('/Users/odile/new.wav')")
    assert trip.undo().returncode == 3
    undo = trip.undo("--leave-what-changed")
    assert undo.returncode == 0, undo.stderr
    assert placed(trip) == [trip.new_database]
    assert len(trip.new_paths()) == 4
    assert "is as it was" not in undo.stdout


def test_a_report_says_that_the_move_was_undone(trip: Trip) -> None:
    assert "This move was undone" not in trip.page()
    trip.undo()
    page = trip.page()
    assert "This move was undone" in page
    assert "finds it now" not in page
