"""The catalogs that were found: which are documents of their own, and where the registry's are."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from ..catalogs import CatalogError, syntax_of
from ..guides import Holding
from ..machines import Computer, Disk, Finder, Seen, Sheet, Sight
from ..paths import MachinePath, System


@dataclass(frozen=True, slots=True)
class FoundDocument:
    """A catalog where it was found."""

    holding: Holding
    seen: Seen
    is_registry: bool = False

    @property
    def path(self) -> str:
        """Where it is on its computer; of what is in the registry, the branch."""
        return self.holding.part.branch if self.is_registry else str(self.seen.path)


class Registry:
    """The registry of a Windows computer: an export that its sheet names, else the hive files on its disk."""

    def __init__(self, sheet: Sheet, computer: Computer, finder: Finder, disk: Disk) -> None:
        self._sheet = sheet
        self._computer = computer
        self._finder = finder
        self._disk = disk

    def documents(self, holding: Holding) -> list[FoundDocument]:
        """Where the branch of a holding is kept; nothing when neither is here."""
        part = self._sheet.part.windows_registry
        if part is not None:
            export = self._sheet.folder / part.file
            # It has no place on the computer itself; the home stands for one, since registrations are a user's.
            at = self._computer.place("home").below(export.name)
            facts = self._disk.facts(export)
            return [FoundDocument(holding, Seen(Sight.THERE, at, export.parent, facts), is_registry=True)]
        for branch, hive in self._hives():
            if f"{holding.part.branch}\\".upper().startswith(f"{branch}\\".upper()):
                seen = self._finder.find(hive)
                return [FoundDocument(holding, seen, is_registry=True)] if seen.facts is not None else []
        return []

    def _hives(self) -> Iterator[tuple[str, MachinePath]]:
        """The usual places of hives (Microsoft, "Registry Hives")."""
        if self._computer.system is not System.WINDOWS:
            return
        home = self._computer.place("home")
        yield "HKEY_CURRENT_USER", home.below("NTUSER.DAT")
        for name in ("SOFTWARE", "SYSTEM"):
            root = MachinePath(System.WINDOWS, home.root, ("Windows", "System32", "config", name))
            yield f"HKEY_LOCAL_MACHINE\\{name}", root


def roots_of(documents: Sequence[FoundDocument], disk: Disk, scratch: Path) -> list[FoundDocument]:
    """The documents that are read for themselves: those that no other one includes, and one of each circle."""
    included: dict[str, list[str]] = {}
    for found in documents:
        if found.holding.part.includes and found.seen.real is not None:
            included[found.path] = _included(found, disk, scratch)
    inner = {path for paths in included.values() for path in paths}
    roots = [found for found in documents if found.path not in inner]
    reached = {path for found in roots for path in (found.path, *included.get(found.path, ()))}
    for found in documents:
        if found.path not in reached:  # a circle that nothing outside it includes
            reached |= {found.path, *included[found.path]}
            roots.append(found)
    return roots


def _included(found: FoundDocument, disk: Disk, scratch: Path) -> list[str]:
    """All that a document includes, directly or not; nothing when it cannot be read, which is told later."""
    if found.seen.real is None:
        return []
    try:
        syntax = syntax_of(found.holding.part)
        with closing(syntax.open(found.seen.real, found.holding.part, found.seen.path, disk, scratch)) as catalog:
            return [str(path) for path in catalog.included() if str(path) != found.path]
    except CatalogError:
        return []
