"""A whole move of many small files and one catalog, step by step; and how quickly a command on its crate begins."""

from __future__ import annotations

import random
import shutil
from collections.abc import Iterator
from pathlib import Path

from .bench import SHEET, Row, run, zesty
from .survey import LISTED, SQLITE, write_database

_FILES = 200_000


def rows(folder: Path, size: float) -> Iterator[Row]:
    """Measure."""
    crate, old, new = folder / "crate", folder / "old.toml", folder / "new.toml"
    lay_out(folder, int(_FILES * size))
    find = run(["find", str(folder / "disk"), "-type", "f", "-printf", "%s %T@ %p\\n"])
    to = ["--to", new]
    steps: dict[str, tuple[list[str | Path], float | None]] = {
        "survey": (["survey", crate, "--from", old, "--guides", folder / "guides", "--no-duplicates"], None),
        "pack": (["pack", crate], None),
        "plan": (["plan", crate, *to], 5),
        "unpack": (["unpack", crate, *to, "--yes"], None),
        "todo": (["todo", crate, *to], 5),
        "relink": (["relink", crate, *to, "--yes"], None),
        "check": (["check", crate, *to], None),
    }
    for name, (words, most_s) in steps.items():
        yield Row(f"{name}, {int(_FILES * size):,} small files, find", zesty(*words), find, None, most_s)


def lay_out(root: Path, files: int) -> None:
    """Small files in folders of a thousand, a catalog that names all, and a new computer."""
    shutil.rmtree(root, ignore_errors=True)
    random.seed(7)
    home = root / "disk/home/odile"
    (home / "Documents").mkdir(parents=True)
    paths = []
    for number in range(files):
        folder = home / f"Music/Reel {number // 1000:04d}"
        if number % 1000 == 0:
            folder.mkdir(parents=True)
        (folder / f"Take {number:07d}.wav").write_bytes(random.randbytes(1000))
        paths.append(f"/home/odile/Music/{folder.name}/Take {number:07d}.wav")
    write_database(home / "Documents/list.db", paths)
    (root / "guides").mkdir()
    (root / "guides/large.toml").write_text(LISTED + SQLITE.replace('size = "bytes"\n', ""))
    (root / "old.toml").write_text(SHEET.replace('"large"', '"old"'))
    (root / "new.toml").write_text(SHEET.replace('"large"', '"new"').replace('"disk"', '"there"'))
    (root / "there/home/odile").mkdir(parents=True)
