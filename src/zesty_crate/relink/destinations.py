"""Where each entry's file is on the new computer: by the plan's routes, with the name that the file really has."""

from __future__ import annotations

from collections.abc import Container
from dataclasses import dataclass
from typing import Protocol

from ..catalogs import Entry
from ..machines import Computer
from ..paths import Folding, MachinePath, PathError, Route, RouteMap, read_path, seems_several
from ..survey import Document, PastLinks, SurveyStore
from .evidence import Evidence


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

    def left(self, entry: Entry) -> str:
        """Why an entry that leads nowhere new must be reported; empty when it is as it should be."""

    def place_of(self, document: MachinePath) -> MachinePath | None:
        """Where the catalog that was at a place is now."""

    def goes_to(self, path: MachinePath) -> MachinePath | None:
        """Where the file that was at a path is now, as far as it went anywhere."""


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
        self.in_place = False

    def going_along(self, folder: MachinePath) -> Container[str]:
        """All in a folder that no route parts; where the new volume compares names otherwise, only true names."""
        key, goes_to = self._old.key(folder), self._routes.translate(folder)
        if goes_to is None or key in self._parted or self._past.of(folder) != folder:
            return ()
        old, new = self._old.rules_for(folder).folding, self._new.rules_for(goes_to).folding
        if old in (new, Folding.EXACT):
            return ALL_NAMES
        paths = self._survey.carried_right_inside(key)
        return frozenset(path.rpartition(self._old.system.separator)[2] for path in paths) or ALL_NAMES

    def left(self, entry: Entry) -> str:
        """All that no route holds."""
        return always_told(entry)

    def place_of(self, document: MachinePath) -> MachinePath | None:
        """By the plan."""
        return self._routes.translate(document)

    def goes_to(self, path: MachinePath) -> MachinePath | None:
        """By the plan, too."""
        return self._routes.translate(path)

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


class StillOpen:
    """What an earlier relinking, by another plan, has left open in one catalog.

    An entry is open that says what it said on the old computer. One that says anything else was relinked, or is a
    person's since: to read its text by the old computer's rules again would lead it astray.
    """

    def __init__(self, targets: Destinations, survey: SurveyStore, document: Document) -> None:
        self._targets = targets
        self._survey = survey
        self._document = document
        self.in_place = targets.in_place

    def is_settled(self, entry: Entry) -> bool:
        """Whether an entry is not open, so that none of its pieces may change."""
        before = self._survey.entry(self._document.holding, self._document.prefix + entry.key)
        return before is None or before.recorded != entry.recorded

    def of(self, entry: Entry) -> Target:
        """By the plan, as far as it is open."""
        return Target(None, None) if self.is_settled(entry) else self._targets.of(entry)

    def going_along(self, folder: MachinePath) -> Container[str]:  # noqa: ARG002
        """Each entry is asked about by itself: others with such a text may be settled."""
        return ()

    def left(self, entry: Entry) -> str:
        """Open ones."""
        return "" if self.is_settled(entry) else self._targets.left(entry)

    def place_of(self, document: MachinePath) -> MachinePath | None:
        """By the plan."""
        return self._targets.place_of(document)

    def goes_to(self, path: MachinePath) -> MachinePath | None:
        """By the plan."""
        return self._targets.goes_to(path)


class Explained:
    """Targets for entries whose files went elsewhere on one computer, as far as evidence explains it."""

    def __init__(self, computer: Computer, evidence: Evidence) -> None:
        self._computer = computer
        self._new = {computer.key(old): new for old, new in evidence.explained.items()}
        self._left = {computer.key(path) for path in evidence.left}
        self._routes = RouteMap((each.route for each in evidence.routes), computer.rules_for)
        self.in_place = True

    def going_along(self, folder: MachinePath) -> Container[str]:  # noqa: ARG002
        """Evidence is of single files."""
        return ()

    def of(self, entry: Entry) -> Target:
        """The new place of a file that went; all other entries stay as they are.

        A file that is nowhere, in a folder that went, goes along where its entry shares the record of that folder:
        else it would hold back all the others.
        """
        old = self._path_of(entry)
        if old is None:
            return Target(None, None)
        key = self._computer.key(old)
        new = self._new.get(key)
        if new is None and key in self._left and len(entry.pieces) > 1:
            new = self._routes.translate(old)
        return Target(old, new)

    def left(self, entry: Entry) -> str:
        """Only what is not there and that nothing explains is reported."""
        path = self._path_of(entry)
        missing = path is not None and self._computer.key(path) in self._left
        return "its file is missing, and no matching file was found" if missing else ""

    def place_of(self, document: MachinePath) -> MachinePath | None:
        """Where it always was."""
        return document

    def goes_to(self, path: MachinePath) -> MachinePath | None:
        """The new place of a file that went."""
        return self._new.get(self._computer.key(path))

    def _path_of(self, entry: Entry) -> MachinePath | None:
        if entry.remote:
            return None
        computer = self._computer
        try:
            return read_path(entry.recorded, computer.system, entry.spelling, entry.base, computer.variables).path
        except PathError:
            return None


class Rehomed:
    """Targets for what is in a folder that goes to another place of the same computer."""

    def __init__(self, computer: Computer, route: Route) -> None:
        self._computer = computer
        self._routes = RouteMap([route], computer.rules_for)
        self.in_place = True

    def going_along(self, folder: MachinePath) -> Container[str]:
        """All in the folder, and in those in it."""
        return () if self._routes.route_for(folder) is None else ALL_NAMES

    def of(self, entry: Entry) -> Target:
        """Below the folder, the same below its new place."""
        if entry.remote:
            return Target(None, None)
        computer = self._computer
        try:
            old = read_path(entry.recorded, computer.system, entry.spelling, entry.base, computer.variables).path
        except PathError:
            return Target(None, None)
        return Target(old, self._routes.translate(old))

    def left(self, entry: Entry) -> str:  # noqa: ARG002
        """Nothing: all else stays as it is."""
        return ""

    def place_of(self, document: MachinePath) -> MachinePath | None:
        """Documents in the folder go along."""
        return self._routes.translate(document) or document

    def goes_to(self, path: MachinePath) -> MachinePath | None:
        """Below the new place."""
        return self._routes.translate(path)
