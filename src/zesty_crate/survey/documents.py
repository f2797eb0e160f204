"""The catalogs that were found: which are documents of their own, and where the registry's are."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from ..catalogs import CatalogError, syntax_of
from ..guides import Holding
from ..machines import Disk, Finder, Outside, Seen, Sheet, Sight
from ..machines.registry import Block, Tree, blocks_of_hive, read_export, write_export
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
    """The registry of a Windows computer: an export that its sheet names, the real one, or the hives on its disk."""

    def __init__(self, sheet: Sheet, finder: Finder, outside: Outside, scratch: Path) -> None:
        """``scratch`` is a folder for exports of the real registry, which is no file."""
        self._sheet = sheet
        self._computer = finder.computer
        self._finder = finder
        self._disk = outside.disk
        self._real = outside.registry if sheet.is_here else None
        self._scratch = scratch

    def documents(self, holding: Holding) -> list[FoundDocument]:
        """Where the branch of a holding is kept; nothing when it is nowhere here."""
        part = self._sheet.part.windows_registry
        if part is not None:
            return [self._export(holding, self._sheet.folder / part.file)]
        if self._real is not None:
            if not (blocks := self._real.branch(holding.part.branch)):
                return []
            path = self._scratch / f"{holding.id.replace('/', ' ')}.reg"
            self._disk.write_bytes(path, write_export(blocks))
            return [self._export(holding, path)]
        for branch, hive in self._hives():
            if f"{holding.part.branch}\\".upper().startswith(f"{branch}\\".upper()):
                seen = self._finder.find(hive)
                return [FoundDocument(holding, seen, is_registry=True)] if seen.facts is not None else []
        return []

    def branch(self, holding: Holding) -> list[Block]:
        """All that is in the branch of a holding. Raises `RegistryError` when it cannot be read."""
        blocks: list[Block] = []
        for found in self.documents(holding):
            if found.seen.real is None:
                continue
            if found.seen.facts is not None and self._disk.read_start(found.seen.real, 4) == b"regf":
                blocks += blocks_of_hive(found.seen.real, found.seen.path.name, holding.part.branch)
            elif found.seen.facts is not None:
                content = self._disk.read_bytes(found.seen.real)
                blocks += Tree(read_export(content, str(found.seen.real))).branch(holding.part.branch)
        return blocks

    def _export(self, holding: Holding, path: Path) -> FoundDocument:
        # It has no place on the computer itself; the home represents one, since registrations are a user's.
        at = self._computer.place("home").below(path.name)
        return FoundDocument(holding, Seen(Sight.THERE, at, path.parent, self._disk.facts(path)), is_registry=True)

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
