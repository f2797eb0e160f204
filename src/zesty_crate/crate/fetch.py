"""Fetch one file into the crate: digested while it is copied, whole or not at all, and as it is at one moment."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from ..errors import HalfwayError
from ..machines import Disk, DiskError, FileFacts
from ..survey import FileRow

_TRIES = 3


@dataclass(frozen=True, slots=True)
class Errand:
    """A file to fetch: where it is, where it is written first, and where it goes; ``why_not`` when it cannot be."""

    row: FileRow
    real: Path
    facts: FileFacts  # as it was seen just now
    part: Path
    target: Path
    payload: str
    why_not: str = ""


@dataclass(frozen=True, slots=True)
class Fetched:
    """What came of it: the file's digest and facts, or why it was left."""

    sha512: str = ""
    facts: FileFacts | None = None
    why_not: str = ""


def fetch(errand: Errand, disk: Disk) -> Fetched:
    """Copy one file; one that changes meanwhile is taken again.

    What is wrong with the file itself is told. Raises `HalfwayError` for what is wrong with the carrier.
    """
    if errand.why_not:
        return Fetched(why_not=errand.why_not)
    try:
        return _copied(errand, disk)
    except DiskError as error:
        if error.path != errand.real:
            raise HalfwayError(error.message, next_step=error.next_step) from error
        disk.remove(errand.part)
        return Fetched(why_not=error.message)


def _copied(errand: Errand, disk: Disk) -> Fetched:
    facts = errand.facts
    for _ in range(_TRIES):
        copied = disk.copy(errand.real, errand.part, facts, settled=False)
        after = _facts(errand.real, disk)
        if after == facts and copied.size_bytes == facts.size_bytes:
            disk.rename(errand.part, errand.target)
            return Fetched(copied.sha512, facts)
        disk.remove(errand.part)
        facts = after
    return Fetched(why_not="it was changing all the time while it was copied")


def _facts(real: Path, disk: Disk) -> FileFacts:
    facts = disk.facts(real)
    if facts is None:
        raise DiskError("Reading", real, FileNotFoundError(2, "it is not there any more"))
    return facts
