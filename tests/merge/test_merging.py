"""Merging through the installed command: planned, placed, written, checked, and taken back."""

from __future__ import annotations

import gzip
import io
import shutil
import sqlite3
import zipfile
from collections.abc import Iterable
from itertools import count
from pathlib import Path
from typing import Any

import pytest

from conftest import Zesty
from support.moves import picture
from support.outside import STRIDE
from support.trip import HEAD, OLD, SQLITE, Trip, document

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
    assert "entries 2 there, 2 carried, 1 of these on both; 3 now" in " ".join(checked.stdout.split())
    assert "each had is in one now" in trip.page()
    assert "is not needed there any more" in " ".join(trip.run("todo", trip.crate, "--to", trip.new).stdout.split())
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


def test_one_command_does_all_of_it(trip: Trip) -> None:
    assert trip.survey().returncode == trip.pack().returncode == 0
    start = picture(trip.root / "shed")
    shown = trip.run("merge", trip.crate, "--to", trip.new, "--values", "keep", "--dry-run")
    assert shown.returncode == 0, shown.stdout
    assert "2 there + 1 new = 3" in shown.stdout
    assert picture(trip.root / "shed") == start
    done = trip.run("merge", trip.crate, "--to", trip.new, "--values", "keep", "--yes", "--only", "lamps/scenes")
    assert done.returncode == 0, done.stdout
    assert rows(trip.new_database, "SELECT count(*) FROM sound") == [(3,)]


def test_a_whole_move_may_merge(trip: Trip) -> None:
    moved = trip.run(
        "move", trip.crate, "--from", trip.old, "--to", trip.new, "--guides", trip.guides, "--yes",
        "--decide", "merge", "--values", "keep",
    )  # fmt: skip
    assert moved.returncode == 0, moved.stdout
    assert rows(trip.new_database, "SELECT count(*) FROM sound") == [(3,)]


def test_a_group_goes_alone_into_a_catalog_with_work_of_its_own(trip: Trip) -> None:
    trip.sound("gale.wav")
    old = trip.home / "AppData/Roaming/Lamps/scenes.db"
    trip.execute(
        old,
        f"INSERT INTO sound VALUES (3, '{CARRIED}gale.wav', 2, '')",
        "INSERT INTO list VALUES (3, 'Weather', NULL), (4, 'Storm', 3)",
        "INSERT INTO item VALUES (4, 3, 1), (4, 2, 2)",
    )
    assert trip.survey().returncode == 0
    assert trip.pack("--group", "Storm").returncode == 0
    done = trip.run("merge", trip.crate, "--to", trip.new, "--values", "keep", "--yes")
    assert done.returncode in (0, 1), done.stdout
    names = [path.rpartition("/")[2] for (path,) in rows(trip.new_database, "SELECT path FROM sound ORDER BY id")]
    assert names == ["owl.wav", "mill.wav", "gale.wav"]
    lists = "SELECT l.title, p.title FROM list AS l LEFT JOIN list AS p ON p.id = l.within ORDER BY l.id"
    assert rows(trip.new_database, lists) == [("Night", None), ("Weather", None), ("Storm", "Weather")]
    assert done.returncode == 0, done.stdout


def test_a_file_that_is_there_under_another_name_is_not_placed_twice(trip: Trip) -> None:
    (trip.new_home / "Music/Lamps/oven.wav").write_bytes(b"kiln.wav")
    trip.execute(trip.new_database, f"INSERT INTO sound VALUES (3, '{THERE}oven.wav', NULL, '')")
    assert trip.survey().returncode == trip.pack().returncode == 0
    done = trip.run("merge", trip.crate, "--to", trip.new, "--values", "keep", "--yes")
    assert done.returncode == 0, done.stdout
    assert "the same file is there already" in done.stdout
    assert not (trip.new_home / "Music/Lamps/kiln.wav").exists()
    assert rows(trip.new_database, "SELECT path, stars, note FROM sound ORDER BY id") == [
        (f"{THERE}owl.wav", 3, "hoots"),
        (f"{THERE}mill.wav", None, "turns"),
        (f"{THERE}oven.wav", 5, "hot"),
    ]


@pytest.mark.parametrize(
    ("change", "why"),
    [
        ("ALTER TABLE sound ADD COLUMN length REAL", "two versions of their program"),
        ("CREATE TABLE odd AS SELECT id AS what FROM sound", ""),
    ],
)
def test_what_cannot_be_merged_is_undecided_and_says_why(trip: Trip, change: str, why: str) -> None:
    trip.execute(trip.home / "AppData/Roaming/Lamps/scenes.db", change)
    start = picture(trip.root / "shed")
    assert trip.survey().returncode == trip.pack().returncode == 0
    planned = trip.plan("--decide", "merge")
    assert planned.returncode == 3
    assert why in " ".join(planned.stdout.split())
    assert trip.unpack().returncode == 3
    assert picture(trip.root / "shed") == start
    assert trip.plan("--decide", "merge", "--decide", f"{trip.new_home}=keep").returncode == 3


def test_a_catalog_that_changes_after_the_plan_is_merged_as_it_is(trip: Trip) -> None:
    assert trip.survey().returncode == trip.pack().returncode == 0
    assert trip.plan("--decide", "merge", "--values", "keep").returncode == 0
    assert trip.unpack().returncode == 0
    trip.execute(trip.new_database, f"INSERT INTO sound VALUES (9, '{THERE}late.wav', 1, '')")
    assert trip.relink().returncode == 0
    assert rows(trip.new_database, "SELECT id FROM sound ORDER BY id") == [(1,), (2,), (9,), (10,)]


def test_killed_at_any_change_it_is_gone_on_with(trip: Trip, zesty: Zesty) -> None:
    assert trip.survey().returncode == trip.pack().returncode == 0
    assert trip.plan("--decide", "merge", "--values", "keep").returncode == 0
    start, crate, expected = trip.root / "start", trip.root / "packed", None
    for source, copy in ((trip.root / "shed", start), (trip.crate, crate)):
        shutil.copytree(source, copy)
    for at in count(1, STRIDE):
        for source, copy in ((trip.root / "shed", start), (trip.crate, crate)):
            shutil.rmtree(source)
            shutil.copytree(copy, source)
        ended = []
        for step in ("unpack", "relink"):
            ended.append(zesty(step, trip.crate, "--to", trip.new, "--yes", kill_at=at).returncode)
            assert zesty(step, trip.crate, "--to", trip.new, "--yes").returncode == 0, f"{step} killed at {at}"
        found = rows(trip.new_database, "SELECT * FROM sound"), rows(trip.new_database, "SELECT * FROM item")
        expected = expected or found
        assert found == expected, f"killed at change {at}"
        assert trip.check().returncode == 0, f"killed at change {at}"
        assert trip.undo().returncode == 0
        assert picture(trip.root / "shed") == picture(start), f"killed at change {at}"
        if ended == [0, 0]:
            break


def test_what_another_computer_brought_is_no_origin(trip: Trip) -> None:
    """A catalog that one computer brought, and nobody has touched since, is not what another one's came from."""
    assert trip.survey().returncode == trip.pack().returncode == 0
    place = "/Users/odile/Library/Application Support/Lamps/scenes.db"
    assert trip.plan("--decide", f"{place}=bring-in").returncode == 0
    assert trip.unpack().returncode == trip.relink().returncode == trip.check().returncode == 0
    (trip.root / "loft").rename(trip.root / "cart")
    trip.old.write_text(OLD.replace("loft", "cart"))
    trip.execute(
        trip.root / "cart/Users/Odile/AppData/Roaming/Lamps/scenes.db",
        "DELETE FROM item",
        "DELETE FROM sound WHERE id = 1",
    )
    trip.crate = trip.root / "another"
    assert trip.survey().returncode == trip.pack().returncode == 0
    planned = document(trip.plan("--json"))
    (conflict,) = planned["conflicts"]
    assert conflict["outcome"] is None, conflict
    done = trip.run("merge", trip.crate, "--to", trip.new, "--yes")
    assert done.returncode == 0, done.stdout
    assert rows(trip.new_database, "SELECT count(*) FROM sound") == [(2,)]


def test_databases_inside_other_files_are_merged_where_they_are(trip: Trip) -> None:
    old, new = trip.home / "AppData/Roaming/Lamps/scenes.db", trip.new_database
    for path in (old, new):
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("about.txt", path.parent.name)
            archive.writestr("data/scenes.db", path.read_bytes())
        path.write_bytes(gzip.compress(packed.getvalue()))
    trip.guide(GUIDE.replace('syntax = "sqlite"', 'syntax = "sqlite"\ninside = ["gzip", "zip:data/scenes.db"]'))
    before = picture(trip.root / "shed")
    for step in (trip.survey, trip.pack):
        assert step().returncode == 0
    planned = trip.plan("--decide", "merge", "--values", "bring-in")
    assert planned.returncode == 0, planned.stdout
    arrived = trip.arrived()
    assert arrived.returncode == 0, arrived.stdout
    with zipfile.ZipFile(io.BytesIO(gzip.decompress(new.read_bytes()))) as archive:
        assert archive.testzip() is None
        assert archive.read("about.txt") == b"Lamps"
        taken = trip.root / "taken.db"
        taken.write_bytes(archive.read("data/scenes.db"))
    names = [path.rpartition("/")[2] for (path,) in rows(taken, "SELECT path FROM sound ORDER BY id")]
    assert names == ["owl.wav", "mill.wav", "kiln.wav"]
    assert trip.undo().returncode == 0
    assert picture(trip.root / "shed") == before


TREE = """
CREATE TABLE volume (id INTEGER PRIMARY KEY, label TEXT);
CREATE TABLE folder (id INTEGER PRIMARY KEY, within INTEGER, name TEXT, volume INTEGER);
CREATE TABLE sound (id INTEGER PRIMARY KEY, folder INTEGER, file TEXT, stars INTEGER);
"""
TREE_PATH = """path = [
  { table = "volume", via = "folder.volume", column = "label", holds = "anchor" },
  { table = "folder", via = "folder", parent = "within", column = "name" },
  { column = "file" },
]
spelling = "from-volume"
annotations = ["stars"]
"""


def grow(at: Path, label: str, folders: Iterable[str], sounds: Iterable[tuple[str, str, int | None]]) -> None:
    """Write a catalog that keeps its folders as a tree, each as a row; folders and files by paths from the volume."""
    at.parent.mkdir(parents=True, exist_ok=True)
    numbers = {"": 0}
    with sqlite3.connect(at) as database:
        database.executescript(TREE)
        database.execute("INSERT INTO volume VALUES (5, ?)", (label,))
        for folder in folders:
            above, _, name = folder.rpartition("/")
            numbers[folder] = len(numbers) + 10
            row = (numbers[folder], numbers[above], name, None if above else 5)
            database.execute("INSERT INTO folder VALUES (?, ?, ?, ?)", row)
        for folder, file, stars in sounds:
            insert = "INSERT INTO sound (folder, file, stars) VALUES (?, ?, ?)"
            database.execute(insert, (numbers[folder], file, stars))
    database.close()


def test_trees_of_folders_become_one_tree(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    for sheet, label in ((trip.old, "Loft"), (trip.new, "Shed HD")):
        sheet.write_text(sheet.read_text().replace("mount =", f'label = "{label}"\nmount ='))
    trip.guide(SQLITE.partition("path =")[0] + TREE_PATH)
    for name in ("Night/owl.wav", "Night/bat.wav", "kiln.wav"):
        (trip.home / "Music/Lamps/Night").mkdir(exist_ok=True)
        (trip.home / "Music/Lamps" / name).write_bytes(name.encode())
    for name in ("Night/owl.wav", "Day/mill.wav"):
        path = trip.new_home / "Music/Lamps" / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(name.encode())
    above = ["Users", "Users/Odile", "Users/Odile/Music", "Users/Odile/Music/Lamps", "Users/Odile/Music/Lamps/Night"]
    lamps, night = above[3:]
    sounds = [(night, "owl.wav", 4), (night, "bat.wav", None), (lamps, "kiln.wav", 5)]
    grow(trip.home / "AppData/Roaming/Lamps/scenes.db", "Loft", above, sounds)
    there = [each.replace("Odile", "odile") for each in above] + ["Users/odile/Music/Lamps/Day"]
    mine = [("Users/odile/Music/Lamps/Day", "mill.wav", 2), (night.replace("Odile", "odile"), "owl.wav", None)]
    grow(trip.new_database, "Shed HD", there, mine)
    before = picture(trip.root / "shed")
    for step in (trip.survey, trip.pack):
        assert step().returncode == 0
    planned = trip.plan("--decide", "merge", "--values", "bring-in")
    assert planned.returncode == 0, planned.stdout
    arrived = trip.arrived()
    assert arrived.returncode == 0, arrived.stdout
    assert rows(trip.new_database, "SELECT count(*) FROM folder") == [(6,)]
    query = "SELECT folder.name, file, stars FROM sound JOIN folder ON folder.id = sound.folder ORDER BY sound.id"
    assert rows(trip.new_database, query) == [
        ("Day", "mill.wav", 2),
        ("Night", "owl.wav", 4),
        ("Night", "bat.wav", None),
        ("Lamps", "kiln.wav", 5),
    ]
    totals = document(trip.check("--json"))["totals"]
    assert (totals["found"], totals["missing"]) == (4, 0)
    assert trip.undo().returncode == 0
    assert picture(trip.root / "shed") == before
