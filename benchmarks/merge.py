"""Merging a small catalog into a large one, against relinking the large one.

python benchmarks/merge.py FOLDER [--rows 1000000] [--carried 10000]

Both are SQLite databases with lists; half of what is carried is on both sides.
"""

from __future__ import annotations

import argparse
import sqlite3
from pathlib import Path

from bench import ZESTY, run, table

OLD = '[computer]\nname = "old"\nsystem = "windows"\nuser = "Odile"\n[[volume]]\nanchor = "C:"\nmount = "old"\n'
NEW = '[computer]\nname = "new"\nsystem = "macos"\nuser = "odile"\n[[volume]]\nanchor = "/"\nmount = "new"\n'
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


def prepare(root: Path, rows: range, there: range | None) -> tuple[str, list[str]]:
    """Both computers, and a crate that is packed; how it is named, and where it goes."""
    (root / "guides").mkdir(parents=True)
    (root / "guides/lamps.toml").write_text(GUIDE)
    (root / "old.toml").write_text(OLD)
    (root / "new.toml").write_text(NEW)
    (root / "new/Users/odile").mkdir(parents=True)
    write(root / "old/Users/Odile/AppData/Roaming/Lamps/scenes.db", "C:\\Users\\Odile\\Music\\Lamps\\", "\\", rows)
    if there is not None:
        place = root / "new/Users/odile/Library/Application Support/Lamps/scenes.db"
        write(place, "/Users/odile/Music/Lamps/", "/", there)
    crate = str(root / "crate")
    run([ZESTY, "survey", crate, "--from", str(root / "old.toml"), "--guides", str(root / "guides")])
    run([ZESTY, "pack", crate])
    return crate, ["--to", str(root / "new.toml")]


def main() -> None:
    """Run it."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--rows", type=int, default=1_000_000)
    parser.add_argument("--carried", type=int, default=10_000)
    args = parser.parse_args()
    half = args.carried // 2
    crate, to = prepare(args.folder / "relinked", range(args.rows), None)
    for step in (["plan", crate, *to], ["unpack", crate, *to, "--yes"]):
        run([ZESTY, *step])
    relinked = run([ZESTY, "relink", crate, *to, "--yes"])
    crate, to = prepare(args.folder / "merged", range(args.rows - half, args.rows + half), range(args.rows))
    planned = run([ZESTY, "plan", crate, *to, "--decide", "merge", "--values", "keep"])
    run([ZESTY, "unpack", crate, *to, "--yes"])
    merged = run([ZESTY, "relink", crate, *to, "--yes"])
    checked = run([ZESTY, "check", crate, *to])
    title = f"{args.carried:,} entries into {args.rows:,}"
    rows = [("relinking the large one", relinked), ("planning the merge", planned), ("merging", merged)]
    table(title, [*rows, ("check", checked)], relinked)


if __name__ == "__main__":
    main()
