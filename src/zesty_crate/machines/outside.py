"""All that the program touches outside itself, as one value that a test can put together otherwise."""

from __future__ import annotations

import datetime as dt
import os
from dataclasses import dataclass, field

from .disk import Disk
from .registry import SystemRegistry, this_registry


class Clock:
    """The time of day."""

    def instant(self) -> dt.datetime:
        """Now, with the local time zone: fine enough to tell which of two things came first."""
        return dt.datetime.now().astimezone()

    def now(self) -> dt.datetime:
        """The same to the second, as people write it."""
        return self.instant().replace(microsecond=0)


class Processes:
    """The programs that run on this computer."""

    def names(self) -> frozenset[str]:
        """The names of all processes; one that ends while it is looked at is left out."""
        import psutil  # heavy, and asked for only where a sheet describes this very computer

        return frozenset(process.info["name"] for process in psutil.process_iter(["name"]) if process.info["name"])

    def is_running(self, number: int) -> bool:
        """Whether there is a process of this number."""
        import psutil

        return psutil.pid_exists(number)

    def open_files(self) -> dict[str, str]:
        """The real paths of files that other programs have open and may write, each with a program's name.

        Only what the system tells this user of; on Windows nothing, where what is open cannot be replaced anyway.
        """
        import psutil

        found: dict[str, str] = {}
        for process in psutil.process_iter(["name", "pid"]) if not psutil.WINDOWS else ():
            try:
                if process.pid != os.getpid():
                    opened = (each.path for each in process.open_files() if getattr(each, "mode", "r+") != "r")
                    found.update(dict.fromkeys(opened, process.info["name"] or str(process.pid)))
            except (psutil.Error, OSError):
                continue  # it has ended, or is another user's
        return found


@dataclass(frozen=True, slots=True)
class Outside:
    """The outside: a disk, a clock, the processes that run, and the registry of a Windows computer."""

    disk: Disk = field(default_factory=Disk)
    clock: Clock = field(default_factory=Clock)
    processes: Processes = field(default_factory=Processes)
    registry: SystemRegistry | None = field(default_factory=this_registry)
