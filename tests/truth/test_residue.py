"""4: residue. What still names the old computer after relinking is told by file and field, and never changed."""

from __future__ import annotations

import hashlib
import json
import sqlite3
from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import SOUNDS, SQLITE, Trip, document

MORE = """
[[holding]]
id = "settings"
kind = "settings"
at = "{app-data}/Lamps/settings.ini"
[[holding]]
id = "presets"
kind = "presets"
at = "{app-data}/Lamps/Presets"
[[holding]]
id = "thumbs"
kind = "companions"
at = "{app-data}/Lamps/Thumbs"
"""


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE + MORE)
    paths = trip.sounds(3)
    at = trip.database(paths, table="sound (id INTEGER PRIMARY KEY, path, shown, small, more)")
    trip.execute(
        at,
        "UPDATE sound SET small = lower(path), shown = replace(path, '\\', '/'), more = json_object('from', path)",
    )
    lamps = trip.home / "AppData/Roaming/Lamps"
    (lamps / "settings.ini").write_text("[paths]\nlast folder=C:\\Users\\Odile\\Music\nvolume=3\n")
    (lamps / "Presets").mkdir()
    (lamps / "Presets/Storm.preset").write_bytes('open("C:\\Users\\Odile\\Müll")'.encode("utf-16"))
    (lamps / "Presets/Calm.preset").write_text("volume = 2\nnote = drive C: is full\n")
    (lamps / "Thumbs").mkdir()
    (lamps / "Thumbs/a.png").write_bytes(b"\x89PNG\r\n\x1a\ntEXtURI\0file:///C:/Users/Odile/Music/Lamps/0.wav\0\1\2")
    return trip


def test_leftover_paths_are_told_by_file_and_field(trip: Trip) -> None:
    assert trip.moved().returncode == 0
    said = trip.check()
    assert said.returncode == 0, said.stdout
    assert "Still naming places of loft" in said.stdout
    searched = document(trip.check("--json"))["searched"]
    found = {(Path(each["at"]).name, each["field"]): (each["kind"], each["mentions"]) for each in searched["residue"]}
    assert found == {
        ("scenes.db", "sound.shown"): ("copy", 3),
        ("scenes.db", "sound.small"): ("copy", 3),
        ("scenes.db", "sound.more"): ("copy", 3),
        ("settings.ini", "last folder"): ("setting", 1),
        ("Storm.preset", "text"): ("setting", 1),
        ("a.png", "text"): ("other", 1),
    }
    assert "C:\\Users\\Odile\\Music" in json.dumps(searched, ensure_ascii=False).replace("\\\\", "\\")
    assert "Look at what still names places of loft" in trip.run("todo", trip.crate, "--to", trip.new).stdout
    assert "settings.ini" in trip.page()


def test_what_was_found_is_not_changed(trip: Trip) -> None:
    trip.moved()
    kept = sqlite3.connect(trip.new_database).execute("SELECT small FROM sound WHERE id = 1").fetchone()
    assert kept == ("c:\\users\\odile\\music\\lamps\\0.wav",)


def test_nothing_is_found_where_nothing_is_left(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.database([*trip.sounds(2), "C:\\Users\\Odile\\Music\\Lamps\\gone.wav", "E:\\Elsewhere\\far.wav"])
    trip.moved()
    searched = document(trip.check("--json"))["searched"]
    assert searched == {"files": 1, "residue": []}  # entries that are missing are told as such


def test_what_cannot_be_searched_is_not_counted_as_searched(trip: Trip) -> None:
    (trip.home / "AppData/Roaming/Lamps/Presets/Harm.preset").write_bytes(b"PK\3\4 cut off")
    trip.moved()
    assert document(trip.check("--json"))["searched"]["files"] == 5


@pytest.mark.parametrize(("user", "named"), [("Odile", []), ("Odile.K", ["sound.mark", "home"])])
@pytest.mark.parametrize("folder", [SOUNDS, "..\\..\\..\\Music\\Lamps\\"])
def test_between_two_computers_of_one_system_only_what_moved_is_old(
    tmp_path: Path, zesty: Zesty, user: str, named: list[str], folder: str
) -> None:
    trip = Trip(tmp_path, zesty)
    spelling = "native" if folder == SOUNDS else "relative"
    trip.guide(SQLITE.replace("native", spelling) + MORE.split('[[holding]]\nid = "presets"')[0])
    sounds = trip.sounds(2)
    at = trip.database(
        [folder + each.removeprefix(SOUNDS) for each in sounds], table="sound (id INTEGER PRIMARY KEY, path, mark)"
    )
    for number, each in enumerate(sounds, start=1):
        trip.execute(at, f"UPDATE sound SET mark = '{hashlib.md5(each.encode()).hexdigest()}' WHERE id = {number}")
    settings = trip.home / "AppData/Roaming/Lamps/settings.ini"
    settings.write_text("home=C:\\Users\\Odile\\Music\nprogram=C:\\Program Files\\Lamps\n")
    (trip.root / "shed/Users" / user).mkdir(parents=True)
    trip.new.write_text(trip.old.read_text().replace("loft", "shed").replace("Odile", user))
    assert trip.moved().returncode == 0
    searched = document(trip.check("--json"))["searched"]
    assert searched["files"] == 2
    assert [each["field"] for each in searched["residue"]] == named


def test_a_folder_that_a_route_takes_out_of_a_home_that_stays_is_an_old_place(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE + MORE.split('[[holding]]\nid = "presets"')[0])
    trip.database(trip.sounds(1))
    folder = "C:\\Users\\Odile\\Music\\Lamps\\Set 1.5"
    (trip.home / "Music/Lamps/Set 1.5").mkdir()
    (trip.home / "Music/Lamps/Set 1.5/a.wav").write_bytes(b"a")
    settings = trip.home / "AppData/Roaming/Lamps/settings.ini"
    settings.write_text(f"last={folder}\\a.wav\nfirst=C:\\Users\\Odile\\Music\\Lamps\\0.wav\n")
    trip.new.write_text(trip.old.read_text().replace("loft", "shed"))
    trip.survey()
    trip.pack()
    trip.plan("--route", f"{folder}=C:\\Reels")
    trip.unpack()
    assert trip.relink().returncode == 0
    residue = document(trip.check("--json"))["searched"]["residue"]
    assert [each["field"] for each in residue] == ["last"]
