"""4: residue. What still names the old computer after relinking is told by file and field, and never changed."""

from __future__ import annotations

import hashlib
import json
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import SQLITE, Trip, document

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


def test_between_two_computers_of_one_system_only_what_moved_is_old(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE + MORE.split('[[holding]]\nid = "presets"')[0])
    trip.database(trip.sounds(2))
    settings = trip.home / "AppData/Roaming/Lamps/settings.ini"
    settings.write_text("home=C:\\Users\\Odile\\Music\nprogram=C:\\Program Files\\Lamps\n")
    (trip.root / "shed/Users/Odile.K").mkdir(parents=True)
    trip.new.write_text(trip.old.read_text().replace("loft", "shed").replace("Odile", "Odile.K"))
    assert trip.moved().returncode == 0
    residue = document(trip.check("--json"))["searched"]["residue"]
    assert [each["field"] for each in residue] == ["home"]


SHEET = """[computer]
name = "{name}"
system = "linux"
user = "{user}"
[[volume]]
anchor = "/"
mount = "{mount}"
"""
SETTINGS = """[guide]
id = "lamps"
title = "Lamps"
language = 1
[[holding]]
id = "media"
kind = "media"
at = "{music}"
[[holding]]
id = "settings"
kind = "settings"
at = "{home}/.config/lamps.ini"
[[holding]]
id = "list"
kind = "catalog"
at = "{documents}/list.db"
syntax = "sqlite"
[[holding.entries]]
table = "sound"
key = "id"
path = [{ column = "path" }]
"""


@pytest.mark.parametrize(("user", "named"), [("odile", []), ("tamsin", ["sound.mark", "last", "own"])])
def test_what_has_the_same_path_on_both_computers_is_no_place_of_the_old_one_alone(
    tmp_path: Path, zesty: Zesty, user: str, named: list[str]
) -> None:
    home = tmp_path / "loft/home/odile"
    for place, text in (
        ("Music/a.wav", "a"),
        (".config/lamps.ini", "last=/home/odile/Desktop/notes.txt\nown=/home/odile/Music/a.wav\n"),
    ):
        (home / place).parent.mkdir(parents=True)
        (home / place).write_text(text)
    (home / "Documents").mkdir()
    own = "/home/odile/Music/a.wav"
    with closing(sqlite3.connect(home / "Documents/list.db")) as database, database:
        database.execute("CREATE TABLE sound (id INTEGER PRIMARY KEY, path, mark)")
        database.execute("INSERT INTO sound VALUES (1, ?, ?)", (own, hashlib.md5(own.encode()).hexdigest()))
    (tmp_path / "attic/home" / user).mkdir(parents=True)
    (tmp_path / "guides").mkdir()
    (tmp_path / "guides/lamps.toml").write_text(SETTINGS)
    for name, owner in (("loft", "odile"), ("attic", user)):
        (tmp_path / f"{name}.toml").write_text(SHEET.format(name=name, user=owner, mount=tmp_path / name))
    crate, to = tmp_path / "crate", ("--to", tmp_path / "attic.toml")
    zesty("survey", crate, "--from", tmp_path / "loft.toml", "--guides", tmp_path / "guides")
    zesty("pack", crate)
    zesty("plan", crate, *to)
    zesty("unpack", crate, *to, "--yes")
    assert zesty("relink", crate, *to, "--yes").returncode == 0
    searched = document(zesty("check", crate, *to, "--json"))["searched"]
    assert [each["field"] for each in searched["residue"]] == named
    assert searched["files"] == 2
