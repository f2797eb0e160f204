"""Check of large catalogs, on one computer and after a move, against `find` over the same tree."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path

from .bench import SHEET, Row, Run, run, zesty
from .survey import LISTED, SQLITE, lay_out, write_database


def old_computer(root: Path, rows: int) -> Path:
    """A computer with so many files, and the guide of its one program; its sheet."""
    paths = lay_out(root, rows)
    write_database(root / "disk/home/odile/Documents/list.db", paths)
    (root / "guides").mkdir(exist_ok=True)
    media = '\n[[holding]]\nid = "takes"\nkind = "media"\nat = "{music}"\n'
    (root / "guides/large.toml").write_text(LISTED + SQLITE + media)
    return root / "sheet.toml"


def find(root: Path) -> Run:
    """What a person would list the same files with."""
    return run(["find", str(root / "disk"), "-type", "f", "-printf", "%s %T@ %p\\n"])


def rows(folder: Path, size: float) -> Iterator[Row]:
    """Measure."""
    entries, one = int(1_000_000 * size), folder / "one"
    sheet = old_computer(one, entries)
    listed = find(one)
    checked = zesty("check", "--at", sheet, "--guides", one / "guides", "--json")
    yield Row(f"check --at, {entries:,} entries and files, find", checked, listed, 6)
    shutil.rmtree(one)
    entries = int(20_000 * size)
    old, new, crate = folder / "old", folder / "new", folder / "crate"
    sheet = old_computer(old, entries)
    (new / "disk/home/odile").mkdir(parents=True)
    (new / "sheet.toml").write_text(SHEET)
    to = ["--to", new / "sheet.toml"]
    zesty("survey", crate, "--from", sheet, "--guides", old / "guides", "--no-duplicates")
    zesty("pack", crate)
    zesty("plan", crate, *to)
    zesty("unpack", crate, *to, "--yes")
    zesty("relink", crate, *to, "--yes")
    listed = find(new)
    for each in ("changed", "sample", "all"):
        yield Row(f"check --content {each}, {entries:,}, find", zesty("check", crate, *to, "--content", each), listed)
