"""Guides listed, explained, looked through for mistakes, tried and rehearsed: through the installed command."""

from __future__ import annotations

import json
import sqlite3
from pathlib import Path
from typing import Any

import pytest

from conftest import Zesty
from guides import test_more_formats as more
from guides import test_open_formats as formats
from support.barn import HOME, SPOOLS, Barn
from support.moves import picture
from support.trip import HEAD, SQLITE, Trip, document
from zesty_crate.guides import shipped_guides


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(HEAD + SQLITE)
    trip.database([trip.sound("owl.wav"), "C:\\Users\\Odile\\Music\\Lamps\\gone.wav"])
    return trip


def guide(trip: Trip, action: str, *more: str | Path) -> Any:
    return trip.run("guide", action, *more, "--guides", trip.guides)


def test_list_tells_which_one_counts_and_where_it_is_from(trip: Trip) -> None:
    (trip.guides / "mine.toml").write_text((trip.guides / "lamps.toml").read_text().replace('"lamps"', '"m3u"'))
    told = guide(trip, "list")
    assert told.returncode == 0
    lines = [" ".join(line.split()) for line in told.stdout.splitlines()]
    assert f"lamps Lamps 2 {trip.guides}" in lines
    assert f"m3u M3U playlists 1 hidden by the one in {trip.guides}" in lines
    known = document(guide(trip, "list", "--json"))["guides"]
    assert [each["id"] for each in known if each["hidden-by"]] == ["m3u"]


@pytest.mark.parametrize("name", [each.id for each in shipped_guides()])
def test_every_guide_that_ships_is_shown_in_words_and_has_no_mistakes(zesty: Zesty, name: str) -> None:
    shown = zesty("guide", "show", name)
    assert shown.returncode == 0
    assert f"({name})" in shown.stdout
    linted = zesty("guide", "lint", name)
    assert linted.returncode == 0, linted.stdout


def test_an_unknown_one_is_told_with_what_comes_near(zesty: Zesty) -> None:
    refused = zesty("guide", "show", "xpsf")
    assert refused.returncode == 3
    assert 'Did you mean "xspf"?' in refused.stderr


def test_lint_tells_every_mistake_with_its_line(trip: Trip) -> None:
    file = trip.guides / "lamps.toml"
    file.write_text(file.read_text().replace('key = "id"', 'keys = "id"').replace("native", "nativ"))
    told = trip.run("guide", "lint", file)
    assert told.returncode == 1
    text = file.read_text().splitlines()
    for mistake, said in (('keys = "id"', 'did you mean "key"?'), ('spelling = "nativ"', 'did you mean "native"?')):
        line = text.index(mistake) + 1
        assert any(f"line {line}: " in each and said in each for each in told.stdout.splitlines()), told.stdout


def test_lint_with_a_computer_tells_what_only_its_data_show(trip: Trip) -> None:
    file = trip.guides / "lamps.toml"
    text = file.read_text()
    for old, new, said in (
        ('table = "sound"', 'table = "sounds"', "sounds"),
        ('key = "id"', 'key = "kind"', "2 entries have a key that another one has too"),
        ("{music}/Lamps", "C:/Users/Odile/Music/Lamps", "is a folder of one computer alone"),
    ):
        with sqlite3.connect(trip.home / "AppData/Roaming/Lamps/scenes.db") as database:
            if new == 'key = "kind"':
                database.execute("ALTER TABLE sound ADD COLUMN kind DEFAULT 'x'")
        database.close()
        file.write_text(text.replace(old, new))
        told = trip.run("guide", "lint", file, "--at", trip.old)
        assert told.returncode == 1
        assert said in " ".join(told.stdout.split()), told.stdout
    file.write_text(text)
    assert trip.run("guide", "lint", file, "--at", trip.old).returncode == 0


def test_try_shows_what_a_guide_finds_and_changes_nothing(trip: Trip) -> None:
    (trip.home / "AppData/Roaming/Lamps/other.bin").write_bytes(b"?")
    before = picture(trip.root)
    told = guide(trip, "try", "lamps", "--at", trip.old)
    assert told.returncode == 0, told.stdout
    for said in ("2 entries: 1 found, 1 missing-before", "no file is there", "other.bin"):
        assert said in told.stdout
    tried = document(guide(trip, "try", "lamps", "--at", trip.old, "--json"))
    (scenes,) = [each for each in tried["holdings"] if each["report"]["id"] == "lamps/scenes"]
    totals = scenes["documents"][0]["totals"]
    assert {state: number for state, number in totals.items() if number} == {
        "found": 1,
        "missing-before": 1,
        "entries": 2,
    }
    assert tried["nearby"] == ["C:\\Users\\Odile\\AppData\\Roaming\\Lamps\\other.bin"]
    assert picture(trip.root) == before


TREE = """path = [
  { table = "folder", via = "folder", parent = "within", column = "name" },
  { column = "path" },
]"""


def test_a_rehearsal_names_what_cannot_be_said(trip: Trip) -> None:
    at = trip.home / "AppData/Roaming/Lamps/scenes.db"
    with sqlite3.connect(at) as database:
        database.execute("CREATE TABLE folder (id INTEGER PRIMARY KEY, within, name)")
        database.execute(
            "INSERT INTO folder VALUES (1, 1, 'C:'), (2, 1, 'Elsewhere'), (3, 1, 'Users'), (4, 3, 'Odile')"
        )  # a root that is in itself
        database.execute("ALTER TABLE sound ADD COLUMN folder DEFAULT 2")
        database.execute("UPDATE sound SET path = id || '.wav', folder = 2 * id")
    database.close()
    trip.guide(HEAD + SQLITE.replace('path = [{ at = "path" }]', TREE))
    before = at.read_bytes()
    told = guide(trip, "rehearse", "lamps", "--at", trip.old, "--json")
    assert told.returncode == 1
    moves = document(told)["documents"][0]["moves"]
    faults = {each["system"]: each["fault"] for each in moves}
    for system in ("windows", "macos", "linux"):  # the drive's row is shared, and its folders go to two places
        assert "new paths it cannot say: " in faults[system]
        assert "C:\\Elsewhere\\1.wav" in faults[system]
    assert at.read_bytes() == before
    assert "no" in guide(trip, "rehearse", "lamps", "--at", trip.old).stdout.split()


def test_a_rehearsal_says_no_more_than_was_read(trip: Trip) -> None:
    at = trip.home / "AppData/Roaming/Lamps/scenes.db"
    with sqlite3.connect(at) as database:
        database.execute("INSERT INTO sound VALUES (9, x'ff')")
    database.close()
    told = guide(trip, "rehearse", "lamps", "--at", trip.old)
    assert told.returncode == 1
    assert "Read in part, and rehearsed as far as that: 1 document" in " ".join(told.stdout.split())
    assert "Every entry led to what it meant" not in told.stdout


def test_copies_of_the_demos_documents_go_everywhere_and_back(zesty: Zesty, tmp_path: Path) -> None:
    assert zesty("demo", tmp_path, "--lay-out").returncode == 0
    for computer in ("paintloft", "handcart"):
        for file in sorted((tmp_path / "guides").glob("*.toml")):
            told = zesty("guide", "rehearse", file, "--at", tmp_path / computer / "sheet.toml", "--json")
            report = json.loads(told.stdout)
            faults = [move["fault"] for each in report["documents"] for move in each["moves"] if move["fault"]]
            assert faults == [], file.name
            assert report["not-read"] == []


def test_documents_of_guides_that_ship_go_everywhere_and_back(zesty: Zesty, tmp_path: Path) -> None:
    barn = Barn(tmp_path)
    for name, content in {
        "Documents/list.m3u8": formats.M3U8,
        "Documents/list.pls": formats.PLS,
        "Documents/tape.cue": formats.CUE,
        "Documents/list.xspf": formats.XSPF,
        "Instruments/drum.sfz": more.SFZ,
        "Stage/stage.obj": more.OBJ,
        "Stage/stage set.mtl": more.MTL.replace('"', ""),
    }.items():
        barn.write(f"{HOME}/{name}", content)
    barn.write(f"{SPOOLS}/drawing.svg", formats.SVG)
    barn.write(f"{SPOOLS}/wing.xmp", more.XMP)
    for name in ("m3u", "pls", "cue", "xspf", "sfz", "obj", "svg", "xmp"):
        told = zesty("guide", "rehearse", name, "--at", tmp_path / "old.toml", "--json")
        report = json.loads(told.stdout)
        assert report["documents"], name
        faults = [move["fault"] for each in report["documents"] for move in each["moves"] if move["fault"]]
        assert faults == [], name
        assert all(move["same-bytes"] for each in report["documents"] for move in each["moves"] if move["entries"]), (
            name
        )
