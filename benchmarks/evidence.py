"""Finding routes from evidence: 10,000 displaced among 100,000 files, and ten times as many."""

from __future__ import annotations

import random
import time

from zesty_crate.paths import MachinePath, System
from zesty_crate.relink import Lost, Searcher


def path(text: str) -> MachinePath:
    """A path of a made-up computer."""
    return MachinePath(System.LINUX, "/", tuple(text.strip("/").split("/")))


def measure(displaced: int, files: int) -> float:
    """Print what was found; the seconds that it took."""
    random.seed(7)
    names = [f"/old/Reel {number // 100:05d}/Take {number % 1000:04d}.wav" for number in range(displaced)]
    sizes = [random.randrange(10**6) for _ in names]
    start = time.perf_counter()
    searcher = Searcher((Lost(path(name), size) for name, size in zip(names, sizes, strict=True)), str.casefold)
    for name, size in zip(names, sizes, strict=True):
        searcher.see(path(name.replace("/old/", "/mnt/box/Archive/")), size)
    for number in range(files - displaced):
        searcher.see(path(f"/mnt/box/Else {number // 1000}/x{number % 77_777}.wav"), number)
    evidence = searcher.search()
    seconds = time.perf_counter() - start
    found = ", ".join(f"{each.route.old} to {each.route.new}" for each in evidence.routes)
    print(f"{displaced:>8,} among {files:>9,}: {seconds:6.1f} s, {len(evidence.explained):,} explained by {found}")
    return seconds


if __name__ == "__main__":
    few = measure(10_000, 100_000)
    print(f"{measure(100_000, 1_000_000) / few:.1f} times")
