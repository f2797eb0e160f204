"""Where recorded paths could stay as they are: people do that first, since then nothing has to be relinked."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial

from ..machines import Computer, Finder, Sight, Volume
from ..paths import MachinePath, Route, RouteMap, System
from .entry_folders import EntryFolders


@dataclass(frozen=True, slots=True)
class SamePath:
    """Something that a person may do in place of relinking: the number of ``entries`` that then stay as they are.

    ``option`` is the route to plan with instead, where that is all. ``ticked`` when it was ticked off as done, and the
    new computer does not show it.
    """

    do: str
    entries: int
    option: str = ""
    ticked: bool = False


def same_paths(folders: EntryFolders, old: Computer, finder: Finder, routes: RouteMap) -> Iterator[SamePath]:
    """Every drive that could have its old letter or name, and every folder that could be where it was.

    ``folders`` are those that entries' files are in; ``finder`` looks on the new computer.
    """
    new = finder.computer
    if old.system is not new.system:
        return
    for volume in old.volumes:
        twin = new.same_volume(volume)
        if twin is None or twin.anchor == volume.anchor or any(each.anchor == volume.anchor for each in new.volumes):
            continue
        goes_along = partial(_goes_to, volume=volume, twin=twin, old=old, new=new, routes=routes)
        if entries := folders.by(goes_along)[True]:
            yield SamePath(_rename(volume, twin, new), entries)
    by_route = folders.by(routes.route_for)
    for route in routes:
        if (entries := by_route[route]) and _could_stay(route, old, finder):
            do = f"Place {route.old} in the same folder on {new.name}."
            yield SamePath(do, entries, f"{route.old}={route.old}")


def _goes_to(path: MachinePath, volume: Volume, twin: Volume, old: Computer, new: Computer, routes: RouteMap) -> bool:
    there = routes.translate(path) if old.volume_of(path) == volume else None
    return there is not None and new.volume_of(there) == twin


def _rename(volume: Volume, twin: Volume, new: Computer) -> str:
    """How to give a volume the place that it had, with what the system itself has for it."""
    now, before = (str(each.anchor).rstrip("\\") for each in (twin, volume))
    known = f"{now} ({twin.label})" if twin.label and twin.label not in now else now
    if new.system is System.WINDOWS:
        return f"Give the drive {known} the letter {before} on {new.name}, in its Disk Management."
    if new.system is System.MACOS:
        return f'Rename the volume {known} to "{volume.anchor.name}" on {new.name}, so that it is at {before}.'
    return f"Mount the volume {known} at {before} on {new.name}."


def _could_stay(route: Route, old: Computer, finder: Finder) -> bool:
    """Whether the new computer has the volume of a folder, nothing in its place, and it is in nobody's home."""
    mine, theirs = old.volume_of(route.old), finder.computer.volume_of(route.old)
    if route.manual or route.new == route.old or mine is None or theirs is None or theirs.anchor != mine.anchor:
        return False
    home = old.key(old.place("home").parent)
    is_plain = route.old != mine.anchor and not old.key(route.old).startswith(home)
    return is_plain and finder.find(route.old).sight is Sight.ABSENT
