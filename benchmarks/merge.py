"""Merging a small catalog into a large one, against relinking the large one.

Both are SQLite databases with lists; half of what is carried is on both sides.
"""

from __future__ import annotations

import shutil
import sqlite3
from collections.abc import Iterator
from pathlib import Path

from .bench import NEW, OLD, Row, zesty

GUIDE = """[guide]
id = "lamps"
title = "Lamps"
language = 1
[[holding]]
id = "scenes"
kind = "catalog"
at = "{app-data}/Lamps/scenes.db"
syntax = "sqlite"
[[holding.entries]]
table = "sound"
key = "id"
path = [{ at = "path" }]
annotations = ["stars"]
[[holding.groups]]
table = "list"
key = "id"
name = "title"
members = { table = "item", group = "list", entry = "sound", order = "place" }
"""
SCHEMA = """
CREATE TABLE sound (id INTEGER PRIMARY KEY, path TEXT, stars INTEGER);
CREATE TABLE list (id INTEGER PRIMARY KEY, title TEXT);
CREATE TABLE item (list INTEGER, sound INTEGER, place INTEGER);
"""
LISTS = 200


def write(path: Path, folder: str, slash: str, rows: range) -> None:
    """Write a catalog of so many sounds."""
    path.parent.mkdir(parents=True)
    database = sqlite3.connect(path)
    database.executescript(SCHEMA)
    names = (f"{folder}{n // 500}{slash}sound number {n}.wav" for n in rows)
    database.executemany(
        "INSERT INTO sound (path, stars) VALUES (?, ?)", ((name, n % 6) for n, name in enumerate(names))
    )
    database.executemany("INSERT INTO list (title) VALUES (?)", ((f"list {n}",) for n in range(LISTS)))
    members = ((n % LISTS + 1, n, n) for n in range(1, len(rows), 3))
    database.executemany("INSERT INTO item VALUES (?, ?, ?)", members)
    database.commit()
    database.close()


def prepare(root: Path, rows: range, there: range | None) -> tuple[Path, list[str | Path]]:
    """Both computers, and a crate that is packed; how it is named, and where it goes."""
    shutil.rmtree(root, ignore_errors=True)
    (root / "guides").mkdir(parents=True)
    (root / "guides/lamps.toml").write_text(GUIDE)
    (root / "old.toml").write_text(OLD)
    (root / "new.toml").write_text(NEW)
    (root / "new/Users/odile").mkdir(parents=True)
    write(root / "old/Users/Odile/AppData/Roaming/Lamps/scenes.db", "C:\\Users\\Odile\\Music\\Lamps\\", "\\", rows)
    if there is not None:
        place = root / "new/Users/odile/Library/Application Support/Lamps/scenes.db"
        write(place, "/Users/odile/Music/Lamps/", "/", there)
    crate = root / "crate"
    zesty("survey", crate, "--from", root / "old.toml", "--guides", root / "guides")
    zesty("pack", crate)
    return crate, ["--to", root / "new.toml"]


def rows(folder: Path, size: float) -> Iterator[Row]:
    """Measure."""
    large, carried = int(1_000_000 * size), int(10_000 * size)
    crate, to = prepare(folder / "relinked", range(large), None)
    zesty("plan", crate, *to)
    zesty("unpack", crate, *to, "--yes")
    relinked = zesty("relink", crate, *to, "--yes")
    crate, to = prepare(folder / "merged", range(large - carried // 2, large + carried // 2), range(large))
    what = f"{carried:,} entries into {large:,}, relinking these"
    planned = zesty("plan", crate, *to, "--decide", "merge", "--values", "keep")
    yield Row(f"plan a merge, {what}", planned, relinked)
    zesty("unpack", crate, *to, "--yes")
    yield Row(f"merge, {what}", zesty("relink", crate, *to, "--yes"), relinked, 1.5)
    yield Row("  check", zesty("check", crate, *to), relinked)
