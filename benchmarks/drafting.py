"""Drafting a guide: a computer of many files and fifty documents, and a large database; each against a tenth of it."""

from __future__ import annotations

import json
import random
import shutil
import sqlite3
from collections.abc import Iterator
from pathlib import Path

from .bench import SHEET, Row, Run, zesty

_FILES, _ROWS, _DOCUMENTS = 200_000, 1_000_000, 50


def rows(folder: Path, size: float) -> Iterator[Row]:
    """Measure."""
    files, rows = int(_FILES * size), int(_ROWS * size)
    few, many = (drafted(folder, each, 0) for each in (files // 10, files))
    yield Row(f"draft, {files:,} files and {_DOCUMENTS} documents, a tenth", many, few, 11, 60)
    few, many = (drafted(folder, 10_000, each) for each in (rows // 10, rows))
    yield Row(f"draft, a database of {rows:,} rows, a tenth", many, few, 11, 20)


def drafted(root: Path, files: int, rows: int) -> Run:
    """Draft a guide for a program on a computer with so many files, from documents or from a database."""
    shutil.rmtree(root, ignore_errors=True)
    random.seed(7)
    home = root / "disk/home/odile"
    program = home / ".config/Lamps"
    program.mkdir(parents=True)
    paths = []
    for number in range(files):
        folder = home / f"Music/Reel {number // 5000}/Part {number // 100}"
        if number % 100 == 0:
            folder.mkdir(parents=True)
        (folder / f"Take {number:06d} of the evening.wav").touch()
        paths.append(
            f"/home/odile/Music/Reel {number // 5000}/Part {number // 100}/Take {number:06d} of the evening.wav"
        )
    if rows:
        database = sqlite3.connect(program / "scenes.db")
        database.execute("CREATE TABLE sound (id INTEGER PRIMARY KEY, file TEXT, stars INTEGER, note TEXT)")
        found = ((paths[number % files], number % 5, None) for number in range(rows))
        database.executemany("INSERT INTO sound (file, stars, note) VALUES (?, ?, ?)", found)
        database.commit()
        database.close()
    for number in range(0 if rows else _DOCUMENTS):
        sounds = [{"id": each, "file": random.choice(paths), "stars": each % 5} for each in range(200)]
        (program / f"scene {number}.lamp").write_text(json.dumps({"sounds": sounds}))
    (root / "sheet.toml").write_text(SHEET)
    made = ["guide", "draft", "--at", root / "sheet.toml", "--look-in", "/home/odile/.config/Lamps"]
    return zesty(*made, "-o", root / "draft.toml")
