"""The start of the program, against that of Python."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from pathlib import Path

from .bench import Row, Run, run, zesty

_TIMES = 5


def rows(folder: Path, size: float) -> Iterator[Row]:  # noqa: ARG001  it has no size
    """Measure."""

    def quickest(runs: list[Run]) -> Run:
        return min(runs, key=lambda each: each.wall_s)

    python = quickest([run([sys.executable, "-c", "pass"]) for _ in range(_TIMES)])
    yield Row("zesty --help, python -c pass", quickest([zesty("--help") for _ in range(_TIMES)]), python, 5)
