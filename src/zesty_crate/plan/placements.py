"""Where each carried file goes on the new computer."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import NamedTuple

from ..machines import Computer
from ..machines.sqlite_files import database_name
from ..paths import MachinePath, Route, RouteMap, System
from ..survey import Carried, FileRow, SurveyStore
from .link_texts import link_text

_REMEMBERED_FOLDERS = 20_000
_SHALLOW = 1  # a file at the top of a volume has no folder that is a path
_OWN = "role IN ('own', 'cache') AND id NOT IN (SELECT file FROM left_out)"


@dataclass(slots=True)
class Placement:
    """A carried file or a folder, and its path on the new computer; ``new`` is None when no route leads there."""

    row: FileRow
    carried: Carried | None
    old: MachinePath
    new: MachinePath | None
    route: Route | None
    leads_to: str = ""  # the text of the new link, where it is one


class Named(NamedTuple):
    """A path of the old computer with its key, and the route by which it goes."""

    old: MachinePath
    key: str
    route: Route
    is_folder: bool


class Placements:
    """The placements of a whole crate under a set of routes."""

    def __init__(
        self, survey: SurveyStore, old: Computer, routes: RouteMap, without: frozenset[str] = frozenset()
    ) -> None:
        """``without`` are the guides of programs whose things stay where they are."""
        self._survey = survey
        self._old = old
        self._routes = routes
        self._is_windows = old.system is System.WINDOWS
        self._folders: dict[str, tuple[MachinePath, MachinePath | None, Route | None]] = {}
        self._left = {row.id for row in survey.holdings() if row.guide in without}

    def named(self) -> Iterator[Named]:
        """Everything that goes somewhere, with no more than its name: folders, files and links."""
        folders = self._survey.paths(f"kind = 'folder' AND {_OWN}")
        for rows, is_folder in ((folders, True), (self._survey.carried_paths(), False)):
            for row in rows:
                if row.holding not in self._left:
                    old, _, route = self._going(row.path, row.key)
                    if route is not None:
                        yield Named(old, row.key, route, is_folder)
        links = self.links()
        yield from (
            Named(each.old, each.row.key, each.route, is_folder=False) for each in links if each.route is not None
        )

    def files(self) -> Iterator[Placement]:
        """Every carried file: media first, then what belongs to it, then catalogs, then what refers to them."""
        for carried in self._survey.carried():
            if carried.file.holding not in self._left:
                yield self._placement(carried.file, carried)

    def folders(self) -> Iterator[Placement]:
        """Every folder of what is carried, outer ones first."""
        for row in self._survey.files(f"kind = 'folder' AND {_OWN}"):
            if row.holding not in self._left:
                yield self._placement(row, None)

    def links(self) -> Iterator[Placement]:
        """Every link of what is carried, but for those whose targets themselves go to their place, or to none."""
        for row in self._survey.files(f"kind = 'link' AND {_OWN}"):
            if row.holding not in self._left:
                placement = self._placement(row, None)
                text = link_text(placement.old, row.facts.target, placement.new, self._routes)
                if text is not None:
                    yield replace(placement, leads_to=text)

    def _placement(self, row: FileRow, carried: Carried | None) -> Placement:
        return Placement(row, carried, *self._going(row.path, row.key))

    def _going(self, text: str, key: str) -> tuple[MachinePath, MachinePath | None, Route | None]:
        """A path, where it goes, and by which route. Files come by folders, so each folder is understood once."""
        cut = max(text.rfind("/"), text.rfind("\\") if self._is_windows else -1)
        folder, name = text[:cut], text[cut + 1 :]
        is_apart = not name or self._routes.starts_at(key) is not None
        known = None if is_apart else self._folders.get(folder)
        if known is None:
            if is_apart or _is_shallow(folder):
                path = self._old.parse(text)
                return path, self._routes.translate(path), self._routes.route_for(path)
            if len(self._folders) >= _REMEMBERED_FOLDERS:
                self._folders.clear()
            path = self._old.parse(folder)
            route = self._routes.route_for(path)
            known = self._folders[folder] = path, None if route is None else route.apply(path), route
        path, new, route = known
        return path.below(name), None if new is None else new.below(name), route


def _is_shallow(folder: str) -> bool:
    return folder.count("/") + folder.count("\\") < _SHALLOW


def main_of(path: MachinePath) -> MachinePath | None:
    """The database that a file of this name would belong to; None when it has no such name."""
    name = database_name(path.name) if path.parts else None
    return None if name is None else path.renamed(name)
