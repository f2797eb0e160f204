"""Relinking large catalogs against what a person would use instead: the sqlite3 shell, lxml, sed.

python benchmarks/relink.py FOLDER [--rows 1000000] [--text-rows 300000]

The entries' files are on a drive that goes along; they need not be there for their paths to be repaired.
"""

from __future__ import annotations

import argparse
import shutil
import sqlite3
import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path

from bench import ZESTY, run, table

from survey import LISTED, SQLITE, TEXTS, write_text

OLD = """[computer]
name = "old"
system = "windows"
user = "Odile"
[[volume]]
anchor = "C:"
mount = "old"
[[volume]]
anchor = "E:"
mount = "drive"
label = "Spools"
travels = true
"""
NEW = """[computer]
name = "new"
system = "macos"
user = "odile"
[[volume]]
anchor = "/"
mount = "new"
[[volume]]
anchor = "/Volumes/Spools"
mount = "drive"
label = "Spools"
"""
BEFORE, AFTER = "E:\\Lanternfold\\", "/Volumes/Spools/Lanternfold/"
LXML = """
import sys, lxml.etree
document = lxml.etree.parse(sys.argv[1])
for element in document.xpath("//clip"):
    element.set("file", element.get("file").replace("file:///E:/", "file:///Volumes/Spools/"))
document.write(sys.argv[1], encoding="utf-8")
"""


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


def measure(root: Path, title: str, guide: str, against: Sequence[str]) -> None:
    """Take the catalog to the new computer, and print what relinking it there takes."""
    catalog = next((root / "old/Users/Odile/Documents").iterdir())
    (root / "guides").mkdir()
    (root / "guides/large.toml").write_text(guide)
    for name, sheet in (("old", OLD), ("new", NEW)):
        (root / f"{name}.toml").write_text(sheet)
    (root / "new/Users/odile").mkdir(parents=True)
    (root / "drive").mkdir()
    crate, to = str(root / "crate"), ["--to", str(root / "new.toml")]
    run([ZESTY, "survey", crate, "--from", str(root / "old.toml"), "--guides", str(root / "guides"), "--json"])
    run([ZESTY, "pack", crate])
    run([ZESTY, "plan", crate, *to])
    run([ZESTY, "unpack", crate, *to, "--yes"])
    manually = root / catalog.name
    shutil.copyfile(catalog, manually)
    subprocess.run(["sync"], check=True)
    other = run([*against[:-1], str(manually)] if against[0] != "sqlite3" else ["sqlite3", str(manually), against[-1]])
    subprocess.run(["sync"], check=True)
    ours = run([ZESTY, "relink", crate, *to, "--yes"])
    table(title, [(" ".join(against[:1]), other), ("zesty relink", ours)], other)


def fresh(root: Path) -> Path:
    """An empty scene; the folder that the catalog goes into."""
    shutil.rmtree(root, ignore_errors=True)
    folder = root / "old/Users/Odile/Documents"
    folder.mkdir(parents=True)
    return folder


def main() -> None:
    """Print the tables."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--rows", type=int, default=1_000_000)
    parser.add_argument("--text-rows", type=int, default=300_000)
    parser.add_argument("--only", choices=["sqlite", *TEXTS], help="this syntax alone")
    args = parser.parse_args()
    if args.only in (None, "sqlite"):
        write_database(fresh(args.folder) / "list.db", paths(args.rows))
        update = f"UPDATE clip SET file = replace(file, '{BEFORE}', '{AFTER}')"
        measure(args.folder, f"SQLite, {args.rows:,} rows", LISTED + SQLITE, ["sqlite3", update])
    for syntax, part in TEXTS.items():
        if args.only not in (None, syntax):
            continue
        rows = paths(args.text_rows)
        written = [("/" + each.replace("\\", "/") if syntax == "xml" else each) for each in rows]
        if syntax in ("json",):
            written = [each.replace("\\", "\\\\") for each in rows]
        write_text(fresh(args.folder) / f"list.{syntax}", syntax, written)
        guide = f'{LISTED}at = "{{documents}}/list.{syntax}"\n{part}'
        sed = "s#E:[\\\\]*Lanternfold#/Volumes/Spools/Lanternfold#; s#[\\\\][\\\\]*#/#g"
        against = [sys.executable, "-c", LXML, ""] if syntax == "xml" else ["sed", "-i", sed, ""]
        measure(args.folder, f"{syntax}, {args.text_rows:,} entries", guide, against)


if __name__ == "__main__":
    main()
