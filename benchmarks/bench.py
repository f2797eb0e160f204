"""What every benchmark needs: whole processes, timed one after the other, with the most memory that each one held."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

ZESTY = str(Path(sys.executable).parent / "zesty")
GUIDE = """[guide]
id = "large"
title = "Large"
language = 1
[[holding]]
id = "media"
kind = "media"
at = "{music}"
"""
SHEET = """[computer]
name = "large"
system = "linux"
user = "odile"
[[volume]]
anchor = "/"
mount = "disk"
"""
# An installed program has its modules compiled, so those of a checkout may be kept, too.
_ENVIRONMENT = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}


@dataclass(frozen=True)
class Run:
    """One process: seconds of wall time, and the largest resident memory in MB."""

    wall_s: float
    memory_mb: float


def run(command: Sequence[str], *, allowed: tuple[int, ...] = (0, 1)) -> Run:
    """Run a process to its end, its output thrown away."""
    start = time.perf_counter()
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, env=_ENVIRONMENT)
    _, status, usage = os.wait4(process.pid, 0)
    wall = time.perf_counter() - start
    code = os.waitstatus_to_exitcode(status)
    if code not in allowed:
        sys.exit(f"{command[0]} ended with {code}")
    return Run(wall, usage.ru_maxrss / 1000)


def table(title: str, rows: Sequence[tuple[str, Run]], against: Run) -> None:
    """Print runs, and how many times each took of what it is measured against."""
    print(title)
    for name, each in rows:
        print(f"  {name:<44} {each.wall_s:8.1f} s {each.memory_mb:8.0f} MB {each.wall_s / against.wall_s:7.2f} times")


def total(*runs: Run) -> Run:
    """Several processes one after the other."""
    return Run(sum(each.wall_s for each in runs), max(each.memory_mb for each in runs))


def manually(source: Path, copy: Path) -> Run:
    """What a person would do: copy, and digest the copy."""
    digests = 'find "$0" -type f -print0 | xargs -0 sha512sum'
    return total(run(["cp", "-a", str(source), str(copy)]), run(["sh", "-c", digests, str(copy)]))
