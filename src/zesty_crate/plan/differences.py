"""What is not the same on the two computers, and what becomes of the recorded paths that this breaks."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..machines import Computer, Volume
from ..paths import MachinePath, RouteMap, System
from .entry_folders import EntryFolders

_PLACES = ("documents", "music", "pictures", "movies", "desktop", "downloads", "app-data", "shared-data")


@dataclass(frozen=True, slots=True)
class ComputerDifference:
    """One difference. ``entries`` are those whose recorded paths it breaks; ``done`` is what will be done about it."""

    what: str
    old: str
    new: str
    entries: int
    done: str


def differences(folders: EntryFolders, old: Computer, new: Computer, routes: RouteMap) -> list[ComputerDifference]:
    """Every difference that matters to entries with their files in these ``folders``, the widest first."""
    return [
        *_systems(old, new, folders),
        *_users(old, new, folders, routes),
        *_volumes(old, new, folders, routes),
        *_rules(old, new, folders, routes),
    ]


def _systems(old: Computer, new: Computer, folders: EntryFolders) -> Iterator[ComputerDifference]:
    if old.system is not new.system:
        done = "every path is rewritten for the new system, in its catalog's own spelling"
        yield ComputerDifference("system", old.system, new.system, folders.entries, done)


def _users(old: Computer, new: Computer, folders: EntryFolders, routes: RouteMap) -> Iterator[ComputerDifference]:
    home = old.place("home")
    inside = folders.under(home)
    if old.user != new.user:
        case = ", different case" if old.user.casefold() == new.user.casefold() else ""
        yield ComputerDifference(f"user{case}", old.user, new.user, inside, _by(home, routes))
    if str(home) != str(new.place("home")):
        yield ComputerDifference("home", str(home), str(new.place("home")), inside, _by(home, routes))
    for name in _PLACES:
        mine, theirs = old.place(name), new.place(name)
        if _below_home(mine, old) != _below_home(theirs, new):
            yield ComputerDifference(f"{{{name}}}", str(mine), str(theirs), folders.under(mine), _by(mine, routes))


def _volumes(old: Computer, new: Computer, folders: EntryFolders, routes: RouteMap) -> Iterator[ComputerDifference]:
    home = old.volume_of(old.place("home"))
    inside_each = folders.by(old.volume_of)
    for volume in sorted(old.volumes, key=lambda each: str(each.anchor)):
        twin = new.same_volume(volume)
        inside = inside_each[volume]
        name = f"volume {volume.label}".rstrip()
        if volume == home or (twin is not None and str(twin.anchor) == str(volume.anchor)):
            continue
        there = str(twin.anchor) if twin else "no volume with this label"
        yield ComputerDifference(name, _anchor(volume), there, inside, _of_volume(volume, inside, routes))


def _rules(old: Computer, new: Computer, folders: EntryFolders, routes: RouteMap) -> Iterator[ComputerDifference]:
    """Volumes whose names are compared in another way: what was found in another case may not be found any more."""
    told = set()
    for path in folders:
        there = routes.translate(path)
        mine, theirs = old.rules_for(path), new.rules_for(there) if there else old.rules_for(path)
        if mine.folding is not theirs.folding and (mine.format, theirs.format) not in told:
            told.add((mine.format, theirs.format))
            inside = folders.by(old.rules_for)[mine]
            done = "paths get the true names of their files where case or Unicode form matters"
            yield ComputerDifference("names compared", mine.folding, theirs.folding, inside, done)


def _of_volume(volume: Volume, inside: int, routes: RouteMap) -> str:
    if volume.mount is None:
        return "left unchanged, because the volume was not connected"
    return (
        _by(volume.anchor, routes)
        if routes.translate(volume.anchor) or inside
        else "nothing to do, because no entry refers to it"
    )


def _by(place: MachinePath, routes: RouteMap) -> str:
    there = routes.translate(place)
    return f"a route to {there}" if there else "routes for the folders in it"


def _below_home(path: MachinePath, computer: Computer) -> tuple[str, ...]:
    home = computer.place("home").parts
    return path.parts[len(home) :] if path.parts[: len(home)] == home else (path.root, *path.parts)


def _anchor(volume: Volume) -> str:
    text = str(volume.anchor)
    return text if volume.anchor.system is not System.WINDOWS else text.rstrip("\\")
