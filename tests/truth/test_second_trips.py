"""8: a second trip. What an earlier move placed and nobody touched since is no conflict; nothing newer stays out."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import SQLITE, Trip, document


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    """After a first move; the crate of the second one is another."""
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.database(trip.sounds(3), table="sound (id INTEGER PRIMARY KEY, path, stars)")
    assert trip.moved().returncode == 0
    trip.crate = trip.root / "second"
    return trip


def planned(trip: Trip, *more: str) -> dict[str, tuple[str | None, str]]:
    """How each conflict comes out, and by which crate."""
    for step in (trip.survey, trip.pack):
        assert step().returncode in (0, 1)
    conflicts = document(trip.plan("--json", *more))["conflicts"]
    return {Path(each["new"]).name: (each["outcome"], each["earlier"]) for each in conflicts}


def rated(at: Path, trip: Trip, stars: int) -> None:
    trip.execute(at, f"UPDATE sound SET stars = {stars} WHERE id = 1")


def test_an_evenings_work_is_brought_in_though_relinking_was_later(trip: Trip) -> None:
    old = trip.home / "AppData/Roaming/Lamps/scenes.db"
    relinked_at = trip.new_database.stat().st_mtime
    rated(old, trip, 5)
    os.utime(old, (relinked_at - 3600, relinked_at - 3600))  # before the moment of relinking
    assert planned(trip) == {"scenes.db": ("bring-in", "crate")}
    for step in (trip.unpack, trip.relink):
        assert step().returncode == 0
    assert trip.new_paths("SELECT stars FROM sound WHERE id = 1") == [5]
    assert trip.new_paths()[0] == "/Users/odile/Music/Lamps/0.wav"
    said = trip.check()
    assert said.returncode == 0, said.stdout


def test_what_only_the_new_computer_changed_stays(trip: Trip) -> None:
    rated(trip.new_database, trip, 3)
    assert planned(trip) == {"scenes.db": ("keep", "crate")}
    for step in (trip.unpack, trip.relink):
        assert step().returncode == 0
    assert trip.new_paths("SELECT stars FROM sound WHERE id = 1") == [3]
    said = trip.check()
    assert said.returncode == 0, said.stdout
    report = document(trip.check("--json"))
    assert (report["totals"]["found"], report["unknown-media"]) == (3, [])  # of the catalog that was kept


def test_what_both_changed_is_a_conflict_with_a_common_origin(trip: Trip) -> None:
    rated(trip.home / "AppData/Roaming/Lamps/scenes.db", trip, 5)
    rated(trip.new_database, trip, 3)
    assert planned(trip) == {"scenes.db": (None, "")}
    assert "Both were changed since the move of" in trip.plan().stdout


def test_decisions_are_proposed_again(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.database(trip.sounds(1))
    there = trip.new_home / "Music/Lamps/0.wav"
    there.parent.mkdir(parents=True)
    there.write_bytes(b"their own")
    for step in (trip.survey, trip.pack, lambda: trip.plan("--decide", "lamps/sounds=keep"), trip.unpack):
        assert step().returncode in (0, 1)  # type: ignore[no-untyped-call]
    trip.crate = trip.root / "second"
    assert planned(trip)["0.wav"] == ("keep", "")


def test_media_of_a_catalog_that_was_there_are_known(trip: Trip) -> None:
    """After *both*, each of the two catalogs knows its own media."""
    rated(trip.home / "AppData/Roaming/Lamps/scenes.db", trip, 5)
    own = trip.new_home / "Music/Lamps/own.wav"
    own.write_bytes(b"own")
    trip.execute(trip.new_database, f"INSERT INTO sound VALUES (9, '{own.relative_to(trip.root / 'shed')}', 1)")
    trip.execute(trip.new_database, "UPDATE sound SET path = '/' || path WHERE id = 9")
    planned(trip, "--decide", "lamps/scenes=both")
    for step in (trip.unpack, trip.relink):
        assert step().returncode == 0
    report = document(trip.check("--json"))
    assert report["unknown-media"] == []


def test_the_first_move_is_taken_back_after_the_second(trip: Trip) -> None:
    rated(trip.home / "AppData/Roaming/Lamps/scenes.db", trip, 5)
    planned(trip)
    for step in (trip.unpack, trip.relink):
        assert step().returncode == 0
    trip.crate = trip.root / "crate"
    refused = trip.undo()
    assert refused.returncode == 3
    assert "A later move, of the crate second" in refused.stderr
    trip.crate = trip.root / "second"
    assert trip.undo().returncode == 0
    trip.crate = trip.root / "crate"
    assert trip.undo().returncode == 0
    assert [*trip.new_home.rglob("*.wav")] == []


def test_a_crate_that_builds_on_another_sees_what_changed_in_documents(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE + 'annotations = ["stars"]\n')
    old = trip.database(trip.sounds(3), table="sound (id INTEGER PRIMARY KEY, path, stars)")
    lists = trip.home / "Music/Lists"
    lists.mkdir()
    (lists / "Storm.m3u8").write_text("..\\Lamps\\0.wav\n..\\Lamps\\1.wav\n")
    trip.survey()
    trip.pack()
    first, trip.crate = trip.crate, trip.root / "second"
    rated(old, trip, 4)
    (lists / "Barn.m3u8").write_text("..\\Lamps\\2.wav\n")  # which is found before the other one
    trip.survey()
    since = document(trip.pack("--since", str(first), "--json"))["since"]
    counted = (since["entries-new"], since["entries-changed"], since["entries-gone"], since["documents-changed"])
    assert counted == (1, 1, 0, 2)
