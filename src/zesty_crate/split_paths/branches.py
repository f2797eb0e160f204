"""Entries of any catalog, by their folders where it can tell them so."""

from __future__ import annotations

from collections.abc import Collection, Iterator

from ..catalogs import BranchedCatalog, Catalog, Entry, InBranch

Pair = tuple[Entry | InBranch, Entry | InBranch]


class Branches:
    """The entries of one catalog."""

    def __init__(self, catalog: Catalog) -> None:
        self._catalog = catalog
        # Asked once: to ask a class whether it follows a protocol takes longer than to read an entry.
        self._branched = catalog if isinstance(catalog, BranchedCatalog) else None

    def __iter__(self) -> Iterator[Entry | InBranch]:
        return self.entries() if self._branched is None else self._branched.branched()

    def entries(self) -> Iterator[Entry]:
        """Every entry, and the whole of it."""
        return self._catalog.entries()

    def firsts(self) -> Iterator[InBranch]:
        """The first entry of each folder, where it is no more than a name in it."""
        return iter(()) if self._branched is None else self._branched.firsts()

    def but_for(self, folders: Collection[object]) -> tuple[int, list[InBranch | Entry]] | None:
        """How many entries are no more than a name in one of some folders, and all others; None for ask each."""
        return None if self._branched is None or not folders else self._branched.but_for(folders)

    def unlike(self, other: Branches, folders: Collection[object]) -> list[Pair] | None:
        """The entries that are not the same name in the same one of some folders, with what they are in another.

        None where each must be compared.
        """
        if self._branched is None or other._branched is None or not folders:
            return None
        return self._branched.unlike(other._branched, folders)

    def whole(self, each: Entry | InBranch) -> Entry:
        """The whole entry."""
        if isinstance(each, Entry):
            return each
        if self._branched is None:
            raise TypeError(each)  # these come from no other
        return self._branched.entry_in(each)
