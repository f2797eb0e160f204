"""What a journal records: steps, and in them each change to a computer, written down before it is made."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple

from ..machines import FileFacts

NOTHING = FileFacts("other", 0, 0, 0)


class Kind(StrEnum):
    """What is done to one spot."""

    FOLDER = "folder"  # a folder is made where there was nothing
    FILE = "file"  # a file is placed where there was nothing
    LINK = "link"  # a link is made where there was nothing
    REPLACE = "replace"  # a file is replaced by another version of itself
    TAKE_AWAY = "take-away"  # a file is taken away; its content is kept aside
    MOVE = "move"  # something goes to another place of its volume; ``source`` is where it was there
    REGISTRY = "registry"  # an export is merged into the registry; what the branch held is kept aside


class Stage(StrEnum):
    """How far a change is."""

    INTENDED = "intended"
    DONE = "done"
    UNDONE = "undone"


class Location(NamedTuple):
    """A place on the new computer: its volume's anchor, and the names below it as they really are, joined by ``/``.

    Without a volume it is a branch of the registry.
    """

    volume: str
    path: str

    def __str__(self) -> str:
        """For people."""
        if not self.volume:
            return self.path
        separator = "\\" if ":" in self.volume or self.volume.startswith("\\") else "/"
        return self.volume.rstrip("\\/") + separator + self.path.replace("/", separator)


class Action(NamedTuple):
    """One change. ``source`` and ``aside`` are names inside the crate, but for what is only moved.

    ``sha512`` and ``facts`` are of what stands at the spot when it is done, ``old_sha512`` and ``old_facts`` of what
    was there before.
    """

    kind: Kind
    location: Location
    facts: FileFacts
    old_facts: FileFacts = NOTHING
    source: str = ""
    sha512: str = ""
    old_sha512: str = ""
    aside: str = ""
    note: str = ""
    id: int = 0
    stage: Stage = Stage.INTENDED


@dataclass(frozen=True, slots=True)
class Step:
    """One command's worth of changes."""

    id: int
    name: str
    begun: str
    ended: str
    undone: str
    note: str
