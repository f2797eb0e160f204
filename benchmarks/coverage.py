"""Coverage of a survey: files that no guide covers, against `find` with sizes and dates over the same tree."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from .bench import GUIDE, Row, run, zesty
from .survey import LISTED, SQLITE, lay_out, write_database


def rows(folder: Path, size: float) -> Iterator[Row]:
    """Measure."""
    files = int(1_000_000 * size)
    paths = lay_out(folder, files)
    write_database(folder / "disk/home/odile/Documents/list.db", paths[:10])
    (folder / "guides").mkdir()
    without_media = GUIDE.partition("[[holding]]")[0] + LISTED.removeprefix(GUIDE) + SQLITE
    (folder / "guides/large.toml").write_text(without_media)
    find = run(["find", str(folder / "disk"), "-type", "f", "-printf", "%s %T@ %p\\n"])
    survey = ["survey", folder / "crate", "--from", folder / "sheet.toml", "--guides", folder / "guides"]
    yield Row(f"survey, {files:,} files that no guide covers, find", zesty(*survey, "--no-duplicates"), find, 4)
