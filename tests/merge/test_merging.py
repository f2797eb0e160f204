"""Merging through the installed command: planned, placed, written, checked, and taken back."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import pytest

from conftest import Zesty
from support.moves import picture
from support.trip import HEAD, Trip, document

GUIDE = (
    HEAD
    + """at = "{app-data}/Lamps/scenes.db"
syntax = "sqlite"
[[holding.entries]]
table = "sound"
key = "id"
path = [{ at = "path" }]
annotations = ["stars", "note"]
[[holding.groups]]
table = "list"
key = "id"
name = "title"
parent = "within"
members = { table = "item", group = "list", entry = "sound", order = "place" }
"""
)
SCHEMA = """
CREATE TABLE sound (id INTEGER PRIMARY KEY, path TEXT, stars INTEGER, note TEXT);
CREATE TABLE list (id INTEGER PRIMARY KEY, title TEXT, within INTEGER REFERENCES list);
CREATE TABLE item (list INTEGER REFERENCES list, sound INTEGER REFERENCES sound, place INTEGER);
"""
Sound = tuple[str, int | None, str]


def fill(at: Path, folder: str, sounds: Iterable[Sound], lists: dict[str, list[int]]) -> None:
    """Write a catalog: sounds by name with stars and note, and lists of their numbers."""
    at.parent.mkdir(parents=True, exist_ok=True)
    with sqlite3.connect(at) as database:
        database.executescript(SCHEMA)
        for name, stars, note in sounds:
            database.execute("INSERT INTO sound (path, stars, note) VALUES (?, ?, ?)", (folder + name, stars, note))
        for number, (title, members) in enumerate(lists.items(), start=1):
            database.execute("INSERT INTO list VALUES (?, ?, NULL)", (number, title))
            for place, member in enumerate(members, start=1):
                database.execute("INSERT INTO item VALUES (?, ?, ?)", (number, member, place))
    database.close()


def rows(at: Path, query: str) -> list[tuple[Any, ...]]:
    with sqlite3.connect(at) as database:
        found = database.execute(query).fetchall()
    database.close()
    return found


CARRIED = "C:\\Users\\Odile\\Music\\Lamps\\"
THERE = "/Users/odile/Music/Lamps/"


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    """The old computer has the owl and the kiln, the new one the owl and the mill; both wrote about the owl."""
    trip = Trip(tmp_path, zesty)
    trip.guide(GUIDE)
    for name in ("owl.wav", "kiln.wav"):
        trip.sound(name)
    library = trip.new_home / "Music/Lamps"
    library.mkdir(parents=True)
    (library / "owl.wav").write_bytes(b"owl.wav")
    (library / "mill.wav").write_bytes(b"mill.wav")
    fill(
        trip.home / "AppData/Roaming/Lamps/scenes.db",
        CARRIED,
        [("kiln.wav", 5, "hot"), ("owl.wav", 4, "hoots")],
        {"Night": [2, 1], "Fire": [1]},
    )
    fill(trip.new_database, THERE, [("owl.wav", 3, ""), ("mill.wav", None, "turns")], {"Night": [2]})
    return trip


def test_two_catalogs_become_one_and_all_of_it_can_be_taken_back(trip: Trip) -> None:
    start = picture(trip.root / "shed")
    assert trip.survey().returncode == 0
    assert trip.pack().returncode == 0
    blocked = trip.plan("--decide", "merge")
    assert blocked.returncode == 3
    assert "stars" in blocked.stdout
    assert "--values keep, bring-in or newer" in " ".join(blocked.stdout.split())
    planned = trip.plan("--values", "bring-in", "--json")
    assert planned.returncode == 0, planned.stderr
    (conflict,) = document(planned)["conflicts"]
    assert conflict["outcome"] == "merge"
    assert (conflict["merge"]["new"], conflict["merge"]["same"]) == (1, 1)
    assert picture(trip.root / "shed") == start, "a plan changes nothing"
    assert "1 file not placed: zesty relink merges it" in " ".join(trip.unpack().stdout.split())
    early = trip.check()
    assert early.returncode == 1
    assert "zesty relink has not done so" in " ".join(early.stdout.split())
    relinked = trip.relink()
    assert relinked.returncode == 0, relinked.stdout
    assert "all of both is in it" in " ".join(relinked.stdout.split())
    assert rows(trip.new_database, "SELECT path, stars, note FROM sound ORDER BY id") == [
        (f"{THERE}owl.wav", 4, "hoots"),
        (f"{THERE}mill.wav", None, "turns"),
        (f"{THERE}kiln.wav", 5, "hot"),
    ]
    items = (
        "SELECT title, path FROM item JOIN list ON list.id = list JOIN sound ON sound.id = sound ORDER BY list, place"
    )
    assert [(title, path.rpartition("/")[2]) for title, path in rows(trip.new_database, items)] == [
        ("Night", "mill.wav"),
        ("Night", "owl.wav"),
        ("Night", "kiln.wav"),
        ("Fire", "kiln.wav"),
    ]
    checked = trip.check()
    assert checked.returncode == 0, checked.stdout
    merged = trip.new_database.read_bytes()
    again = trip.relink()
    assert (again.returncode, trip.new_database.read_bytes() == merged) == (0, True)
    assert trip.plan().returncode == 0
    assert trip.unpack().returncode == 0
    assert trip.relink().returncode == 0
    assert trip.new_database.read_bytes() == merged, "the same run again changes nothing"
    assert trip.check().returncode == 0
    assert trip.undo().returncode == 0
    assert picture(trip.root / "shed") == start


def test_single_values_are_decided_in_a_table(trip: Trip) -> None:
    assert trip.survey().returncode == trip.pack().returncode == 0
    table = trip.root / "values.csv"
    assert trip.plan("--decide", "merge", "--decisions", table).returncode == 3
    text = table.read_text("utf-8-sig")
    assert "stars,3,4" in text
    table.write_text(text.replace("stars,3,4,,", "stars,3,4,,keep"), encoding="utf-8-sig")
    assert trip.plan("--decisions", table).returncode == 0
    assert trip.unpack().returncode == trip.relink().returncode == 0
    assert rows(trip.new_database, "SELECT stars, note FROM sound WHERE id = 1") == [(3, "hoots")]
    assert trip.check().returncode == 0
    table.write_text(text.replace("stars,3,4,,", "stars,3,4,,mine"), encoding="utf-8-sig")
    refused = trip.plan("--decisions", table)
    assert refused.returncode == 3
    assert "'mine' is not one of keep, bring-in, newer" in refused.stderr


def test_a_second_trip_has_no_false_conflicts(trip: Trip) -> None:
    assert trip.survey().returncode == trip.pack().returncode == 0
    assert trip.plan("--decide", "merge", "--values", "bring-in").returncode == 0
    assert trip.unpack().returncode == trip.relink().returncode == trip.check().returncode == 0
    old = trip.home / "AppData/Roaming/Lamps/scenes.db"
    trip.sound("gale.wav")
    trip.execute(
        old,
        f"INSERT INTO sound VALUES (3, '{CARRIED}gale.wav', 2, '')",
        "UPDATE sound SET note = 'very hot' WHERE id = 1",
        "INSERT INTO item VALUES (2, 3, 2)",
    )
    trip.execute(
        trip.new_database, "UPDATE sound SET stars = 1 WHERE id = 1", "UPDATE sound SET stars = 2 WHERE id = 2"
    )
    trip.crate = trip.root / "second"
    assert trip.survey().returncode == trip.pack().returncode == 0
    planned = trip.plan("--decide", "merge", "--json")
    assert planned.returncode == 0, planned.stdout
    (merge,) = [each["merge"] for each in document(planned)["conflicts"] if each["merge"]]
    assert (merge["three-sides"], merge["new"], merge["conflicts"]) == (True, 1, [])
    assert trip.unpack().returncode == trip.relink().returncode == 0
    assert rows(trip.new_database, "SELECT path, stars, note FROM sound ORDER BY id") == [
        (f"{THERE}owl.wav", 1, "hoots"),
        (f"{THERE}mill.wav", 2, "turns"),
        (f"{THERE}kiln.wav", 5, "very hot"),
        (f"{THERE}gale.wav", 2, ""),
    ]
    checked = trip.check()
    assert checked.returncode == 0, checked.stdout
