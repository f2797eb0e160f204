"""Where a walk over whole volumes does not go: the system's own folders, and what is mounted from elsewhere."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path

from ..machines import Computer, Finder
from ..machines.system_folders import system_folders
from ..paths import MachinePath
from .listing import Sought


@dataclass(frozen=True, slots=True)
class Borders:
    """Folders that are told where they are and not gone into: as they are from here, and by their keys.

    ``around`` are the keys of the folders that they are in. ``system`` are those that the system or programs own, and
    ``mounts`` those at which something else is mounted, as the computer writes them.
    """

    folders: frozenset[str] = frozenset()
    keys: frozenset[str] = frozenset()
    around: frozenset[str] = frozenset()
    system: tuple[str, ...] = ()
    mounts: tuple[str, ...] = ()

    def leads(self, top: str, key: str) -> bool:
        """Whether a walk that starts at one key comes to another one below it."""
        if key == top or not key.startswith(top + "/"):
            return False
        cut = (each for each in self.keys if each.startswith(top + "/"))
        return not any(key == each or key.startswith(each + "/") for each in cut)


def borders_of(computer: Computer, finder: Finder, wanted: Sought, mounts: Collection[Path]) -> Borders:
    """Where a walk ends. What is in the place of a holding is gone through, whoever owns it."""
    places = {*wanted.at, *wanted.named}

    def is_wanted(path: MachinePath) -> bool:
        key = computer.key(path)
        return any(key == place or key.startswith(place + "/") for place in places)

    system = _there(finder, (each for each in system_folders(computer) if not is_wanted(each)))
    foreign = _there(finder, (each for each in _foreign(computer, mounts) if not is_wanted(each)))
    volumes = _there(finder, (each.anchor for each in computer.volumes if each.anchor.parts))
    everything = {**system, **foreign, **volumes}
    keys = frozenset(computer.key(path) for path in everything)
    inside = tuple(f"{computer.key(path)}/" for path in system)
    return Borders(
        folders=frozenset(str(real) for real in everything.values()),
        keys=keys,
        around=frozenset(key.rpartition("/")[0] for key in keys),
        system=tuple(sorted(map(str, system))),
        mounts=tuple(sorted(str(each) for each in foreign if not f"{computer.key(each)}/".startswith(inside))),
    )


def _there(finder: Finder, paths: Iterable[MachinePath]) -> dict[MachinePath, Path]:
    """The folders among these that are there, under their real names, and where they are in the folder above.

    The anchor of a volume is a folder of the volume above it, even while something is mounted there.
    """
    found = {}
    for path in paths:
        seen, above = finder.find(path), finder.find(path.parent)
        is_folder = seen.is_anchor or (seen.facts is not None and seen.facts.kind == "folder")
        if is_folder and above.real is not None:
            found[seen.path] = above.real / seen.path.name
    return found


def _foreign(computer: Computer, mounts: Collection[Path]) -> Iterator[MachinePath]:
    """Where something is mounted that no volume of the computer is, as the computer writes it."""
    own = {volume.mount for volume in computer.volumes}
    home = computer.mounted(computer.place("home"))
    for mount in mounts:
        if mount in own or (home is not None and home.is_relative_to(mount)):
            continue
        if (path := computer.path_of(mount)) is not None:
            yield path
