"""Whether the old computer may be wiped is looked at, and not remembered."""

from __future__ import annotations

import shutil
from pathlib import Path
from subprocess import CompletedProcess

import pytest

from conftest import Zesty
from support.trip import SQLITE, Trip, document

PLACES = """[places]
store = { windows = '{music}\\Store', macos = "{music}/Store", linux = "{music}/Store" }
"""
STICK = """[[volume]]
anchor = "E:"
mount = "stick"
[programs.lamps]
places = { store = 'E:\\Store' }
"""


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.database(trip.sounds(6))
    check = trip.moved()
    assert check.returncode == 0, check.stdout
    return trip


def still_open(said: CompletedProcess[str]) -> list[str]:
    assert said.returncode in (0, 3), said.stderr
    report = document(said)
    assert report["may-be-wiped"] == (said.returncode == 0)
    return [each["about"] for each in report["evidence"] if not each["holds"]]


def second(trip: Trip, folder: Path) -> list[str]:
    retire = trip.run("retire", trip.crate, "--from", trip.old, "--second-copy", folder, "--json")
    return still_open(retire)


def test_all_that_holds_is_said_with_what_was_compared(trip: Trip) -> None:
    retire = trip.retire()
    assert retire.returncode == 0, retire.stdout
    assert "may be wiped" in retire.stdout
    assert "and again now" in retire.stdout
    assert "the content of 6" in " ".join(retire.stdout.split())


def test_files_that_were_deleted_after_the_check_are_missed(trip: Trip) -> None:
    (trip.new_home / "Music/Lamps/3.wav").unlink()
    assert still_open(trip.retire("--json")) == ["the check on shed"]


def test_a_computer_that_is_not_here_needs_a_check_of_today(trip: Trip) -> None:
    (trip.root / "shed").rename(trip.root / "gone")
    assert "not looked at again" in trip.retire().stdout
    record = trip.crate / "moves/shed/check.json"
    text = record.read_text(encoding="utf-8")
    day = text.index('"checked": "')
    record.write_text(text[: day + 12] + "2020" + text[day + 16 :], encoding="utf-8")
    assert still_open(trip.retire("--json")) == ["the check on shed"]


def test_a_crate_whose_content_is_gone_or_damaged_is_no_crate(trip: Trip) -> None:
    payload = next((trip.crate / "data").rglob("3.wav"))
    payload.write_bytes(b"7.wav")
    assert "the crate" in still_open(trip.retire("--json"))
    payload.unlink()
    assert "the crate" in still_open(trip.retire("--json"))


def test_a_second_copy_is_another_one_and_whole(trip: Trip) -> None:
    shelf = trip.root / "shelf"
    shelf.mkdir()
    assert second(trip, shelf) == ["a second copy"]
    assert second(trip, trip.crate) == ["a second copy"]
    (shelf / "link").symlink_to(trip.crate)
    assert second(trip, shelf / "link") == ["a second copy"]
    shutil.copytree(trip.crate, shelf / "copy")
    assert second(trip, shelf / "copy") == []
    next((shelf / "copy/data").rglob("3.wav")).write_bytes(b"7.wav")
    assert second(trip, shelf / "copy") == ["a second copy"]


def test_every_volume_that_was_packed_is_looked_at(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE + '[[holding]]\nid = "store"\nkind = "media"\nat = "{store}"\n' + PLACES)
    trip.old.write_text(trip.old.read_text() + STICK)
    (trip.root / "stick/Store").mkdir(parents=True)
    (trip.root / "stick/Store/far.wav").write_bytes(b"far")
    trip.database(trip.sounds(2))
    trip.moved()
    (trip.root / "stick").rename(trip.root / "away")
    assert still_open(trip.retire("--json")) == ["the old computer since packing"]
    said = " ".join(trip.retire().stdout.split())
    assert "E: (files carried from it: 1)" in said


def test_a_clock_that_went_back_hides_no_change(trip: Trip) -> None:
    trip.run("undo", trip.crate, "--to", trip.new, "--yes")
    trip.unpack()
    journal = trip.crate / "moves/shed/journal.db"
    trip.execute(journal, "UPDATE step SET begun = '2001-01-01T00:00:00', ended = '2001-01-01T00:00:01' WHERE id > 2")
    trip.execute(journal, "UPDATE step SET undone = '2001-01-01T00:00:02' WHERE undone <> ''")
    assert "the check on shed" in still_open(trip.retire("--json"))
