"""Entries of any catalog, by their folders where it can tell them so."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence

from ..catalogs import BranchedCatalog, Catalog, Entry, InBranch

Pair = tuple[Entry | InBranch, Entry | InBranch]


class Branches:
    """The entries of one catalog."""

    def __init__(self, catalog: Catalog) -> None:
        self._catalog = catalog
        self._folders = catalog.folders() if isinstance(catalog, BranchedCatalog) else None

    def __iter__(self) -> Iterator[Entry | InBranch]:
        return self.entries() if self._folders is None else self._folders.entries()

    def entries(self) -> Iterator[Entry]:
        """Every entry, and the whole of it."""
        return self._catalog.entries()

    def whole(self, each: Entry | InBranch) -> Entry:
        """The whole entry."""
        if isinstance(each, Entry):
            return each
        if self._folders is None:
            raise TypeError(each)  # these come from no other
        return self._folders.whole(each)

    def named(self, folder: object, name: str) -> Entry | None:
        """The entry that a name in a folder would be; None where the folder cannot be read."""
        return None if self._folders is None else self._folders.named(folder, name)

    def inside(self, folder: object | None) -> Sequence[object]:
        """The folders right inside one; with None those that are in no other."""
        return () if self._folders is None else self._folders.inside(folder)

    def branch(self, folder: object) -> list[object]:
        """A folder and those in it, at any depth, so far as each but the first is no more than one name."""
        return [] if self._folders is None else self._folders.branch(folder)

    def is_branch_of(self, other: Branches, branch: Iterable[object]) -> bool:
        """Whether a branch is the same in another catalog, but for what its first folder is called."""
        if self._folders is None or other._folders is None:
            return False
        return self._folders.is_branch_of(other._folders, branch)

    def firsts(self) -> Iterator[InBranch]:
        """The first entry of each folder, where it is no more than a name in it."""
        return iter(()) if self._folders is None else self._folders.firsts()

    def but_for(self, folders: Mapping[object, int]) -> tuple[Counter[int], list[InBranch | Entry]] | None:
        """How many entries are no more than a name in one of some folders, by their numbers; and all others.

        None for ask each.
        """
        return None if self._folders is None or not folders else self._folders.but_for(folders)

    def unlike(self, other: Branches, folders: Collection[object]) -> list[Pair] | None:
        """The entries that are not the same name in the same one of some folders, with what they are in another.

        None where each must be compared.
        """
        if self._folders is None or other._folders is None or not folders:
            return None
        return self._folders.unlike(other._folders, folders)
