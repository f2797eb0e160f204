"""Two databases of one program become one: rows, references, groups, values, and the proof of all of it."""

from __future__ import annotations

import shutil
import sqlite3
import tempfile
from collections import Counter
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from support.docs import merging_recipes
from support.outside import STRIDE
from zesty_crate.catalogs import CatalogError
from zesty_crate.documents import parse_document
from zesty_crate.guides import WholeGuide
from zesty_crate.machines import Computer, Disk, Volume
from zesty_crate.merge import Merged, MergeOptions, MergeReport, OriginFiles, Sides, Taken, merge_and_prove
from zesty_crate.paths import FORMATS, Spelling, System, read_path

GUIDE = """[guide]
id = "lamps"
title = "Lamps"
language = 1
[[holding]]
id = "scenes"
kind = "catalog"
at = "{home}/scenes.db"
syntax = "sqlite"
[[holding.entries]]
table = "sound"
key = "id"
path = [{ at = "path" }]
annotations = ["stars", "note"]
changed = { at = "edited", as = "unix-seconds" }
[[holding.groups]]
table = "list"
key = "id"
name = "title"
parent = "within"
members = { table = "item", group = "list", entry = "sound", order = "place" }
"""
SCHEMA = """
CREATE TABLE sound (id INTEGER PRIMARY KEY, path TEXT, stars INTEGER, note TEXT, edited INTEGER, played INTEGER);
CREATE TABLE list (id INTEGER PRIMARY KEY, title TEXT, within INTEGER REFERENCES list);
CREATE TABLE item (list INTEGER REFERENCES list, sound INTEGER REFERENCES sound, place INTEGER);
CREATE TABLE tag (id INTEGER PRIMARY KEY, name TEXT UNIQUE);
CREATE TABLE sound_tag (sound INTEGER REFERENCES sound NOT NULL, tag INTEGER REFERENCES tag NOT NULL,
                        PRIMARY KEY (sound, tag)) WITHOUT ROWID;
CREATE TABLE edit (sound INTEGER PRIMARY KEY REFERENCES sound, gain REAL);
CREATE TABLE marker (id INTEGER PRIMARY KEY AUTOINCREMENT, sound INTEGER NOT NULL REFERENCES sound, at REAL,
                     label TEXT);
CREATE TABLE settings (name TEXT PRIMARY KEY, value TEXT);
"""


class Pair:
    """A catalog there, and one that was carried, in one folder."""

    def __init__(self, folder: Path, guide: str = GUIDE, schema: str = SCHEMA) -> None:
        self.folder = folder
        self.part = parse_document(guide, WholeGuide, "guide").holding[0]
        volume = Volume(read_path("/", System.LINUX, Spelling.NATIVE).path, FORMATS["ext4"], "", None)
        self.computer = Computer("shed", System.LINUX, "odile", [volume], {})
        for name in ("there", "carried"):
            self.run(name, schema)

    def at(self, name: str) -> Path:
        return self.folder / f"{name}.db"

    def run(self, name: str, script: str) -> None:
        with sqlite3.connect(self.at(name)) as database:
            database.executescript(script)
        database.close()

    def rows(self, name: str, query: str) -> list[tuple[Any, ...]]:
        with sqlite3.connect(self.at(name)) as database:
            rows = database.execute(query).fetchall()
        database.close()
        return rows

    def fill(self, name: str, table: str, rows: Iterable[tuple[Any, ...]]) -> None:
        with sqlite3.connect(self.at(name)) as database:
            for row in rows:
                database.execute(f"INSERT INTO {table} VALUES ({', '.join('?' * len(row))})", row)
        database.close()

    def merge(self, options: MergeOptions | None = None, origin: OriginFiles | None = None, **more: Any) -> Merged:
        target = self.at("merged")
        shutil.copy(self.at("there"), target)
        place = self.computer.parse("/home/odile/scenes.db")
        sides = Sides(self.part, place, self.at("there"), target, self.at("carried"), self.computer, origin, **more)
        done = merge_and_prove(sides, options or MergeOptions(), Disk(), self.folder)
        assert done.compared >= 0
        return done


@pytest.fixture
def pair(tmp_path: Path) -> Pair:
    """Both have the owl; the one there has the mill, the carried one the kiln, under a number that is taken there."""
    pair = Pair(tmp_path)
    pair.fill("there", "sound", [(1, "/m/owl.wav", 3, "", 10, 5), (2, "/m/mill.wav", None, "turns", 10, 5)])
    pair.fill("carried", "sound", [(1, "/m/kiln.wav", 5, "hot", 20, 9), (2, "/m/owl.wav", 3, "hoots", 20, 9)])
    return pair


def test_new_entries_get_keys_of_their_own_and_shared_ones_stay_one(pair: Pair) -> None:
    done = pair.merge()
    assert (done.report.new, done.report.same, done.report.conflicts) == (1, 1, ())
    assert pair.rows("merged", "SELECT id, path, stars, note FROM sound ORDER BY id") == [
        (1, "/m/owl.wav", 3, "hoots"),
        (2, "/m/mill.wav", None, "turns"),
        (3, "/m/kiln.wav", 5, "hot"),
    ]
    assert done.keys.entries == {"1": "3", "2": "1"}
    assert done.report.only_carried == 1, "a note that one side lacks is no conflict"


def test_references_are_followed_and_lookups_joined_by_their_names(pair: Pair) -> None:
    pair.fill("there", "tag", [(1, "night"), (2, "old")])
    pair.fill("carried", "tag", [(1, "fire"), (7, "night"), (9, "unused")])
    pair.fill("carried", "sound_tag", [(1, 1), (2, 7)])
    pair.fill("there", "sound_tag", [(1, 2)])
    pair.fill("carried", "marker", [(4, 1, 0.5, "crackle"), (5, 2, 1.0, "hoo")])
    pair.fill("there", "marker", [(1, 1, 1.0, "hoo"), (2, 2, 9.0, "clack")])
    pair.fill("carried", "edit", [(1, 0.7)])
    done = pair.merge()
    named = (
        "SELECT s.path, t.name FROM sound_tag JOIN sound AS s ON s.id = sound JOIN tag AS t ON t.id = tag ORDER BY 1, 2"
    )
    assert pair.rows("merged", named) == [
        ("/m/kiln.wav", "fire"),
        ("/m/owl.wav", "night"),
        ("/m/owl.wav", "old"),
    ]
    marked = "SELECT path, at, label FROM marker JOIN sound ON sound.id = sound ORDER BY marker.id"
    assert pair.rows("merged", marked) == [
        ("/m/owl.wav", 1.0, "hoo"),
        ("/m/mill.wav", 9.0, "clack"),
        ("/m/kiln.wav", 0.5, "crackle"),
    ]
    assert pair.rows("merged", "SELECT sound, gain FROM edit") == [(3, 0.7)]
    assert pair.rows("merged", "SELECT name FROM tag ORDER BY id") == [("night",), ("old",), ("fire",)]
    assert "settings" in done.report.aside


def test_groups_are_joined_with_their_nesting_and_their_order(pair: Pair) -> None:
    pair.fill("there", "list", [(1, "Evening", None), (2, "Storm", 1)])
    pair.fill("there", "item", [(2, 2, 1), (2, 1, 2)])
    pair.fill("carried", "list", [(1, "Storm", 3), (2, "Storm", None), (3, "Evening", None), (4, "Heat", 1)])
    pair.fill("carried", "item", [(1, 2, 1), (1, 1, 2), (4, 1, 1), (4, 1, 2)])
    done = pair.merge()
    groups = "SELECT l.title, p.title FROM list AS l LEFT JOIN list AS p ON p.id = l.within ORDER BY l.id"
    assert pair.rows("merged", groups) == [("Evening", None), ("Storm", "Evening"), ("Storm", None), ("Heat", "Storm")]
    items = (
        "SELECT title, path FROM item JOIN list ON list.id = list JOIN sound ON sound.id = sound ORDER BY list, place"
    )
    assert pair.rows("merged", items) == [
        ("Storm", "/m/mill.wav"),
        ("Storm", "/m/owl.wav"),
        ("Storm", "/m/kiln.wav"),
        ("Heat", "/m/kiln.wav"),
        ("Heat", "/m/kiln.wav"),
    ]
    assert (done.report.groups_new, done.report.groups_grown) == (("Storm", "Heat"), ("Storm",))


def conflicts(report: MergeReport) -> list[tuple[str, str, str, str, Any]]:
    return [(each.entry, each.field, each.there, each.carried, each.outcome) for each in report.conflicts]


@pytest.mark.parametrize(
    ("options", "outcome", "stars"),
    [
        (MergeOptions(), None, 3),
        (MergeOptions(Taken.KEEP), Taken.KEEP, 3),
        (MergeOptions(Taken.BRING_IN), Taken.BRING_IN, 4),
        (MergeOptions(Taken.NEWER), Taken.BRING_IN, 4),
        (MergeOptions(Taken.BRING_IN, {("/m/owl.wav", "stars"): Taken.KEEP}), Taken.KEEP, 3),
    ],
)
def test_values_that_differ_without_a_common_origin_are_conflicts(
    pair: Pair, options: MergeOptions, outcome: Taken | None, stars: int
) -> None:
    pair.run("carried", "UPDATE sound SET stars = 4 WHERE id = 2")
    done = pair.merge(options)
    assert conflicts(done.report) == [("/m/owl.wav", "stars", "3", "4", outcome)]
    assert pair.rows("merged", "SELECT stars, played FROM sound WHERE id = 1") == [(stars, 5)]
    assert done.report.facts == 2, "what a program counts by itself is no conflict"


def test_a_common_origin_leaves_only_what_both_changed(tmp_path: Path) -> None:
    pair = Pair(tmp_path)
    rows = [(n, f"/m/{n}.wav", 3, "as it was", 10, 5) for n in range(1, 6)]
    pair.fill("there", "sound", rows)
    pair.fill("there", "list", [(1, "Storm", None)])
    pair.fill("there", "item", [(1, 2, 1)])
    shutil.copy(pair.at("there"), pair.at("origin"))
    shutil.copy(pair.at("there"), pair.at("carried"))
    pair.run("there", "UPDATE sound SET stars = 1 WHERE id = 1; UPDATE sound SET note = 'here' WHERE id = 3;")
    pair.run(
        "there", "UPDATE list SET title = 'Gale'; INSERT INTO item VALUES (1, 1, 2); DELETE FROM sound WHERE id = 5;"
    )
    pair.run(
        "carried",
        "UPDATE sound SET stars = 2, played = 8 WHERE id = 2; UPDATE sound SET note = 'on tour' WHERE id = 3;",
    )
    pair.run("carried", "INSERT INTO sound VALUES (6, '/m/6.wav', 1, '', 0, 0); INSERT INTO item VALUES (1, 6, 2);")
    done = pair.merge(MergeOptions(), OriginFiles(pair.at("origin"), pair.at("origin")))
    assert conflicts(done.report) == [("/m/3.wav", "note", "here", "on tour", None)]
    assert pair.rows("merged", "SELECT id, stars, note, played FROM sound ORDER BY id") == [
        (1, 1, "as it was", 5),
        (2, 2, "as it was", 8),
        (3, 3, "here", 5),
        (4, 3, "as it was", 5),
        (5, 3, "as it was", 5),
        (6, 1, "", 0),
    ]
    assert done.report.deleted_there == 1
    assert pair.rows("merged", "SELECT title FROM list") == [("Gale",)], "one group, renamed there"
    assert pair.rows("merged", "SELECT sound, place FROM item ORDER BY place") == [(2, 1), (1, 2), (6, 3)]
    assert (done.report.only_there, done.report.three_sides) == (2, True), "stars, and the title of the list"


def test_two_versions_of_a_schema_are_refused(pair: Pair) -> None:
    pair.run("carried", "ALTER TABLE sound ADD COLUMN length REAL; PRAGMA user_version = 4;")
    with pytest.raises(CatalogError, match=r"schema version 0 there, 4 carried.*table sound"):
        pair.merge()


def test_what_hangs_on_entries_and_is_not_explained_stops_the_merge(tmp_path: Path) -> None:
    pair = Pair(tmp_path, schema=SCHEMA + "CREATE TABLE odd (what INTEGER, weight REAL);")
    rows = [(n, f"/m/{n}.wav", 3, "", 0, 0) for n in range(1, 40)]
    pair.fill("carried", "sound", rows)
    pair.fill("carried", "odd", [(n, 0.5) for n in range(2, 30)])
    with pytest.raises(CatalogError, match=r"odd: 28 rows, whose column what holds keys of entries") as raised:
        pair.merge()
    assert "--without odd" in raised.value.next_step
    assert pair.merge(MergeOptions(without=("odd",))).report.new == 39
    assert pair.rows("merged", "SELECT count(*) FROM odd") == [(0,)]


def test_values_that_are_keys_by_name_explain_a_table(tmp_path: Path) -> None:
    pair = Pair(tmp_path, schema=SCHEMA + "CREATE TABLE peak (sound_id INTEGER, height REAL);")
    pair.fill("there", "sound", [(1, "/m/owl.wav", 3, "", 0, 0)])
    pair.fill("carried", "sound", [(1, "/m/kiln.wav", 3, "", 0, 0)])
    pair.fill("carried", "peak", [(1, 0.9)])
    report = pair.merge().report
    assert pair.rows("merged", "SELECT * FROM peak") == [(2, 0.9)]
    (peak,) = [each for each in report.tables if each.name == "peak"]
    assert "its column sound_id holds keys of sound" in peak.why


RECIPE_SCHEMA = """
CREATE TABLE sound (number INTEGER PRIMARY KEY, file TEXT, stars INTEGER, uuid TEXT, edited INTEGER,
                    shelf_place INTEGER UNIQUE);
CREATE TABLE mark (what INTEGER, second INTEGER, text TEXT);
CREATE TABLE label (what INTEGER, tag INTEGER);
CREATE TABLE tag (id INTEGER PRIMARY KEY, word TEXT, colour TEXT);
CREATE TABLE counter (name TEXT PRIMARY KEY, value INTEGER);
"""


def test_the_recipe_in_the_docs_merges_what_foreign_keys_do_not_tell(tmp_path: Path) -> None:
    pair = Pair(tmp_path, GUIDE.partition("[[holding.entries]]")[0] + merging_recipes()[0], RECIPE_SCHEMA)
    pair.fill("there", "sound", [(1, "/m/owl.wav", 3, "aa", 5, 1), (2, "/m/mill.wav", 1, "bb", 5, 2)])
    pair.fill("carried", "sound", [(1, "/m/other owl.wav", 4, "aa", 9, 1), (2, "/m/kiln.wav", 5, "cc", 9, 2)])
    pair.fill("there", "tag", [(1, "night", "blue")])
    pair.fill("carried", "tag", [(1, "fire", "red"), (2, "night", "black")])
    pair.fill("carried", "label", [(1, 2), (2, 1), (2, 2)])
    pair.fill("there", "label", [(1, 1)])
    pair.fill("there", "mark", [(1, 7, "hoot")])
    pair.fill("carried", "mark", [(1, 7, "Hoot!"), (1, 9, "silence"), (2, 1, "crackle")])
    for name in ("there", "carried"):
        pair.fill(name, "counter", [("next sound", 3), ("other", 100)])
    done = pair.merge(MergeOptions(Taken.NEWER))
    assert pair.rows("merged", "SELECT number, file, stars, shelf_place FROM sound ORDER BY number") == [
        (1, "/m/owl.wav", 4, 1),
        (2, "/m/mill.wav", 1, 2),
        (3, "/m/kiln.wav", 5, 3),
    ]
    labels = "SELECT what, word FROM label JOIN tag ON tag.id = tag ORDER BY what, word"
    assert pair.rows("merged", labels) == [(1, "night"), (3, "fire"), (3, "night")]
    assert pair.rows("merged", "SELECT word, colour FROM tag ORDER BY id") == [("night", "blue"), ("fire", "red")]
    assert [row[:2] for row in pair.rows("merged", "SELECT * FROM mark ORDER BY what, second")] == [
        (1, 7),
        (1, 9),
        (3, 1),
    ]
    assert pair.rows("merged", "SELECT * FROM counter ORDER BY name") == [("next sound", 4), ("other", 100)]
    assert {each.field for each in done.report.conflicts} == {"stars", "mark.text"}


SOUNDS = st.lists(
    st.tuples(st.sampled_from("abcdefgh"), st.sampled_from((None, 1, 2)), st.sampled_from(("", "x", "y"))),
    max_size=6,
    unique_by=lambda each: each[0],
)
WORLD = st.tuples(
    SOUNDS,
    st.lists(st.tuples(st.sampled_from("pqr"), st.integers(0, 3)), max_size=4),  # lists and the one around each
    st.lists(st.tuples(st.integers(0, 9), st.integers(0, 9)), max_size=8),  # members
    st.lists(st.tuples(st.integers(0, 9), st.sampled_from(("t", "u", "v"))), max_size=6, unique=True),  # tags
    st.lists(st.tuples(st.integers(0, 9), st.sampled_from((0.5, 1.0)), st.sampled_from("mn")), max_size=6),  # markers
)


def fill_world(pair: Pair, name: str, world: Any) -> None:
    sounds, lists, members, tags, markers = world
    pair.fill(name, "sound", [(n, f"/m/{s}.wav", stars, note, n, n) for n, (s, stars, note) in enumerate(sounds, 1)])
    rows: list[tuple[int, str, int | None]] = []
    for number, (title, above) in enumerate(lists, 1):
        parent = above if above in {row[0] for row in rows} else None
        if (title, parent) not in {row[1:] for row in rows}:  # two of one name in one place are not told apart
            rows.append((number, title, parent))
    pair.fill(name, "list", rows)
    if sounds and rows:
        items = [(rows[g % len(rows)][0], s % len(sounds) + 1, place) for place, (g, s) in enumerate(members, 1)]
        pair.fill(name, "item", items)
    words = sorted({word for _, word in tags})
    pair.fill(name, "tag", enumerate(words, 1))
    if sounds:
        pairs = {(s % len(sounds) + 1, words.index(word) + 1) for s, word in tags}
        pair.fill(name, "sound_tag", sorted(pairs))
        pair.fill(name, "marker", [(n, s % len(sounds) + 1, at, text) for n, (s, at, text) in enumerate(markers, 1)])


def told(pair: Pair, name: str) -> dict[str, Any]:
    """What a catalog says, by names alone; kinds of which there may be several alike are counted."""
    chains = """WITH RECURSIVE c(id, chain) AS (SELECT id, title FROM list WHERE within IS NULL
        UNION ALL SELECT l.id, c.chain || '/' || l.title FROM list AS l JOIN c ON l.within = c.id) """
    return {
        "sounds": {row[0] for row in pair.rows(name, "SELECT path FROM sound")},
        "groups": {row[0] for row in pair.rows(name, f"{chains} SELECT chain FROM c")},
        "members": Counter(
            pair.rows(
                name, f"{chains} SELECT chain, path FROM item JOIN c ON c.id = list JOIN sound AS s ON s.id = sound"
            )
        ),
        "tags": set(
            pair.rows(
                name, "SELECT path, name FROM sound_tag JOIN sound AS s ON s.id = sound JOIN tag AS t ON t.id = tag"
            )
        ),
        "markers": Counter(pair.rows(name, "SELECT path, at, label FROM marker JOIN sound AS s ON s.id = sound")),
    }


@settings(max_examples=30 if STRIDE > 1 else 2_000, deadline=None)
@given(there=WORLD, carried=WORLD)
def test_all_of_both_is_in_it_and_no_more(there: Any, carried: Any) -> None:
    with tempfile.TemporaryDirectory() as folder:
        pair = Pair(Path(folder))
        fill_world(pair, "there", there)
        fill_world(pair, "carried", carried)
        pair.merge(MergeOptions(Taken.KEEP))
        one, other, both = (told(pair, name) for name in ("there", "carried", "merged"))
        for kind in one:
            assert both[kind] == one[kind] | other[kind], kind  # of what may be there several times, the most
        assert pair.rows("merged", "PRAGMA foreign_key_check") == []
        shutil.copy(pair.at("merged"), pair.at("there"))
        again = pair.merge(MergeOptions(Taken.KEEP))
        assert all(table.new == 0 for table in again.report.tables), "the same again changes nothing"
