"""Where each entry's file is on the new computer: by the plan's routes, with the name that the file really has."""

from __future__ import annotations

from dataclasses import dataclass

from ..catalogs import Entry
from ..machines import Computer
from ..paths import MachinePath, PathError, RouteMap, read_path
from ..survey import SurveyStore


@dataclass(frozen=True, slots=True)
class Target:
    """An entry's old path and its new one; ``new`` is None when no route holds the old one."""

    old: MachinePath | None
    new: MachinePath | None


class Targets:
    """Finds targets; the survey knows each carried file's true name, which a record may have in another case."""

    def __init__(self, survey: SurveyStore, old: Computer, new: Computer, routes: RouteMap) -> None:
        self._survey = survey
        self._old = old
        self._new = new
        self._routes = routes

    def of(self, entry: Entry) -> Target:
        """The target of ``entry``. Remote entries, and those that name no path, have none."""
        if entry.remote:
            return Target(None, None)
        try:
            old = read_path(entry.recorded, self._old.system, entry.spelling, entry.base, self._old.variables).path
        except PathError:
            return Target(None, None)
        wanted = self._routes.translate(old)
        if wanted is None:
            return Target(old, None)
        carried = self._survey.carried_as(self._old.key(old))
        if carried is None:
            return Target(old, wanted)
        true = self._routes.translate(self._old.parse(carried[0]))
        # The recorded spelling is a person's or a program's own and stays, unless the new volume tells them apart.
        if true is None or self._new.key(true) == self._new.key(wanted):
            return Target(old, wanted)
        return Target(old, true)
