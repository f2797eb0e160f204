"""A mistake in a guide ends in a clear message or a verdict, never in a fault of the program or in "All well"."""

from __future__ import annotations

import json
import re
import sqlite3
from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import JSON, LINES, SOUNDS, SQLITE, XML, Trip

KEY = 'key = "id"'
MISTAKES = {
    "unknown prefix": XML.replace("//sound", "//lamp:sound"),
    "unknown prefix in a path": XML.replace("@path", "@lamp:path"),
    "no XPath": XML.replace("//sound", "//sound["),
    "a number": XML.replace("//sound", "count(//sound)"),
    "attributes": XML.replace("//sound", "//sound/@path").replace('"@path"', '"."'),
    "a function": XML.replace('"@path"', '"nothing(@path)"'),
    "no JSONPath": JSON.replace("$.sounds[*]", "$.sounds[*"),
    "JSON of nothing": JSON.replace("$.sounds[*]", "$.sounds.first"),
    "no expression": LINES.replace("sound=(?P<path>.*)", "sound=(?P<path>.*"),
    "no such group": LINES.replace('at = "path"', 'at = "file"'),
    "a view": SQLITE.replace('"sound"', '"every_sound"'),
    "no such table": SQLITE.replace('"sound"', '"sounds"'),
    "no such column": SQLITE.replace('at = "path"', 'at = "file"'),
    "a key that is not unique": SQLITE.replace(KEY, 'key = "scene"'),
    "a composite key": SQLITE.replace('"sound"', '"two_keys"').replace(KEY, 'key = "one"'),
    "no condition": SQLITE.replace(KEY, KEY + '\nwhere = "path LIKE \'C:"'),
    "numbered without a number": SQLITE.replace(KEY, KEY + "\nnumbered = {}"),
    "numbered by nothing": SQLITE.replace(KEY, KEY + '\nnumbered = { first = "id" }'),
    "another spelling": SQLITE.replace('"native"', '"file-url"'),
    "another syntax": SQLITE.replace('syntax = "sqlite"', 'syntax = "json"'),
}

MOVED = ("attributes", "no such group", "no such column", "another spelling")  # a move takes long


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    own = trip.home / "AppData/Roaming/Lamps"
    path = trip.sounds(2)[0]
    (own / "scenes.xml").write_text(f"<s><sound path='{path}'/><sound path='{SOUNDS}1.wav'/></s>")
    (own / "scenes.json").write_text(json.dumps({"sounds": [{"path": path}]}))
    (own / "scenes.txt").write_text(f"sound={path}\n")
    database = sqlite3.connect(own / "scenes.db")
    database.execute("CREATE TABLE sound (id INTEGER PRIMARY KEY, path, scene DEFAULT 1)")
    database.execute("CREATE VIEW every_sound AS SELECT * FROM sound")
    database.execute("CREATE TABLE two_keys (one, two, path, PRIMARY KEY (one, two)) WITHOUT ROWID")
    database.executemany("INSERT INTO sound (path) VALUES (?)", [(path,), (f"{SOUNDS}1.wav",)])
    database.executemany("INSERT INTO two_keys VALUES (1, ?, ?)", [(1, path), (2, path)])
    database.commit()
    database.close()
    return trip


@pytest.mark.parametrize("mistake", list(MISTAKES))
def test_a_mistake_is_told_and_nothing_is_said_to_be_well(trip: Trip, mistake: str) -> None:
    trip.guide(MISTAKES[mistake])
    survey = trip.survey()
    assert survey.returncode in (1, 3), survey.stdout + survey.stderr
    assert "Traceback" not in survey.stderr
    if survey.returncode == 1 and mistake in MOVED:
        check = trip.moved()
        assert (check.returncode, "All well" in check.stdout) == (1, False), check.stdout
        assert trip.retire().returncode == 3


FOR_OLD_PATHS = {
    "sqlite": SQLITE.replace(KEY, KEY + "\nwhere = \"path LIKE 'C:%'\""),
    "lines": "at = '{app-data}/Lamps/scenes.txt'\nsyntax = \"lines\"\n[[holding.entries]]\n"
    "each = 'sound=(?P<path>C:[^;]*);.*'\npath = [{ at = \"path\" }]\n",
    "xml": "at = '{app-data}/Lamps/scenes.xml'\nsyntax = \"xml\"\n[[holding.entries]]\n"
    'each = "//sound[starts-with(@path, \'C:\')]"\npath = [{ at = "@path" }]\n',
}


@pytest.mark.parametrize("kind", FOR_OLD_PATHS)
def test_a_condition_that_only_old_paths_fulfil_loses_no_entry(tmp_path: Path, zesty: Zesty, kind: str) -> None:
    trip = Trip(tmp_path, zesty)
    trip.guide(FOR_OLD_PATHS[kind])
    sounds, own = trip.sounds(3), trip.home / "AppData/Roaming/Lamps"
    if kind == "sqlite":
        trip.database(sounds)
    elif kind == "lines":
        (own / "scenes.txt").write_text("".join(f"sound={each};loud\n" for each in sounds))
    else:
        elements = "".join(f'<sound path="{each}"/>' for each in sounds)
        (own / "scenes.xml").write_text(f"<scenes>{elements}</scenes>")
    rehearsed = trip.run("guide", "rehearse", "lamps", "--at", trip.old, "--guides", trip.guides)
    assert rehearsed.returncode == 0, rehearsed.stdout
    assert "followed" in rehearsed.stdout
    checked = trip.moved()
    assert checked.returncode == 0, checked.stdout
    assert re.search(r"found +3 +3", checked.stdout)


def test_a_path_that_would_end_too_soon_there_is_still_refused(tmp_path: Path, zesty: Zesty) -> None:
    trip = Trip(tmp_path, zesty)
    trip.guide(FOR_OLD_PATHS["lines"])
    sounds = trip.sounds(2)
    at = trip.home / "AppData/Roaming/Lamps/scenes.txt"
    at.write_text("".join(f"sound={each};loud\n" for each in sounds))
    assert trip.survey().returncode == 0
    assert trip.pack().returncode == 0
    assert trip.plan("--route", "C:\\Users\\Odile\\Music\\Lamps=/Users/odile/Music/a;b").returncode == 0
    assert trip.unpack().returncode == 0
    assert "could not be read back" in trip.relink().stdout
