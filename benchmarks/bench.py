"""What every benchmark needs: whole processes, timed one after the other, and what they are held against."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

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
# From Windows to macOS; more volumes may follow.
OLD = """[computer]
name = "old"
system = "windows"
user = "Odile"
[[volume]]
anchor = "C:"
mount = "old"
"""
NEW = """[computer]
name = "new"
system = "macos"
user = "odile"
[[volume]]
anchor = "/"
mount = "new"
"""
# An installed program has its modules compiled, so those of a checkout may be kept, too.
_ENVIRONMENT = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
# A process that is started counts as large as the one that starts it, so a small one does that.
_SMALL = """
import json, os, sys, time
silent = [(os.POSIX_SPAWN_OPEN, 1, os.devnull, os.O_WRONLY, 0)]
begun = time.perf_counter()
process = os.posix_spawnp(sys.argv[1], sys.argv[1:], os.environ, file_actions=silent)
_, status, usage = os.wait4(process, 0)
print(json.dumps([time.perf_counter() - begun, os.waitstatus_to_exitcode(status), usage.ru_maxrss]))
"""


@dataclass(frozen=True)
class Run:
    """One process: seconds of wall time, and the largest resident memory in MB (at least some 10)."""

    wall_s: float
    memory_mb: float


@dataclass(frozen=True)
class Row:
    """One line of the table: a run, and the one that it is held against; the aims are times, seconds, and MB."""

    what: str
    run: Run
    against: Run
    most_times: float | None = None
    most_s: float | None = None
    most_mb: float = 500

    @property
    def times(self) -> float:
        """How many times as long it took."""
        return self.run.wall_s / self.against.wall_s

    @property
    def falls_short(self) -> str:
        """What was not reached; empty when everything was."""
        faults = []
        if self.most_times is not None and self.times > self.most_times:
            faults.append(f"{self.times:.1f} times, at most {self.most_times:g} wanted")
        if self.most_s is not None and self.run.wall_s > self.most_s:
            faults.append(f"{self.run.wall_s:.1f} s, at most {self.most_s:g} wanted")
        if self.run.memory_mb > self.most_mb:
            faults.append(f"{self.run.memory_mb:.0f} MB, at most {self.most_mb:g} wanted")
        return "; ".join(faults)


class Measures(Protocol):
    """What a benchmark is: rows, measured in a folder of its own, at a share of their full ``size``."""

    def __call__(self, folder: Path, size: float) -> Iterator[Row]:
        """Measure."""


def run(command: Sequence[str], *, allowed: tuple[int, ...] = (0, 1)) -> Run:
    """Run a process to its end, its output thrown away."""
    small = [sys.executable, "-S", "-c", _SMALL, *command]
    said = subprocess.run(small, env=_ENVIRONMENT, capture_output=True, text=True, check=True)
    wall_s, code, kib = json.loads(said.stdout)
    if code not in allowed:
        sys.exit(f"{' '.join(command)} ended with {code}:\n{said.stderr}")
    return Run(wall_s, kib / 1000)


def total(*runs: Run) -> Run:
    """Several processes one after the other."""
    return Run(sum(each.wall_s for each in runs), max(each.memory_mb for each in runs))


def manually(source: Path, copy: Path) -> Run:
    """What a person would do: copy, and digest the copy."""
    digests = 'find "$0" -type f -print0 | xargs -0 sha512sum'
    return total(run(["cp", "-a", str(source), str(copy)]), run(["sh", "-c", digests, str(copy)]))


def zesty(*words: str | Path) -> Run:
    """A command of ours."""
    return run([ZESTY, *map(str, words)])
