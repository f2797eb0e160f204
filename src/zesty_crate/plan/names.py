"""Names that the new computer cannot hold as they are, and what is renamed there."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from itertools import count
from typing import NamedTuple

from ..machines import Computer
from ..paths import (
    Folding,
    MachinePath,
    NameRules,
    Route,
    RouteMap,
    before_ending,
    fitting_name,
    length_fault,
    name_fault,
    name_key,
    tell_apart,
)
from .placements import Folder, Going, Placements

_SHORT = 100  # characters, which every system opens, however they are written


class _Room(NamedTuple):
    """Where what is in a folder goes: what that allows, its key, how it folds names, and how long its path is."""

    rules: NameRules
    key: str
    folding: Folding
    length: int


@dataclass(slots=True)
class Names:
    """What became of names. ``bad_routes`` lead where nothing can be, ``collisions`` send two files to one place."""

    renames: list[Route] = field(default_factory=list)
    bad_routes: dict[str, str] = field(default_factory=dict)
    too_long: list[str] = field(default_factory=list)
    collisions: list[str] = field(default_factory=list)


def look_at_names(
    placements: Placements, old: Computer, new: Computer, routes: RouteMap, kept: Iterable[Route]
) -> Names:
    """Find another name for all that cannot keep its own; ``kept`` are such names that are in the plan already.

    A folder that is renamed takes along what is in it. Names that the new volume takes for one are distinguished.
    """
    namer = _Namer(old, new, routes, {old.key(route.old): route.new.name for route in kept})
    for each in placements.named():
        namer.look_at(each)
    return namer.names


class _Namer:
    def __init__(self, old: Computer, new: Computer, routes: RouteMap, kept: Mapping[str, str]) -> None:
        self._old = old
        self._new = new
        self._routes = routes
        self._kept = kept
        self._folders: dict[MachinePath, MachinePath] = {}
        self._claims: dict[int, tuple[int, int]] = {}  # hashes: of a new path, by an old one in an old folder
        self.names = Names()
        self._last: tuple[tuple[str, ...], MachinePath, NameRules] | None = None
        self._room: tuple[Folder, _Room] | None = None

    def look_at(self, going: Going) -> None:
        """See under which name something can be on the new computer."""
        route, key = going.folder.route, going.row.key
        if route is None or (not going.is_folder and self._keeps_its_name(going, route)):
            return
        old = going.old
        new = self._folder(old) if going.is_folder else self._place(old, key, route, is_folder=False)
        if len(str(new)) < _SHORT:
            return
        if fault := length_fault(str(new), new.system):
            self.names.too_long.append(f"{new}: {fault}")

    def _keeps_its_name(self, going: Going, route: Route) -> bool:
        """Whether a file has a short path and keeps its name, as nearly all do: this costs less than to find one."""
        folder, name = going.folder, going.name
        if len(folder.old.parts) < len(route.old.parts) or going.row.key in self._kept:
            return False
        if self._room is None or self._room[0] is not folder:
            self._room = folder, self._room_in(folder.old)
        rules, key, folding, length = self._room[1]
        if length + len(name) >= _SHORT or name_fault(name, rules):
            return False
        return self._may_have(going.row.key, f"{key}/{name_key(name, folding)}", is_folder=False)

    def _room_in(self, folder: MachinePath) -> _Room:
        parent, rules = self._inside(folder.below("any"))
        return _Room(rules, *self._new.folder_key(parent.below("any")), len(str(parent)) + 1)

    def _place(self, path: MachinePath, key: str, route: Route, *, is_folder: bool) -> MachinePath:
        """Where ``path`` goes, below folders that may be renamed."""
        if len(path.parts) <= len(route.old.parts):
            self._see_route(route)
            if not self._claim(key, route.new, is_folder=is_folder) and not is_folder:
                self.names.collisions.append(f"{path} and another file, at {route.new}")
            return route.new
        parent, rules = self._inside(path)
        place = self._free(path, key, parent, rules, is_folder=is_folder)
        if place.parts[-1] != path.parts[-1]:
            fault = name_fault(path.name, rules)
            why = f"{path.name!r}: {fault}" if fault else f"{path.name!r} is already used there by another carried file"
            self.names.renames.append(Route(path, place, why, manual=key in self._kept))
        return place

    def _folder(self, path: MachinePath) -> MachinePath:
        """Where a folder goes; each is understood once."""
        known = self._folders.get(path)
        if known is None:
            route = self._routes.route_for(path)
            # Only what is below a route's own folder is ever asked for.
            key = self._old.key(path)
            known = self._folders[path] = path if route is None else self._place(path, key, route, is_folder=True)
        return known

    def _inside(self, path: MachinePath) -> tuple[MachinePath, NameRules]:
        """Where what is in the folder of a path goes, and what is allowed there; files come by folders."""
        folder = (path.root, *path.parts[:-1])
        if self._last is None or folder != self._last[0]:
            parent = self._folder(path.parent)
            self._last = folder, parent, self._new.rules_for(parent)
        return self._last[1:]

    def _free(
        self, path: MachinePath, key: str, parent: MachinePath, rules: NameRules, *, is_folder: bool
    ) -> MachinePath:
        kept = self._kept.get(key) if self._kept else None
        wish = parent.below(kept if kept and not name_fault(kept, rules) else fitting_name(path.name, rules))
        if self._claim(key, wish, is_folder=is_folder):
            return wish
        apart = parent.below(fitting_name(tell_apart(path.name), rules))
        if self._claim(key, apart, is_folder=is_folder):
            return apart
        names = (before_ending(path.name, f" ({number})") for number in count(2))
        numbered = (parent.below(fitting_name(name, rules)) for name in names)
        return next(place for place in numbered if self._claim(key, place, is_folder=is_folder))

    def _claim(self, key: str, place: MachinePath, *, is_folder: bool) -> bool:
        """Whether the path of a key may have a place. Folders of one name from different folders become one."""
        return self._may_have(key, self._new.key(place), is_folder=is_folder)

    def _may_have(self, key: str, place: str, *, is_folder: bool) -> bool:
        """The same for the key of a place."""
        mine = hash(key), hash(key.rpartition("/")[0])
        first = self._claims.setdefault(hash(place), mine)
        return first[0] == mine[0] or (is_folder and first[1] != mine[1])

    def _see_route(self, route: Route) -> None:
        rules = self._new.rules_for(route.new)
        fault = next((f"{name!r}: {fault}" for name in route.new.parts if (fault := name_fault(name, rules))), "")
        if fault:
            self.names.bad_routes[str(route.new)] = fault
