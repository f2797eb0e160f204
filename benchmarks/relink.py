"""Relinking large catalogs against what a person would use instead: the sqlite3 shell, and scripts
that parse with the usual library of a syntax, change, and write.

The entries' files are on a drive that goes along; they need not be there for their paths to be repaired.
"""

from __future__ import annotations

import shutil
import sqlite3
import subprocess
import sys
from collections.abc import Iterator, Sequence
from pathlib import Path

from .bench import NEW, OLD, Row, run, zesty
from .survey import LISTED, SQLITE, TEXTS, write_text

DRIVE = '[[volume]]\nanchor = "{}"\nmount = "drive"\nlabel = "Spools"\n'
TREE = """at = "{documents}/list.db"
syntax = "sqlite"
[[holding.entries]]
table = "clip"
key = "id"
path = [{ table = "shelf", via = "shelf", parent = "around", at = "label" }, { at = "name" }]
"""
BEFORE, AFTER = "E:\\Lanternfold\\", "/Volumes/Spools/Lanternfold/"
SCRIPTS = {
    "xml": """
import sys, lxml.etree
document = lxml.etree.parse(sys.argv[1])
for element in document.xpath("//clip"):
    element.set("file", element.get("file").replace("file:///E:/", "file:///Volumes/Spools/"))
document.write(sys.argv[1], encoding="utf-8")
""",
    "json": """
import sys, json
with open(sys.argv[1], encoding="utf-8") as file:
    document = json.load(file)
for clip in document["clips"][:-1]:
    clip["file"] = clip["file"].replace("E:\\\\", "/Volumes/Spools/").replace("\\\\", "/")
with open(sys.argv[1], "w", encoding="utf-8") as file:
    json.dump(document, file)
""",
    "plist": """
import sys, plistlib
with open(sys.argv[1], "rb") as file:
    document = plistlib.load(file)
for clip in document["clips"][:-1]:
    clip["file"] = clip["file"].replace("E:\\\\", "/Volumes/Spools/").replace("\\\\", "/")
with open(sys.argv[1], "wb") as file:
    plistlib.dump(document, file)
""",
    "lines": """
import sys
with open(sys.argv[1], encoding="utf-8") as file:
    lines = file.readlines()
with open(sys.argv[1], "w", encoding="utf-8") as file:
    file.writelines(line.replace("E:\\\\", "/Volumes/Spools/").replace("\\\\", "/") for line in lines)
""",
    "delimited": """
import csv, sys
with open(sys.argv[1], encoding="utf-8", newline="") as file:
    rows = list(csv.reader(file))
with open(sys.argv[1], "w", encoding="utf-8", newline="") as file:
    new = [[each.replace("E:\\\\", "/Volumes/Spools/").replace("\\\\", "/") for each in row] for row in rows]
    csv.writer(file).writerows(new)
""",
}


def written(path: str, syntax: str) -> str:
    """A path as a document of that syntax holds it."""
    if syntax == "xml":
        return "/" + path.replace("\\", "/")
    return path.replace("\\", "\\\\") if syntax == "json" else path


def paths(rows: int) -> list[str]:
    """Paths in the order in which a person added them: not that of any index."""
    numbers = (row * 7919 % rows for row in range(rows))
    return [
        f"{BEFORE}Sound Store\\Set {number // 1000:04d}\\Take {number:07d} of the evening.wav" for number in numbers
    ]


def write_database(catalog: Path, rows: list[str]) -> None:
    """A catalog with an index that allows each path once."""
    database = sqlite3.connect(catalog)
    database.execute("CREATE TABLE clip (id INTEGER PRIMARY KEY, file TEXT UNIQUE, bytes INTEGER, stars INTEGER)")
    values = ((number, path, 1000 + number, 3) for number, path in enumerate(rows))
    database.executemany("INSERT INTO clip VALUES (?, ?, ?, ?)", values)
    database.commit()
    database.close()


def write_tree(catalog: Path, rows: list[str]) -> None:
    """The same paths, ten to a folder that is a row of a tree."""
    database = sqlite3.connect(catalog)
    database.execute("CREATE TABLE shelf (id INTEGER PRIMARY KEY, around INTEGER, label TEXT)")
    database.execute("CREATE TABLE clip (id INTEGER PRIMARY KEY, shelf INTEGER, name TEXT, bytes INTEGER)")
    shelves: dict[tuple[str, ...], int] = {}
    for number, path in enumerate(rows):
        *folders, name = path.split("\\")
        folders.append(f"Reel {int(name.split()[1]) // 10:06d}")
        around = None
        for length in range(1, len(folders) + 1):
            known = shelves.get(tuple(folders[:length]))
            if known is None:
                known = shelves[tuple(folders[:length])] = len(shelves) + 1
                database.execute("INSERT INTO shelf VALUES (?, ?, ?)", (known, around, folders[length - 1]))
            around = known
        database.execute("INSERT INTO clip VALUES (?, ?, ?, ?)", (number, around, name, 1000 + number))
    database.commit()
    database.close()


def measure(
    root: Path, what: str, guide: str, command: Sequence[str], most: tuple[float, float], other: Path | None = None
) -> Row:
    """Take the catalog to the new computer, and relink it there.

    ``command`` is run on a copy of it, or on the ``other`` file. ``most`` are the aims: times, and MB.
    """
    catalog = next((root / "old/Users/Odile/Documents").iterdir())
    (root / "guides").mkdir()
    (root / "guides/large.toml").write_text(guide)
    for name, sheet in (
        ("old", OLD + DRIVE.format("E:") + "travels = true\n"),
        ("new", NEW + DRIVE.format("/Volumes/Spools")),
    ):
        (root / f"{name}.toml").write_text(sheet)
    (root / "new/Users/odile").mkdir(parents=True)
    (root / "drive").mkdir()
    crate, to = root / "crate", ["--to", root / "new.toml"]
    zesty("survey", crate, "--from", root / "old.toml", "--guides", root / "guides", "--json")
    zesty("pack", crate)
    zesty("plan", crate, *to)
    zesty("unpack", crate, *to, "--yes")
    manually = root / catalog.name
    shutil.copyfile(other or catalog, manually)
    subprocess.run(["sync"], check=True)
    plain = run([each.replace("CATALOG", str(manually)) for each in command])
    subprocess.run(["sync"], check=True)
    return Row(f"relink, {what}", zesty("relink", crate, *to, "--yes"), plain, most[0], most_mb=most[1])


def fresh(root: Path) -> Path:
    """An empty scene; the folder that the catalog goes into."""
    shutil.rmtree(root, ignore_errors=True)
    folder = root / "old/Users/Odile/Documents"
    folder.mkdir(parents=True)
    return folder


def rows(folder: Path, size: float) -> Iterator[Row]:
    """Measure."""
    large, few = paths(int(1_000_000 * size)), int(300_000 * size)
    update = ["sqlite3", "CATALOG", f"UPDATE clip SET file = replace(file, '{BEFORE}', '{AFTER}')"]
    write_database(fresh(folder) / "list.db", large)
    yield measure(folder, f"SQLite, {len(large):,}, UPDATE", LISTED + SQLITE, update, (0.7, 400))
    write_tree(fresh(folder) / "list.db", large)
    write_database(folder / "column.db", large)
    what = f"in a tree, {len(large):,}, UPDATE of a column"
    yield measure(folder, what, LISTED + TREE, update, (0.7, 400), folder / "column.db")
    for syntax, part in TEXTS.items():
        texts = [written(each, syntax) for each in paths(few)]
        write_text(fresh(folder) / f"list.{syntax}", syntax, texts)
        guide = f'{LISTED}at = "{{documents}}/list.{syntax}"\n{part}'
        script = [sys.executable, "-c", SCRIPTS[syntax], "CATALOG"]
        yield measure(folder, f"{syntax}, {few:,}, a script", guide, script, (4, 500))
