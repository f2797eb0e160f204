"""All benchmarks in one table: python -m benchmarks FOLDER [--size 1] [--only NAME ...]

FOLDER is made, and removed at the end; at full size it takes some 15 GB and most of an hour. What fell short of its aim
is on the last lines. At a smaller size the aims in seconds and MB say little: the start of the program counts for more.
"""

from __future__ import annotations

import argparse
import shutil
from pathlib import Path

from . import check, coverage, drafting, evidence, merge, move, pack, presets, relink, start, survey, unpack
from .bench import Measures, Row

ALL: dict[str, Measures] = {
    "start": start.rows,
    "survey": survey.rows,
    "coverage": coverage.rows,
    "pack": pack.rows,
    "unpack": unpack.rows,
    "relink": relink.rows,
    "presets": presets.rows,
    "merge": merge.rows,
    "check": check.rows,
    "move": move.rows,
    "evidence": evidence.rows,
    "drafting": drafting.rows,
}


def line(row: Row) -> str:
    """A line of the table."""
    aims = ((row.most_times, "times"), (row.most_s, "s"))
    aim = ", ".join(f"{most:g} {unit}" for most, unit in aims if most is not None)
    return (
        f"{row.what:<58} {row.against.wall_s:8.2f} {row.run.wall_s:8.2f} {row.times:7.2f} {row.run.memory_mb:7.0f}  "
        + aim
    )


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser(
        prog="python -m benchmarks", description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("folder", type=Path)
    parser.add_argument("--size", type=float, default=1.0, help="the share of the full size of everything")
    parser.add_argument("--only", nargs="+", choices=list(ALL), default=list(ALL))
    args = parser.parse_args()
    short: list[Row] = []
    print(f"{'':<58} {'without':>8} {'zesty':>8}")
    print(f"{'what':<58} {'s':>8} {'s':>8} {'times':>7} {'MB':>7}  aim")
    for name in args.only:
        folder = args.folder / name
        for row in ALL[name](folder, args.size):
            print(line(row), flush=True)
            short += [row] * bool(row.falls_short)
        shutil.rmtree(folder, ignore_errors=True)
    print()
    for row in short:
        print(f"Fell short: {row.what}: {row.falls_short}")
    if not short:
        print("All aims are reached.")


if __name__ == "__main__":
    main()
