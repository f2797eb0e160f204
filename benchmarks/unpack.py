"""Unpacking against `cp -a` and `sha512sum` of the copy: 1 GiB in 8 files, and 20,000 files of 1 to 6 kB.

python benchmarks/unpack.py FOLDER [--mebibytes 1024] [--small 20000]
"""

from __future__ import annotations

import argparse
import os
from pathlib import Path

from bench import SHEET, ZESTY, manually, run, table, total
from pack import lay_out


def measure(title: str, root: Path, sizes: list[int]) -> None:
    """Print one table."""
    lay_out(root, sizes)
    crate, copy, sheet = root / "crate", root / "copy", root / "new.toml"
    sheet.write_text(SHEET.replace('"large"', '"new"').replace('"disk"', '"new"'))
    (root / "new").mkdir()
    survey = ["survey", crate, "--from", root / "sheet.toml", "--guides", root / "guides", "--no-duplicates"]
    run([ZESTY, *map(str, survey)])
    run([ZESTY, "pack", str(crate)])
    os.sync()
    against = manually(crate / "data", copy)
    flushed = total(against, run(["sync"]))
    os.sync()  # the copy stays: some file systems are slow to make files where many were removed a moment ago
    to = ["--to", str(sheet)]
    planned = run([ZESTY, "plan", str(crate), *to])
    unpacked = run([ZESTY, "unpack", str(crate), *to, "--yes"])
    again = run([ZESTY, "unpack", str(crate), *to, "--yes"])
    taken_back = run([ZESTY, "undo", str(crate), *to, "--yes"])
    rows = [
        ("cp -a, sha512sum", against),
        ("cp -a, sha512sum, sync", flushed),
        ("zesty plan", planned),
        ("zesty unpack", unpacked),
        ("  once more, with all of it there", again),
        ("zesty undo", taken_back),
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
