"""Entries of any catalog, by their folders where it can tell them so."""

from __future__ import annotations

from collections.abc import Iterator

from ..catalogs import BranchedCatalog, Catalog, Entry, InBranch


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

    def whole(self, each: Entry | InBranch) -> Entry:
        """The whole entry."""
        if isinstance(each, Entry):
            return each
        if self._branched is None:
            raise TypeError(each)  # these come from no other
        return self._branched.entry_in(each)
