"""One entry of a folder speaks for all that share its pieces and are sure to go where their folder goes."""

from __future__ import annotations

from collections.abc import Callable, Container

from ..catalogs import Entry, StoredPiece
from ..paths import MachinePath
from .targets import ALL_NAMES, Target

Outer = tuple[StoredPiece | None, ...]


class Witnesses:
    """The entries that speak for their folders. A folder is known by the very pieces that its entries share."""

    def __init__(
        self, target_of: Callable[[Entry], Target], going_along: Callable[[MachinePath], Container[str]]
    ) -> None:
        """``going_along`` tells which names in a folder are sure to go where the folder goes, just as they are."""
        self._target_of = target_of
        self._going_along = going_along
        self._names: dict[Outer, Container[str]] = {}
        self._stays: set[Outer] = set()

    def speaks(self, entry: Entry) -> bool:
        """Whether an entry speaks for itself: the first of its folder, or one that may go elsewhere than that."""
        if entry.remote or len(entry.pieces) < 2:
            return True
        outer = entry.pieces[:-1]
        names = self._names.get(outer)
        if names is None:
            target = self._target_of(entry)
            self._names[outer] = () if target.old is None else self._going_along(target.old.parent)
            return True
        return not self._is_plain(entry, names)

    def note(self, entry: Entry) -> None:
        """The own piece of an entry stays as it is, and its path becomes right by those that it shares."""
        if entry.pieces[:-1] in self._names:
            self._stays.add(entry.pieces[:-1])

    def is_settled_by_another(self, entry: Entry) -> bool:
        """Whether all is said of an entry by the one that spoke for it: its own piece stays."""
        outer = entry.pieces[:-1]
        return outer in self._stays and not entry.remote and self._is_plain(entry, self._names[outer])

    def _is_plain(self, entry: Entry, names: Container[str]) -> bool:
        """Whether the own piece is one name that goes along."""
        last = entry.pieces[-1]
        if entry.copies or entry.pointers:
            return False
        if last is None or not names or "/" in last.text or "\\" in last.text or last.text in (".", ".."):
            return False
        return names is ALL_NAMES or last.text in names
