"""One at a time: who changes a crate or a computer holds a lock on it, which ends with its process."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
from collections.abc import Iterator
from pathlib import Path

import platformdirs

from ..errors import ZestyError
from ..systems import this_system
from .computer import Computer
from .outside import Outside

_held: set[str] = set()  # by this process, which may come to one place several times


class BusyError(ZestyError):
    """Another process is at work on the same thing."""


@contextlib.contextmanager
def one_at_a_time(path: Path, what: str, work: str, outside: Outside) -> Iterator[None]:
    """Hold the lock file ``path`` for ``work`` on ``what``; within one process it may be held several times.

    Nothing is locked where no such file can be made, as on a read-only carrier. Raises `BusyError` that says who
    holds it and since when.
    """
    key, teller = os.path.realpath(path), path.with_name(f"{path.name}.json")
    if key in _held:
        yield
        return
    try:
        handle = _acquired(path)
    except BlockingIOError as error:
        raise BusyError(
            f"Another zesty is at work on {what}{_holder(teller)}.",
            next_step="Wait until it has ended, or stop it; then run the command again.",
        ) from error
    except OSError:  # no file can be made there, or no lock held on it
        yield
        return
    _held.add(key)
    try:
        _tell(teller, work, outside)
        yield
    finally:
        _held.discard(key)
        with contextlib.suppress(OSError):
            teller.unlink()
        this_system().let_go(path, handle)


def _acquired(path: Path) -> int:
    """A lock file, open and locked. Raises `BlockingIOError` while somebody else has it locked, and other `OSError`."""
    with contextlib.suppress(OSError):
        path.parent.mkdir(parents=True, exist_ok=True)
    while True:
        handle = os.open(path, os.O_RDWR | os.O_CREAT, 0o644)
        try:
            this_system().lock(handle)
        except OSError:
            os.close(handle)
            raise
        if os.fstat(handle).st_nlink:
            return handle
        os.close(handle)  # who held it before has removed this file meanwhile


def lock_of_computer(computer: Computer, *, into: bool = False) -> Path:
    """The lock file of a computer: here, since nothing is left on the computer itself. ``into`` a folder, of that."""
    home = computer.volume_of(computer.place("home"))
    mount = home.mount if home is not None and home.mount is not None else Path(computer.name)
    name = hashlib.sha256(os.fsencode(os.path.realpath(mount)) + b"into" * into).hexdigest()[:24]
    return platformdirs.user_cache_path("zesty-crate") / "locks" / f"{name}.lock"


def _tell(teller: Path, work: str, outside: Outside) -> None:
    since = outside.clock.now().isoformat(timespec="seconds")
    with contextlib.suppress(OSError):
        teller.write_text(json.dumps({"work": work, "process": os.getpid(), "since": since}), encoding="utf-8")


def _holder(teller: Path) -> str:
    """Who holds a lock, as far as it says so."""
    try:
        told = json.loads(teller.read_text(encoding="utf-8"))
        return f": {told['work']}, process {told['process']}, since {str(told['since'])[:16].replace('T', ' ')}"
    except (OSError, ValueError, KeyError, TypeError):
        return ""
