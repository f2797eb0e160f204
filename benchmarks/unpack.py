"""Unpacking against `cp -a` and `sha512sum` of the copy: 1 GiB in 8 files, and 20,000 files of 1 to 6 kB."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

from .bench import SHEET, Row, manually, zesty
from .pack import lay_out, sizes


def rows(folder: Path, size: float) -> Iterator[Row]:
    """Measure."""
    for what, (files, _, most_times) in sizes(size).items():
        lay_out(folder, files)
        crate, sheet = folder / "crate", folder / "new.toml"
        sheet.write_text(SHEET.replace('"large"', '"new"').replace('"disk"', '"new"'))
        (folder / "new").mkdir()
        zesty("survey", crate, "--from", folder / "sheet.toml", "--guides", folder / "guides", "--no-duplicates")
        zesty("pack", crate)
        os.sync()
        against = manually(crate / "data", folder / "copy")
        os.sync()  # the copy stays: some file systems are slow to make files where many were removed a moment ago
        to = ["--to", sheet]
        yield Row(f"plan, {what}, cp, sha512sum", zesty("plan", crate, *to), against)
        yield Row(f"unpack, {what}, cp, sha512sum", zesty("unpack", crate, *to, "--yes"), against, most_times)
        yield Row("  once more, with all of it there", zesty("unpack", crate, *to, "--yes"), against)
        yield Row("  undo", zesty("undo", crate, *to, "--yes"), against)
