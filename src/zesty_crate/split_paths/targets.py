"""Where each entry's file is on the new computer: by the plan's routes, with the name that the file really has."""

from __future__ import annotations

from collections.abc import Container, Iterable
from dataclasses import dataclass
from functools import lru_cache
from typing import Protocol

from ..catalogs import Entry
from ..guides import HoldingPart
from ..machines import Computer
from ..paths import Folding, MachinePath, PathError, RouteMap, read_path, seems_several
from ..survey import PastLinks, SurveyStore


@dataclass(frozen=True, slots=True)
class Target:
    """An entry's old path and its new one; ``new`` is None when no route holds the old one."""

    old: MachinePath | None
    new: MachinePath | None


class _AllNames:
    def __contains__(self, name: object) -> bool:
        return True


ALL_NAMES: Container[str] = _AllNames()


class Destinations(Protocol):
    """Where entries must lead, and which catalogs must be relinked."""

    in_place: bool  # catalogs are relinked where they are, and not only those that were unpacked

    def of(self, entry: Entry) -> Target:
        """Where an entry must lead."""

    def going_along(self, folder: MachinePath) -> Container[str]:
        """The names of which it is certain that, in this folder, they go where it goes, just as they are."""

    def goes_whole(self, folder: MachinePath) -> bool:
        """Whether it is certain that everything in a folder, at any depth, goes where it goes, just as it is."""

    def is_parted(self, folder: MachinePath) -> bool:
        """Whether something in a folder, at any depth, is told of by itself."""

    def left(self, entry: Entry) -> str:
        """Why an entry that leads nowhere new must be reported; empty when it is as it should be."""

    def place_of(self, document: MachinePath) -> MachinePath | None:
        """Where the catalog that was at a place is now."""

    def goes_to(self, path: MachinePath) -> MachinePath | None:
        """Where the file that was at a path is now, as far as it went anywhere."""


def keys_around(paths: Iterable[MachinePath], computer: Computer) -> set[str]:
    """The keys of all folders around some paths, at any height."""
    found = set[str]()
    for path in paths:
        above = path
        while above.parts and (key := computer.key(above := above.parent)) not in found:
            found.add(key)
    return found


def part_there(part: HoldingPart, destinations: Destinations) -> HoldingPart:
    """A holding as it is where everything went: what its paths start from may be elsewhere."""
    return part if part.base is None else part.based_on(destinations.goes_to(part.base) or part.base)


def always_told(entry: Entry) -> str:
    """No route is a reason to be told; without any text an entry means the folder of its document, and goes with it."""
    return "" if entry.remote or not any(entry.pieces) else "no route in the plan covers its path"


class Targets:
    """Targets by a plan's routes; the survey knows each file's true name, which a record may have in another case."""

    def __init__(self, survey: SurveyStore, old: Computer, new: Computer, routes: RouteMap) -> None:
        self._survey = survey
        self._old = old
        self._new = new
        self._routes = routes
        self._parted = {old.key(route.old.parent) for route in routes}
        self._past = PastLinks(survey, old)
        inside = (*(route.old for route in routes), *self._past.places, *(volume.anchor for volume in old.volumes))
        self._with_more_inside = keys_around(inside, old)
        self._with_volumes_inside = keys_around((volume.anchor for volume in new.volumes), new)
        self.in_place = False
        self._translated = lru_cache(maxsize=16)(routes.translate)  # a folder is asked for by several
        self._without_files = set[str]()  # the outermost of these folders that were asked for
        self._along = lru_cache(maxsize=256)(self._names_along)  # many small documents name files of the same folders

    def going_along(self, folder: MachinePath) -> Container[str]:
        """What is in a folder and is sure to go where that goes."""
        return self._along(folder)

    def goes_whole(self, folder: MachinePath) -> bool:
        """Whether no route, link or volume begins in a folder, and all names in it are told apart as they were."""
        goes_to = self.goes_to(folder)
        if goes_to is None or self.is_parted(folder) or self._past.of(folder) != folder:
            return False
        return self._is_told_apart(folder, goes_to)

    def is_parted(self, folder: MachinePath) -> bool:
        """Whether a route, a link or a volume begins in a folder, or a volume in the one that it becomes."""
        goes_to = self.goes_to(folder)
        has_volumes = goes_to is not None and self._new.key(goes_to) in self._with_volumes_inside
        return has_volumes or self._old.key(folder) in self._with_more_inside

    def _is_told_apart(self, folder: MachinePath, goes_to: MachinePath) -> bool:
        """Whether the new volume tells apart no more names than the old one, or none of these were of files."""
        old, new = self._old.rules_for(folder).folding, self._new.rules_for(goes_to).folding
        return old in (new, Folding.EXACT) or self._is_without_files(self._old.key(folder))

    def _names_along(self, folder: MachinePath) -> Container[str]:
        """All in a folder that no route parts; where the new volume compares names otherwise, only true names."""
        key, goes_to = self._old.key(folder), self.goes_to(folder)
        if goes_to is None or key in self._parted or self._past.of(folder) != folder:
            return ()
        if self._is_told_apart(folder, goes_to):
            return ALL_NAMES
        paths = self._survey.carried_right_inside(key)
        return frozenset(path.rpartition(self._old.system.separator)[2] for path in paths) or ALL_NAMES

    def _is_without_files(self, key: str) -> bool:
        """Whether no file was carried from a folder or what is in it, as from a drive that travels."""
        above = key
        while above := above.rpartition("/")[0]:
            if above in self._without_files:
                return True
        if self._survey.is_any_carried_in(key):
            return False
        self._without_files.add(key)
        return True

    def left(self, entry: Entry) -> str:
        """All that no route holds."""
        return always_told(entry)

    def place_of(self, document: MachinePath) -> MachinePath | None:
        """By the plan."""
        return self._routes.translate(document)

    def goes_to(self, path: MachinePath) -> MachinePath | None:
        """By the plan, too."""
        return self._translated(path)

    def of(self, entry: Entry) -> Target:
        """The target of ``entry``. Remote entries, and those that name no path, have none."""
        if entry.remote:
            return Target(None, None)
        try:
            old = read_path(entry.recorded, self._old.system, entry.spelling, entry.base, self._old.variables).path
        except PathError:
            return Target(None, None)
        true_old = self._past.of(old)
        wanted = self._routes.translate(true_old) or self._routes.translate(old)
        if wanted is None:
            return Target(old, None)
        carried = self._survey.carried_as(self._old.key(true_old))
        if carried is None:
            return Target(None, None) if seems_several(entry.recorded, self._old.system) else Target(old, wanted)
        true = self._routes.translate(self._old.parse(carried[0]))
        # The recorded spelling is a person's or a program's own and stays, unless the new volume tells them apart.
        if true is None or self._new.key(true) == self._new.key(wanted):
            return Target(old, wanted)
        return Target(old, true)
