"""Where relative paths start: at a place, or where a setting of another document says; and what lies beside a file."""

from __future__ import annotations

import json
from pathlib import Path

from conftest import Zesty
from support.trip import HEAD, Trip, document

GUIDE = (
    HEAD
    + """at = "{app-data}/Lamps/scenes.json"
syntax = "json"
relative-to = { holding = "settings", key = "library" }
[[holding.entries]]
each = "$.sounds[*]"
path = [{ at = "file" }]
spelling = "relative"
beside = [{ of = '(.+)_left\\.wav', name = "{1}_right.wav" }]
[[holding]]
id = "settings"
kind = "settings"
at = "{app-data}/Lamps/settings.ini"
syntax = "ini"
[[holding.entries]]
each = "paths"
values = "(?i)[a-z]:.*|/.*"
key = "name"
path = [{ at = "value" }]
folder = true
"""
)


def small_library(trip: Trip, setting: str) -> Path:
    """A library outside the media folder, whose place a setting tells; its catalog."""
    trip.guide(GUIDE)
    for name in ("owl_left.wav", "owl_right.wav", "bat.wav"):
        (trip.root / "loft/Library").mkdir(exist_ok=True)
        (trip.root / "loft/Library" / name).write_bytes(name.encode())
    at = trip.home / "AppData/Roaming/Lamps"
    (at / "settings.ini").write_text(setting)
    (at / "scenes.json").write_text(json.dumps({"sounds": [{"file": "owl_left.wav"}, {"file": "bat.wav"}]}))
    return at / "scenes.json"


def test_paths_start_where_a_setting_says_on_both_computers(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    small_library(trip, "[paths]\nlibrary=C:\\Library\n")
    surveyed = trip.survey()
    assert surveyed.returncode == 0, surveyed.stdout
    assert trip.pack("--outside").returncode == 0
    assert trip.plan("--route", "C:\\Library=/Users/odile/Music/Library").returncode == 0
    checked = trip.arrived()
    assert checked.returncode == 0, checked.stdout
    there = trip.new_home / "Library/Application Support/Lamps"
    assert (there / "settings.ini").read_text() == "[paths]\nlibrary=/Users/odile/Music/Library\n"
    assert json.loads((there / "scenes.json").read_text())["sounds"][0]["file"] == "owl_left.wav"
    library = trip.new_home / "Music/Library"
    assert {each.name for each in library.iterdir()} == {"owl_left.wav", "owl_right.wav", "bat.wav"}  # with the sibling
    (library / "bat.wav").unlink()
    assert "bat.wav" in trip.check().stdout


def test_a_setting_that_is_not_there_is_named_and_nothing_is_guessed(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    small_library(trip, "[paths]\ncolor=red\n")
    said = trip.survey("--json")
    assert said.returncode == 1
    (scenes,) = [each for each in document(said)["documents"] if each["at"].endswith("scenes.json")]
    assert scenes["verdict"] == "not-read"
    assert "library names, which says no folder" in scenes["reasons"][0]


def test_what_a_setting_must_be_is_checked_in_the_guide(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    for wrong, word in (('"nowhere"', "a place such as"), ('{ holding = "sounds" }', "a holding with entries")):
        trip.guide(GUIDE.replace('{ holding = "settings", key = "library" }', wrong))
        said = trip.run("guide", "lint", trip.guides / "lamps.toml")
        assert word in " ".join(said.stdout.split()), said.stdout


def test_a_sweep_within_some_folders_looks_nowhere_else(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    trip.guide(
        f'{HEAD}sweep = ["*.scene"]\nwithin = ["{{documents}}", "{{desktop}}"]\nsyntax = "lines"\n'
        '[[holding.entries]]\neach = \'(?P<file>.+)\'\npath = [{ at = "file" }]\nspelling = "relative"\n'
    )
    for folder in ("Documents/Plays", "documents of others", "Music"):
        (trip.home / folder).mkdir(parents=True, exist_ok=True)
        (trip.home / folder / "dusk.scene").write_text("owl.wav\n")
        (trip.home / folder / "owl.wav").write_bytes(b"owl")
    assert trip.survey().returncode == 0
    (told,) = document(trip.survey("--again", "--json"))["documents"]
    assert told["at"] == "C:\\Users\\Odile\\Documents\\Plays\\dusk.scene"
