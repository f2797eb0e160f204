"""Packing against `cp -a`, `sha512sum` of the copy, and `sync`: 1 GiB in 8 files, and 20,000 files of 1 to 6 kB.

python benchmarks/pack.py FOLDER [--mebibytes 1024] [--small 20000]
"""

from __future__ import annotations

import argparse
import os
import random
import shutil
from pathlib import Path

from bench import GUIDE, SHEET, ZESTY, Run, manually, run, table, total


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


def measure(title: str, root: Path, sizes: list[int]) -> None:
    """Print one table."""
    music = lay_out(root, sizes)
    crate, copy = root / "crate", root / "copy"
    survey = [
        "survey",
        str(crate),
        "--from",
        str(root / "sheet.toml"),
        "--guides",
        str(root / "guides"),
        "--no-duplicates",
    ]
    run([ZESTY, *survey])
    against = total(manually(music, copy), run(["sync"]))
    os.sync()  # the copy stays: some file systems are slow to make files where many were removed a moment ago
    packed: Run = run([ZESTY, "pack", str(crate)])
    again = run([ZESTY, "pack", str(crate), "--verify-only"])
    rows = [
        ("cp -a, sha512sum, sync", against),
        ("zesty pack, with read-back", packed),
        ("  of this, the read-back", again),
    ]
    table(title, rows, against)


def main() -> None:
    """Print both tables."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--mebibytes", type=int, default=1024)
    parser.add_argument("--small", type=int, default=20_000)
    args = parser.parse_args()
    measure(f"{args.mebibytes} MiB in 8 files", args.folder, [args.mebibytes << 17] * 8)
    measure(f"{args.small:,} files of 1 to 6 kB", args.folder, [1000 + number % 5000 for number in range(args.small)])


if __name__ == "__main__":
    main()
