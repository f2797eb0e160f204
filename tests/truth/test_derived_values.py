"""4: derived values. What a database derives from a path follows, or is named."""

from __future__ import annotations

import hashlib
import sqlite3
from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import SQLITE, Trip, document


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    return trip


def relinked(trip: Trip) -> dict[str, object]:
    """The proof of the one catalog."""
    for step in (trip.survey, trip.pack, trip.plan, trip.unpack):
        assert step().returncode in (0, 1)
    (catalog,) = document(trip.relink("--json"))["catalogs"]
    assert isinstance(catalog, dict)
    return catalog


def found_by(trip: Trip, index: str, word: str) -> list[int]:
    database = sqlite3.connect(trip.new_database)
    rows = [row[0] for row in database.execute(f"SELECT rowid FROM {index} WHERE {index} MATCH ?", (word,))]
    database.close()
    return rows


@pytest.mark.parametrize("module", ["fts5(path, content='sound', content_rowid='id')", 'fts4(content="sound", path)'])
def test_a_search_index_without_texts_of_its_own_follows(trip: Trip, module: str) -> None:
    at = trip.database(trip.sounds(3))
    trip.execute(at, f"CREATE VIRTUAL TABLE words USING {module}", "INSERT INTO words(words) VALUES ('rebuild')")
    proof = relinked(trip)["proof"]
    assert isinstance(proof, dict) and proof["rebuilt"] == ["words"]
    assert found_by(trip, "words", "Library") == found_by(trip, "words", "Roaming") == []
    assert found_by(trip, "words", "odile") == [1, 2, 3]
    assert found_by(trip, "words", "C") == []
    assert trip.check().returncode == 0


def test_an_index_that_was_out_of_step_before_is_left_and_named(trip: Trip) -> None:
    at = trip.database(trip.sounds(3))
    made = "CREATE VIRTUAL TABLE words USING fts5(path, content='sound', content_rowid='id')"
    trip.execute(at, made, "INSERT INTO words(rowid, path) VALUES (1, 'something else')")
    proof = relinked(trip)["proof"]
    assert isinstance(proof, dict) and proof["out-of-step"] == ["words"] and proof["rebuilt"] == []
    assert found_by(trip, "words", "something") == [1]


def test_a_digest_of_the_path_is_named(trip: Trip) -> None:
    paths = trip.sounds(2)
    at = trip.database(paths, table="sound (id INTEGER PRIMARY KEY, path, digest)")
    for each in paths:
        digest = hashlib.md5(each.lower().encode(), usedforsecurity=False).hexdigest()
        trip.execute(at, f"UPDATE sound SET digest = '{digest.upper()}' WHERE path = '{each}'")
    trip.moved()
    (found,) = document(trip.check("--json"))["searched"]["residue"]
    assert (found["field"], found["mentions"], found["kind"]) == ("sound.digest", 2, "copy")
    assert found["example"].startswith("a digest of an old path, ")


def test_an_index_with_texts_of_its_own_is_named_as_residue(trip: Trip) -> None:
    at = trip.database(trip.sounds(2))
    trip.execute(at, "CREATE VIRTUAL TABLE words USING fts5(path)", "INSERT INTO words SELECT path FROM sound")
    assert trip.moved().returncode == 0
    residue = document(trip.check("--json"))["searched"]["residue"]
    assert {each["field"] for each in residue} == {"words_content.c0"}


@pytest.mark.parametrize("stored", ["VIRTUAL", "STORED"])
def test_a_computed_column_follows(trip: Trip, stored: str) -> None:
    table = f"sound (id INTEGER PRIMARY KEY, path, small GENERATED ALWAYS AS (lower(path)) {stored})"
    trip.database(trip.sounds(2), table=table)
    relinked(trip)
    assert trip.new_paths("SELECT small FROM sound ORDER BY id")[0] == "/users/odile/music/lamps/0.wav"
    assert trip.check().returncode == 0


def test_rows_that_point_to_a_path_keep_their_catalog_from_being_relinked(trip: Trip) -> None:
    at = trip.database(trip.sounds(2), table="sound (id INTEGER PRIMARY KEY, path UNIQUE)")
    trip.execute(at, "CREATE TABLE note (about REFERENCES sound (path))", "INSERT INTO note SELECT path FROM sound")
    catalog = relinked(trip)
    assert "note" in str(catalog["refused"]) and "path" in str(catalog["refused"])
    assert trip.new_paths()[0] == "C:\\Users\\Odile\\Music\\Lamps\\0.wav"
