"""Packing against `cp -a`, `sha512sum` of the copy, and `sync`: 1 GiB in 8 files, and 20,000 files of 1 to 6 kB."""

from __future__ import annotations

import os
import random
import shutil
from collections.abc import Iterator
from pathlib import Path

from .bench import GUIDE, SHEET, Row, manually, run, total, zesty


def lay_out(root: Path, sizes: list[int]) -> Path:
    """Files of these sizes, a hundred to a folder; the folder that holds them."""
    shutil.rmtree(root, ignore_errors=True)
    music = root / "disk/home/odile/Music"
    random.seed(7)
    for number, size in enumerate(sizes):
        folder = music / f"Reel {number // 100:04d}"
        folder.mkdir(parents=True, exist_ok=True)
        (folder / f"Take {number:06d}.wav").write_bytes(random.randbytes(size))
    (root / "guides").mkdir()
    (root / "guides/large.toml").write_text(GUIDE)
    (root / "sheet.toml").write_text(SHEET)
    os.sync()
    return music


def sizes(size: float) -> dict[str, tuple[list[int], float, float]]:
    """Sizes of files in bytes, with how many times what a person would do packing and unpacking may take."""
    large, small = int(1024 * size), int(20_000 * size)
    return {
        f"{large} MiB in 8 files": ([large << 17] * 8, 1.0, 1.2),
        f"{small:,} files of 1 to 6 kB": ([1000 + number % 5000 for number in range(small)], 2.5, 3.5),
    }


def rows(folder: Path, size: float) -> Iterator[Row]:
    """Measure."""
    for what, (files, most_times, _) in sizes(size).items():
        music = lay_out(folder, files)
        crate = folder / "crate"
        zesty("survey", crate, "--from", folder / "sheet.toml", "--guides", folder / "guides", "--no-duplicates")
        against = total(manually(music, folder / "copy"), run(["sync"]))
        os.sync()  # the copy stays: some file systems are slow to make files where many were removed a moment ago
        packed = zesty("pack", crate)
        yield Row(f"pack, read back, {what}, cp, sha512sum", packed, against, most_times)
        yield Row("  of this, the read-back", zesty("pack", crate, "--verify-only"), against)
