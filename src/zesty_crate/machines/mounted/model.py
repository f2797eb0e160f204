"""What the disks of a computer say about it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import NamedTuple

from ..disk import Disk
from .partitions import Partition


class Told(NamedTuple):
    """A text, and why it is one, where a person should know that."""

    text: str
    why: str = ""


class Mount(NamedTuple):
    """A folder at which a disk is mounted, and what this computer knows of that disk."""

    folder: Path
    partition: Partition


class Profile(NamedTuple):
    """A person's folder, as the computer itself calls it, and where it is here; None where its disk is not."""

    user: str
    home: str
    folder: Path | None


@dataclass(slots=True)
class Findings:
    """What was found out: the computer's name, the place of each disk in the order of the mounts, and the people.

    ``places_of`` are those of one person that are not the usual ones, by the names of places.
    """

    name: Told
    anchors: list[Told]
    profiles: list[Profile]
    places_of: Callable[[Profile], dict[str, Told]]
    more_places: dict[str, Told] = field(default_factory=dict)  # whoever it is
    remarks: list[str] = field(default_factory=list)


def file_below(top: Path, names: Sequence[str], disk: Disk) -> Path | None:
    """A file below a folder, whatever the case of its names; None where it is not."""
    for name in names:
        facts = disk.facts(top)
        if facts is None or facts.kind != "folder":
            return None
        found = next((each for each in disk.names(top) if each.casefold() == name.casefold()), None)
        if found is None:
            return None
        top = top / found
    return top


def folders_in(top: Path, disk: Disk) -> list[str]:
    """The names of the folders in a folder, hidden ones left out; none where it is not there."""
    facts = disk.facts(top)
    if facts is None or facts.kind != "folder":
        return []
    found = ((name, disk.facts(top / name)) for name in disk.names(top) if not name.startswith("."))
    return [name for name, each in found if each is not None and each.kind == "folder"]
