"""Where each carried file goes on the new computer."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

from ..machines import Computer
from ..machines.sqlite_files import database_name
from ..paths import MachinePath, Route, RouteMap, System
from ..survey import Carried, FileRow, PathRow, SurveyStore
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


class Folder(NamedTuple):
    """A folder of the old computer, and where it is on the new one by which route; None where none leads there."""

    old: MachinePath
    new: MachinePath | None
    route: Route | None


class Going(NamedTuple):
    """A file, folder or link by its name in a folder, and by that on the new computer; a root has none."""

    folder: Folder
    name: str
    new_name: str
    row: PathRow
    is_folder: bool = False

    @property
    def old(self) -> MachinePath:
        """Its path on the old computer."""
        return self.folder.old.below(self.name) if self.name else self.folder.old

    @property
    def new(self) -> MachinePath | None:
        """Its path on the new computer."""
        new = self.folder.new
        return new if new is None or not self.new_name else new.below(self.new_name)


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
        self._folders: dict[str, Folder] = {}
        self._left = {row.id for row in survey.holdings() if row.guide in without}

    def named(self) -> Iterator[Going]:
        """Everything that goes somewhere, with no more than its name: folders, files and links."""
        for row in self._survey.paths(f"kind = 'folder' AND {_OWN}"):
            if row.holding not in self._left:
                yield Going(*self._going(row.path, row.key), row, is_folder=True)
        yield from self.going()
        for link in self.links():
            row = PathRow(link.row.id, link.row.holding, link.row.path, link.row.key, link.row.size_bytes)
            yield Going(*self._going(row.path, row.key), row)

    def going(self) -> Iterator[Going]:
        """Every carried file, with no more than its name; those of a folder come one after the other."""
        for row in self._survey.carried_paths():
            if row.holding not in self._left:
                yield Going(*self._going(row.path, row.key), row)

    def files(self) -> Iterator[Placement]:
        """Every carried file: media first, then what belongs to it, then catalogs, then what refers to them."""
        for carried in self._survey.carried():
            if carried.file.holding not in self._left:
                yield self._placement(carried.file, carried)

    def of(self, some: Sequence[Going]) -> Iterator[Placement]:
        """The placements of some of them, in their order."""
        carried = {each.file.id: each for each in self._survey.carried_files([going.row.id for going in some])}
        for going in some:
            found = carried[going.row.id]
            yield Placement(found.file, found, going.old, going.new, going.folder.route)

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
        folder, name, new_name = self._going(row.path, row.key)
        new = folder.new
        return Placement(
            row,
            carried,
            folder.old.below(name) if name else folder.old,
            new if new is None or not new_name else new.below(new_name),
            folder.route,
        )

    def _going(self, text: str, key: str) -> tuple[Folder, str, str]:
        """The folder of a path, and both names in it. Files come by folders, so each folder is understood once."""
        cut = max(text.rfind("/"), text.rfind("\\") if self._is_windows else -1)
        folder, name = text[:cut], text[cut + 1 :]
        is_apart = not name or self._routes.starts_at(key) is not None
        known = None if is_apart else self._folders.get(folder)
        if known is None:
            if is_apart or _is_shallow(folder):
                return self._apart(self._old.parse(text))
            if len(self._folders) >= _REMEMBERED_FOLDERS:
                self._folders.clear()
            path = self._old.parse(folder)
            route = self._routes.route_for(path)
            known = self._folders[folder] = Folder(path, None if route is None else route.apply(path), route)
        return known, name, name

    def _apart(self, path: MachinePath) -> tuple[Folder, str, str]:
        """The same of a path by itself."""
        route = self._routes.route_for(path)
        new = None if route is None else route.apply(path)
        folder = Folder(path.parent, None if new is None else new.parent, route)
        return folder, path.name if path.parts else "", new.name if new is not None and new.parts else ""


def _is_shallow(folder: str) -> bool:
    return folder.count("/") + folder.count("\\") < _SHALLOW


def main_of(path: MachinePath) -> MachinePath | None:
    """The database that a file of this name would belong to; None when it has no such name."""
    name = database_name(path.name) if path.parts else None
    return None if name is None else path.renamed(name)
