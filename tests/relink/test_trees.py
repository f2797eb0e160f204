"""Folders as rows of a tree: each becomes the folder that its files go to, with new rows around it if need be."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import HEAD, Trip

GUIDE = (
    HEAD
    + """at = "{app-data}/Lamps/scenes.db"
syntax = "sqlite"
[[holding.entries]]
table = "sound"
key = "id"
path = [{ table = "shelf", via = "shelf", parent = "within", at = "label"MORE }, { at = "file" }]
"""
)
SHELVES = (
    (1, None, "C:"),
    (2, 1, "Users"),
    (3, 2, "Odile"),
    (4, 3, "Music"),
    (5, 4, "Lamps"),
    (6, 5, "Deep"),
    (7, 1, "Far"),
)
SOUNDS = ((1, 5, "owl.wav"), (2, 6, "moth.wav"), (3, 6, "bat.wav"), (4, 7, "gone.wav"), (5, 5, "rain.wav"))


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(GUIDE.replace("MORE", ", may-add = true"))
    lamps = trip.home / "Music/Lamps"
    (lamps / "Deep").mkdir()
    for name in ("owl.wav", "rain.wav", "Deep/bat.wav", "Deep/moth.wav"):
        (lamps / name).write_bytes(name.encode())
    with closing(sqlite3.connect(trip.home / "AppData/Roaming/Lamps/scenes.db")) as made:
        made.execute(
            "CREATE TABLE shelf (id INTEGER PRIMARY KEY, within INTEGER REFERENCES shelf, label TEXT, color DEFAULT 7)"
        )
        made.execute("CREATE TABLE sound (id INTEGER PRIMARY KEY, shelf INTEGER, file TEXT)")
        made.executemany("INSERT INTO shelf (id, within, label) VALUES (?, ?, ?)", SHELVES)
        made.executemany("INSERT INTO sound VALUES (?, ?, ?)", SOUNDS)
        made.commit()
    return trip


def paths(at: Path) -> list[str]:
    """The whole path of each entry, put together here."""
    with closing(sqlite3.connect(at)) as database:
        shelves = {
            key: (within, label) for key, within, label in database.execute("SELECT id, within, label FROM shelf")
        }
        found = []
        for shelf, file in database.execute("SELECT shelf, file FROM sound ORDER BY id").fetchall():
            names, at_row = [file], shelf
            while at_row is not None:
                at_row, label = shelves[at_row]
                names.append(label)
            found.append("/".join(reversed(names)).replace("//", "/"))
        return found


def move(trip: Trip, *routes: str) -> None:
    assert trip.survey().returncode in (0, 1)
    assert trip.pack().returncode == 0
    options = [each for route in routes for each in ("--route", route)]
    assert trip.plan(*options).returncode in (0, 1)
    assert trip.unpack().returncode == 0


def test_a_folder_that_goes_deeper_gets_other_rows_around_it(trip: Trip) -> None:
    move(trip, r"C:\Users\Odile\Music\Lamps=/Users/odile/Sounds/of 2026/Lamps")
    said = trip.relink()
    assert said.returncode == 0, said.stdout
    new = "/Users/odile/Sounds/of 2026/Lamps"
    assert paths(trip.new_database) == [
        f"{new}/owl.wav",
        f"{new}/Deep/moth.wav",
        f"{new}/Deep/bat.wav",
        "C:/Far/gone.wav",
        f"{new}/rain.wav",
    ]
    with closing(sqlite3.connect(trip.new_database)) as database:
        assert database.execute("SELECT label, color FROM shelf WHERE id = 7").fetchall() == [("Far", 7)]
        assert database.execute("SELECT count(*), min(color) FROM shelf").fetchall() == [(9, 7)]
    assert trip.run("undo", trip.crate, "--to", trip.new, "--yes").returncode == 0


def test_files_of_one_folder_may_go_to_two(trip: Trip) -> None:
    move(
        trip,
        r"C:\Users\Odile\Music\Lamps=/Users/odile/Music/Lamps",
        r"C:\Users\Odile\Music\Lamps\Deep\moth.wav=/Users/odile/Moths/moth.wav",
        r"C:\Far=/Users/odile/Far",
    )
    said = trip.relink()
    assert said.returncode == 0, said.stdout
    new = "/Users/odile/Music/Lamps"
    assert paths(trip.new_database) == [
        f"{new}/owl.wav",
        "/Users/odile/Moths/moth.wav",
        f"{new}/Deep/bat.wav",
        "/Users/odile/Far/gone.wav",
        f"{new}/rain.wav",
    ]
    checked = trip.check()
    assert "4 found" in checked.stdout, checked.stdout


def test_without_new_rows_what_cannot_be_said_is_foreseen(trip: Trip) -> None:
    trip.guide(GUIDE.replace("MORE", ""))
    assert trip.survey().returncode in (0, 1)
    assert trip.pack().returncode == 0
    deeper = r"C:\Users\Odile\Music\Lamps=/Users/odile/Sounds/of 2026/Lamps"
    planned = trip.plan("--route", deeper, "--route", r"C:\Far=/Users/odile/Far")
    assert planned.returncode == 3
    assert "allow new rows in the guide" in " ".join(planned.stdout.split() + planned.stderr.split())
