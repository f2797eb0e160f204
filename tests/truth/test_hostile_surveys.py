"""Surveys that are damaged or made to mislead, with digests that fit: refused at once, and nothing outside is read."""

from __future__ import annotations

import hashlib
import shutil
import sqlite3
from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import SQLITE, Trip

ENDLESS = "WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n) SELECT x AS grp, x AS file FROM n"
DAMAGES = {
    "sizes": "UPDATE file SET size = 'abc'",
    "paths": "UPDATE file SET path = NULL",
    "kinds": "UPDATE file SET kind = 'door'",
    "states": "UPDATE entry SET state = 'purple'",
    "facts": "UPDATE about SET value = x'00ff'",
    "a broken fact": "UPDATE about SET value = '{' WHERE name = 'programs'",
    "another fact": "UPDATE about SET value = '7' WHERE name = 'volumes'",
    "an endless view": f"DROP TABLE duplicate; CREATE VIEW duplicate AS {ENDLESS}",
    "a trigger": "CREATE TRIGGER t AFTER UPDATE ON about BEGIN DELETE FROM file; END",
    "no entries": "DROP TABLE entry",
    "a payload that climbs": "UPDATE carried SET payload = 'data/../../secret', size = 5, sha512 = '{secret}'",
}


def damaged(trip: Trip, statements: str) -> None:
    """Change the survey, and make the last manifest fit."""
    secret = b"0.wav"
    (trip.root / "secret").write_bytes(secret)
    with sqlite3.connect(trip.crate / "zesty/survey.db") as database:
        database.executescript(statements.replace("{secret}", hashlib.sha512(secret).hexdigest()))
    manifest = trip.crate / "tagmanifest-sha512.txt"
    names = [line.partition("  ")[2] for line in manifest.read_text().splitlines()]
    digests = [hashlib.sha512((trip.crate / each).read_bytes()).hexdigest() for each in names]
    manifest.write_text("".join(f"{digest}  {name}\n" for digest, name in zip(digests, names, strict=True)))


@pytest.fixture(scope="module")
def packed(tmp_path_factory: pytest.TempPathFactory, zesty: Zesty) -> Path:
    root = tmp_path_factory.mktemp("packed")
    trip = Trip(root, zesty)
    trip.guide(SQLITE)
    trip.database(trip.sounds(3))
    for step in (trip.survey, trip.pack, trip.plan):
        assert step().returncode == 0
    return root


@pytest.fixture
def trip(packed: Path, tmp_path: Path, zesty: Zesty) -> Trip:
    """A trip whose crate is planned, for this test alone."""
    root = shutil.copytree(packed, tmp_path / "copy")
    trip = Trip.__new__(Trip)
    trip.__dict__.update(root=root, crate=root / "crate", new=root / "shed.toml", _zesty=zesty)
    return trip


@pytest.mark.parametrize("change", ["DROP COLUMN stale", "ADD COLUMN former"])
def test_an_earlier_format_is_named_and_not_called_damage(trip: Trip, change: str) -> None:
    damaged(trip, f"ALTER TABLE document {change}; UPDATE about SET value = '12' WHERE name = 'format'")
    for said in (trip.run("survey", trip.crate), trip.plan(), trip.unpack()):
        assert (said.returncode, "is a survey of format 12" in said.stderr) == (3, True), said.stderr
        assert "damaged" not in said.stderr


@pytest.mark.parametrize("damage", DAMAGES)
def test_it_is_refused_and_nothing_is_written(trip: Trip, damage: str) -> None:
    damaged(trip, DAMAGES[damage])
    survey, todo = trip.run("survey", trip.crate), trip.run("todo", trip.crate)
    for said in (survey, todo, trip.plan(), trip.unpack()):
        assert said.returncode in (0, 3), said.stderr
        assert "Traceback" not in said.stderr
    assert said.returncode == 3
    assert not [each for each in (trip.root / "shed").rglob("*") if each.is_file()]
