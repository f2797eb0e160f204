"""5: nothing unknown. What no holding covers is told, carried or left by a person's decision, and holds retire."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import JSON, Trip, document

SWEPT = """[guide]
id = "cues"
title = "Cues"
language = 1
[[holding]]
id = "cues"
kind = "project"
sweep = ["*.cues"]
"""


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    """A catalog with three sounds, and beside them letters, a folder on the disk itself, and the system's own."""
    trip = Trip(tmp_path, zesty)
    trip.guide(JSON)
    sounds = [{"path": each} for each in trip.sounds(3)]
    (trip.home / "AppData/Roaming/Lamps/scenes.json").write_text(str({"sounds": sounds}).replace("'", '"'))
    _fill(trip.root / "loft/Projekte/Mill", 12)
    _fill(trip.home / "Documents/Letters", 6)
    _fill(trip.home / "Music", 7)  # right in a folder that holds the place of a holding
    _fill(trip.root / "loft/Windows/System32", 9)
    _fill(trip.root / "loft/Program Files/Lamps", 9)
    (trip.home / "Documents/desktop.ini").touch()
    return trip


def _fill(folder: Path, number: int) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    for each in range(number):
        (folder / f"{each}.txt").write_bytes(bytes(1000))


def test_what_no_holding_covers_is_told_by_its_top_folders(trip: Trip) -> None:
    said = trip.survey()
    assert said.returncode == 1
    assert "Not covered by any holding: 25 files" in said.stdout
    report = document(trip.survey_again("--json"))
    found = {each["at"]: (each["files"], each["size-bytes"]) for each in report["uncovered"]}
    assert found == {
        "C:\\Projekte": (12, 12_000),
        "C:\\Users\\Odile\\Documents": (6, 6_000),
        "C:\\Users\\Odile\\Music": (7, 7_000),
    }
    assert {"C:\\Windows", "C:\\Program Files"} <= {*report["system-folders"]}
    listed = trip.survey_again("--details", "coverage").stdout
    assert "C:\\Windows" in listed and "C:\\Users\\Odile\\Music, right in it: 7 files" in listed


def test_documents_that_name_files_are_told(trip: Trip) -> None:
    named = "C:/Users/Odile/Music/Lamps/0.wav"
    lines = [*(named.replace("0.wav", f"{n}.wav") for n in range(3)), "C:/Users/Odile/Music/gone.wav"]
    (trip.root / "loft/Projekte/Mill/scene.xyz").write_text("".join(f"lamp\t{each}\n" for each in lines))
    wide = f"<a b='file:///{named}'/>".encode("utf-16-le")
    (trip.root / "loft/Projekte/Mill/wide.xyz").write_bytes(b"head" + wide)
    said = trip.survey()
    assert "C:\\Projekte\\Mill\\scene.xyz: 4 paths near its beginning, 75 % lead to files" in said.stdout
    report = document(trip.survey_again("--json"))
    told = {each["at"]: (each["paths"], each["found"]) for each in report["uncovered-documents"]}
    assert told == {"C:\\Projekte\\Mill\\scene.xyz": (4, 3), "C:\\Projekte\\Mill\\wide.xyz": (1, 1)}


def test_two_words_cover_most_and_what_is_named_goes_along(trip: Trip) -> None:
    said = trip.survey("--also", "personal", "--also", "C:\\Projekte", "--json")
    assert said.returncode == 0, said.stdout
    assert document(said)["uncovered"] == []
    assert trip.pack().returncode == 0
    blocked = trip.plan()
    assert "C:\\Projekte" in blocked.stdout  # it has no usual place on another computer, and none is guessed
    assert trip.plan("--route", "C:\\Projekte=/Users/odile/Projekte").returncode == 0
    assert trip.unpack().returncode == 0
    assert len([*(trip.new_home / "Projekte/Mill").iterdir()]) == 12
    assert len([*(trip.new_home / "Documents/Letters").iterdir()]) == 6
    assert trip.relink().returncode == 0
    assert trip.check().returncode == 0, trip.check().stdout
    assert "what no holding covers" in trip.retire().stdout


def test_what_is_left_has_a_reason_and_the_rest_holds_retire(trip: Trip) -> None:
    trip.survey()
    assert "no reason" in trip.pack("--leave", "C:\\Projekte").stderr
    assert "no uncovered files in C:\\Nowhere" in trip.pack("--leave", "C:\\Nowhere=empty").stderr
    assert trip.pack("--leave", "C:\\Projekte\\Mill=on the theatre's server").returncode == 0
    shown = trip.survey_again()
    assert shown.returncode == 1
    assert "Not covered by any holding: 13 files" in shown.stdout
    assert "left: on the theatre's server" in trip.survey_again("--details", "coverage").stdout
    plan = trip.plan()
    assert "Not covered by any holding, and left on loft: files: 13" in plan.stdout
    for step in (trip.unpack, trip.relink, trip.check):
        assert step().returncode == 0
    assert "This says nothing of 13 files on loft that no holding covers" in " ".join(trip.check().stdout.split())
    weighed = document(trip.retire("--json"))
    (open_,) = [each for each in weighed["evidence"] if each["about"] == "what no holding covers"]
    assert not open_["holds"]
    assert not weighed["may-be-wiped"]


def test_what_was_decided_once_is_proposed_again(trip: Trip) -> None:
    trip.survey("--also", "C:\\Projekte")
    trip.pack("--leave", "C:\\Users\\Odile\\Documents=she has them")
    trip.crate = trip.root / "next week"
    said = trip.survey().stdout
    assert "In the crate crate you chose:" in said
    assert "--also 'C:\\Projekte'" in said and "--leave 'C:\\Users\\Odile\\Documents=she has them'" in said


def test_all_that_is_undecided_can_be_left_in_one_word(trip: Trip) -> None:
    trip.survey()
    assert trip.pack("--leave", "rest=looked through with Odile").returncode == 0
    report = document(trip.survey_again("--json"))
    assert {each["left"] for each in report["uncovered"]} == {"looked through with Odile"}


def test_a_sweep_looks_at_all_of_every_volume(trip: Trip) -> None:
    trip.guide(SWEPT, "cues")
    (trip.root / "loft/Projekte/Mill/Storm.cues").touch()
    (trip.root / "loft/Windows/Storm.cues").touch()
    report = document(trip.survey("--json"))
    (cues,) = [each for each in report["holdings"] if each["id"] == "cues/cues"]
    assert cues["files"] == 1
    assert "C:\\Projekte" in {each["at"] for each in report["uncovered"]}  # and the rest of that folder is told still


def test_a_guide_of_that_id_is_not_lost_to_named_folders(trip: Trip) -> None:
    trip.guide(SWEPT.replace('"cues"', '"also"', 1), "also")
    said = trip.survey("--also", "C:\\Projekte")
    assert (said.returncode, "A guide has the id 'also'" in said.stderr) == (3, True)


def test_a_folder_that_cannot_be_named_is_refused(trip: Trip) -> None:
    said = trip.survey("--also", "C:\\Nowhere")
    assert said.returncode == 3
    assert "There is no folder C:\\Nowhere on loft" in said.stderr
    assert not trip.crate.exists()


def test_each_volume_is_listed_once_and_an_inner_one_by_itself(tmp_path: Path, zesty: Zesty) -> None:
    for folder in ("root/home/odile", "store/Spools", "root/mnt/store/hidden below the mount"):
        _fill(tmp_path / folder, 6)
    sheet = tmp_path / "old.toml"
    sheet.write_text(
        '[computer]\nname = "mill"\nsystem = "linux"\nuser = "odile"\n'
        '[[volume]]\nanchor = "/"\nmount = "root"\n[[volume]]\nanchor = "/mnt/store"\nmount = "store"\n'
    )
    said = zesty("survey", tmp_path / "crate", "--from", sheet, "--also", "/home/odile", "--json")
    found = {each["at"]: each["files"] for each in document(said)["uncovered"]}
    assert found == {"/mnt/store/Spools": 6}
