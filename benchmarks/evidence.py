"""Finding routes from evidence, and matching one by one: 10,000 displaced among 100,000 files, ten times as many."""

from __future__ import annotations

import random
import sys
from collections.abc import Iterator
from pathlib import Path

from zesty_crate.paths import MachinePath, System
from zesty_crate.relink import Lost, Searcher

from .bench import Row, run


def path(text: str) -> MachinePath:
    """A path of a made-up computer."""
    return MachinePath(System.LINUX, "/", tuple(text.strip("/").split("/")))


def search(displaced: int, files: int) -> None:
    """Find where displaced files are. Raises `SystemExit` unless all are found."""
    random.seed(7)
    names = [f"/old/Reel {number // 100:05d}/Take {number % 1000:04d}.wav" for number in range(displaced)]
    sizes = [random.randrange(10**6) for _ in names]
    searcher = Searcher((Lost(path(name), size) for name, size in zip(names, sizes, strict=True)), str.casefold)
    for name, size in zip(names, sizes, strict=True):
        searcher.see(path(name.replace("/old/", "/mnt/box/Archive/")), size)
    for number in range(files - displaced):
        searcher.see(path(f"/mnt/box/Else {number // 1000}/x{number % 77_777}.wav"), number)
    if len(searcher.search().explained) != displaced:
        sys.exit("Some were not found.")


def rows(folder: Path, size: float) -> Iterator[Row]:  # noqa: ARG001  nothing is written
    """Measure; ten times as many may take eleven times as long."""
    few = int(10_000 * size)
    for name, what in (("evidence", "find routes"), ("matching", "match one by one")):
        large = ["--large"] * (name == "matching")
        one, ten = (
            run([sys.executable, "-m", f"benchmarks.{name}", *large, str(each), str(10 * each)])
            for each in (few, 10 * few)
        )
        yield Row(f"{what}, {10 * few:,} among {100 * few:,}, a tenth of it", ten, one, 11, most_mb=2000)


if __name__ == "__main__":
    search(int(sys.argv[1]), int(sys.argv[2]))
