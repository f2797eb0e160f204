"""Where entries must lead when no plan says it alone: what an earlier relinking left open, evidence, one folder."""

from __future__ import annotations

from collections.abc import Container

from ..catalogs import Entry
from ..machines import Computer
from ..paths import MachinePath, PathError, Route, RouteMap, read_path
from ..split_paths import ALL_NAMES, Destinations, Target, keys_around
from ..survey import Document, SurveyStore
from .evidence import Evidence


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

    def goes_whole(self, folder: MachinePath) -> bool:  # noqa: ARG002
        """Each entry is asked about."""
        return False

    def is_parted(self, folder: MachinePath) -> bool:  # noqa: ARG002
        """So it is everywhere."""
        return False

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

    def goes_whole(self, folder: MachinePath) -> bool:  # noqa: ARG002
        """Evidence is of single files."""
        return False

    def is_parted(self, folder: MachinePath) -> bool:  # noqa: ARG002
        """So it is everywhere."""
        return False

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
        self._around = keys_around([route.old], computer)
        self.in_place = True

    def going_along(self, folder: MachinePath) -> Container[str]:
        """All in the folder, and in those in it."""
        return () if self._routes.route_for(folder) is None else ALL_NAMES

    def goes_whole(self, folder: MachinePath) -> bool:
        """The folder, and those in it."""
        return self._routes.route_for(folder) is not None

    def is_parted(self, folder: MachinePath) -> bool:
        """Those around it."""
        return self._computer.key(folder) in self._around

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
