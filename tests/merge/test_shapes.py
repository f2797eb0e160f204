"""Merging two catalogs whose paths are not simply the value of one column."""

from __future__ import annotations

import hashlib
import json
import sqlite3
from collections import ChainMap
from collections.abc import Callable
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest

from conftest import Zesty
from support.trip import HEAD, Trip

OLD, NEW = "C:\\Users\\Odile\\Music\\Lamps\\", "/Users/odile/Music/Lamps/"
Row = dict[str, Any]


@dataclass(frozen=True)
class Shape:
    """How a catalog keeps a path: what its guide says, its table (in JSON there is none), and the row of one sound."""

    entries: str
    table: str
    row: Callable[[str, str], Row]


def md5(text: str) -> str:
    return hashlib.md5(text.encode()).hexdigest()


SHAPES = {
    "more around it": Shape(
        'key = "id"\npath = [{ at = "file", match = \'^x[0-9.]+:(.+)$\' }]',
        "id INTEGER PRIMARY KEY, file TEXT)",
        lambda folder, name: {"file": f"x1.5:{folder}{name}.wav"},
    ),
    "another separator": Shape(
        'key = "id"\npath = [{ column = "file", separator = "|" }]\nspelling = "slashes"',
        "id INTEGER PRIMARY KEY, file TEXT)",
        lambda folder, name: {"file": (folder + name + ".wav").replace("\\", "|").replace("/", "|")},
    ),
    "copies": Shape(
        'key = "id"\npath = [{ column = "file" }]\ncopies = [{ at = "lower", as = "lower" },'
        ' { at = "name", as = "name" }, { at = "sum", as = "md5" }]',
        "id INTEGER PRIMARY KEY, file TEXT, lower TEXT, name TEXT, sum TEXT)",
        lambda folder, name: {
            "file": f"{folder}{name}.wav",
            "lower": f"{folder}{name}.wav".lower(),
            "name": f"{name}.wav",
            "sum": md5(f"{folder}{name}.wav"),
        },
    ),
    "a path that is the key": Shape(
        'key = "file"\npath = [{ column = "file" }]',
        "file TEXT PRIMARY KEY, stars INTEGER) WITHOUT ROWID",
        lambda folder, name: {"file": f"{folder}{name}.wav"},
    ),
    "a key of two columns": Shape(
        'key = ["shelf", "number"]\npath = [{ column = "file" }]',
        "shelf TEXT, number INTEGER, file TEXT, PRIMARY KEY (shelf, number)) WITHOUT ROWID",
        lambda folder, name: {"file": f"{folder}{name}.wav", "shelf": "a", "number": len(name)},
    ),
    "bytes": Shape(
        'key = "id"\npath = [{ column = "file", blob = "utf-16-le" }]',
        "id INTEGER PRIMARY KEY, file BLOB)",
        lambda folder, name: {"file": f"{folder}{name}.wav\0".encode("utf-16-le")},
    ),
    "JSON: more around it": Shape(
        'each = "$.sounds[*]"\nkey = "id"\npath = [{ at = "file", match = \'^x[0-9.]+:(.+)$\' }]',
        "",
        lambda folder, name: {"id": name, "file": f"x1.5:{folder}{name}.wav"},
    ),
    "JSON: names": Shape(
        'each = "$.sounds[*]"\nkey = "id"\npath = [{ at = "file", holds = "names" }]\nspelling = "slashes"',
        "",
        lambda folder, name: {
            "id": name,
            "file": (folder + name + ".wav").replace("\\", "/").split("/"),
        },
    ),
    "JSON: copies": Shape(
        'each = "$.sounds[*]"\nkey = "id"\npath = [{ at = "file" }]\ncopies = [{ at = "sum", as = "md5" }]',
        "",
        lambda folder, name: {"id": name, "file": f"{folder}{name}.wav", "sum": md5(f"{folder}{name}.wav")},
    ),
    "JSON: names of members": Shape(
        'each = "$.sounds.*"\npath = [{ at = "member-name()" }]\nannotations = ["stars"]',
        "",
        lambda folder, name: {f"{folder}{name}.wav": {"stars": len(name)}},
    ),
}


def fill(at: Path, shape: Shape, folder: str, names: list[str]) -> None:
    at.parent.mkdir(parents=True, exist_ok=True)
    rows = [shape.row(folder, name) for name in names]
    if not shape.table:
        sounds = rows if "id" in rows[0] else dict(ChainMap(*rows))
        at.write_text(json.dumps({"sounds": sounds}, indent=1))
        return
    with closing(sqlite3.connect(at)) as made, made:
        made.execute(f"CREATE TABLE sound ({shape.table}")
        for row in rows:
            marks = ", ".join("?" * len(row))
            made.execute(f"INSERT INTO sound ({', '.join(row)}) VALUES ({marks})", list(row.values()))


def read(at: Path, shape: Shape, columns: str) -> list[Row]:
    if not shape.table:
        sounds = json.loads(at.read_text())["sounds"]
        return sounds if isinstance(sounds, list) else [{name: sounds[name]} for name in sounds]
    with closing(sqlite3.connect(at)) as database:
        database.row_factory = sqlite3.Row
        return [dict(row) for row in database.execute(f"SELECT {columns} FROM sound")]


@pytest.mark.parametrize("name", SHAPES)
def test_both_are_in_it_each_as_that_catalog_keeps_it(tmp_path: Path, zesty: Zesty, name: str) -> None:
    shape = SHAPES[name]
    trip = Trip(tmp_path, zesty)
    head = f'syntax = "{"sqlite" if shape.table else "json"}"\n[[holding.entries]]\n'
    head += 'table = "sound"\n' if shape.table else ""
    trip.guide(f'{HEAD}at = "{{app-data}}/Lamps/scenes.db"\n{head}{shape.entries}\n')
    for sound in ("owl", "kiln"):
        trip.sound(f"{sound}.wav")
    library = trip.new_home / "Music/Lamps"
    library.mkdir(parents=True)
    (library / "owl.wav").write_bytes(b"owl.wav")
    (library / "millstone.wav").write_bytes(b"mill.wav")
    fill(trip.home / "AppData/Roaming/Lamps/scenes.db", shape, OLD, ["kiln", "owl"])
    fill(trip.new_database, shape, NEW, ["owl", "millstone"])
    surveyed = trip.survey()
    assert surveyed.returncode == 0, surveyed.stdout
    assert trip.pack().returncode == 0
    planned = trip.plan("--decide", "merge")
    assert planned.returncode == 0, planned.stdout
    assert trip.unpack().returncode == 0
    relinked = trip.relink()
    assert relinked.returncode == 0, relinked.stdout
    checked = trip.check()
    assert checked.returncode == 0, checked.stdout
    wanted = [shape.row(NEW, sound) for sound in ("owl", "millstone", "kiln")]
    columns = ", ".join(wanted[0])
    found = read(trip.new_database, shape, columns)
    assert sorted(map(str, found)) == sorted(map(str, wanted))
