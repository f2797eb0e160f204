"""An outside that fails at the nth change, as a pulled plug or a full drive would."""

from __future__ import annotations

import datetime as dt
import errno
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any

from zesty_crate.machines import Clock, Disk, DiskError, Outside

STRIDE = 1 if "ZESTY_KILLS" in os.environ else 11  # `make faults` kills at every change
LONG_STRIDE = 1 if STRIDE == 1 else 37  # where each time takes long
CHANGES = (
    "make_folder",
    "copy",
    "join",
    "link",
    "write_text",
    "write_bytes",
    "make_link",
    "rename",
    "remove",
    "remove_folder",
    "set_facts",
    "set_attributes",
    "flush",
    "flush_all",
    "commit",
)


class Killed(BaseException):
    """The program was killed; nothing of it may catch this, and nothing more reaches the disk."""


class FaultyDisk(Disk):
    """A disk on which something happens at change number ``at``: by default the program is killed before it.

    ``torn`` leaves half of a file behind that was being copied; ``full`` fails with "no space left" from then on.
    """

    def __init__(self, at: int | None = None, *, torn: bool = False, full: bool = False) -> None:
        self.at = at
        self.changes = 0
        self._torn = torn
        self._full = full
        self._dead = False

    def strike(self, name: str, arguments: tuple[Any, ...]) -> None:
        """Count a change, and let happen what is to happen at this one."""
        if self._dead:
            raise Killed
        self.changes += 1
        if self.at is None or self.changes < self.at:
            return
        if self._full:
            if name in ("copy", "write_text", "write_bytes", "make_folder"):
                path = arguments[1] if name == "copy" else arguments[0]
                raise DiskError("Writing", path, OSError(errno.ENOSPC, "No space left on device"))
            return
        self._dead = True
        if self._torn and name == "copy":
            content = Path(arguments[0]).read_bytes()
            Path(arguments[1]).write_bytes(content[: len(content) // 2])
        raise Killed


def _counted(name: str) -> Callable[..., Any]:
    real = getattr(Disk, name)

    def change(self: FaultyDisk, *arguments: Any, **more: Any) -> Any:
        self.strike(name, arguments)
        return real(self, *arguments, **more)

    return change


for _name in CHANGES:
    setattr(FaultyDisk, _name, _counted(_name))


class FixedClock(Clock):
    """Always the same moment, so that two runs write the same; or that moment so many days later."""

    def __init__(self, days: int = 0) -> None:
        self._days = days

    def instant(self) -> dt.datetime:
        return dt.datetime(2026, 11, 23, 9, 30, tzinfo=dt.UTC) + dt.timedelta(days=self._days)


def outside(disk: Disk | None = None, *, days: int = 0) -> Outside:
    """An outside for a test."""
    return Outside(disk or Disk(), FixedClock(days))
