"""Decide on the paths of one whole catalog; and tell beforehand what it will not be able to say."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass
from typing import Protocol

from ..catalogs import Catalog, Change, ChangeList, Entry, GrowingCatalog, base_of
from ..guides import EntriesPart, HoldingPart
from ..machines import Computer
from ..paths import MachinePath
from .branches import Branches
from .by_folder import DecidedFolders
from .decide import ANY_NUMBER, PathDecider
from .targets import Destinations, part_there
from .trees import TreeDecider, UnsuitedTree
from .voting import Content


class Decided(Protocol):
    """What was decided for one catalog.

    ``moved`` entries go somewhere; others are left, each in the list that tells why.
    """

    moved: int
    rows_added: int
    without_route: list[tuple[Entry, str]]
    inexpressible: list[Entry]
    made_wrong: list[Entry]
    stale: list[Entry]

    def write(self, changes: ChangeList, catalog: Catalog) -> int:
        """Write all changes for a catalog into a new change list; their number."""

    def changes(self) -> Iterator[Change]:
        """Every change to a cell; entries that are left are collected on the way."""

    def branches(self) -> Sequence[Sequence[object]]:
        """The branches, by the keys of their folders, that go along with the first of them, and stay as they are."""

    def whole_folders(self) -> Collection[object]:
        """The folders, by their keys, of which what was decided says all of every name right in them."""

    def says_all_of(self, folder: object, name: str, /) -> bool:
        """Whether what was decided for a folder, by its key, says all of a file of this name that is right in it."""

    def wanted(self, entry: Entry) -> Content | None:
        """Where an entry leads once everything is written; None for one that stays as it is."""


@dataclass(frozen=True, slots=True)
class Unsayable:
    """Entries of one catalog whose new paths it cannot say, since they share pieces with entries that go elsewhere.

    ``entries`` are what they record; ``root`` is the outermost piece that the first one shares. New rows would help
    where the guide ``may_add`` none yet. ``unnamed`` is a volume of the new computer without a name, where paths begin
    with one.
    """

    entries: tuple[str, ...]
    root: str
    may_add: bool
    unnamed: str = ""

    @property
    def why(self) -> str:
        """Why they cannot be said."""
        if self.unnamed:
            return f"They begin with the name of a volume, and the sheet knows none of {self.unnamed}"
        return "They share a piece of their path with others that go elsewhere"


def decided(
    part: HoldingPart,
    catalog: Catalog,
    destinations: Destinations,
    computers: tuple[Computer, Computer],
    place: MachinePath,
    is_settled: Callable[[Entry], bool] | None = None,
    folders: DecidedFolders | None = None,
) -> Decided:
    """The decider for a catalog of the old one of two ``computers`` that is, or will be, at ``place`` on the new one.

    Its shared pieces are decided. Entries for which ``is_settled`` stay as they are, with all their pieces. ``folders``
    are those of other documents of the holding, whose paths start from the same places.
    """
    old, new = computers
    if len(part.entries) == 1 and is_tree(part.entries[0]):
        try:
            return TreeDecider(
                part.entries[0],
                Branches(catalog),
                ((old.system, old.variables), (new.system, new.variables)),
                destinations,
                is_settled,
                may_add=_may_add(part) and isinstance(catalog, GrowingCatalog),
            )
        except UnsuitedTree:
            pass  # then piece by piece
    pieces = PathDecider(
        catalog.entries,
        destinations.of,
        old.system,
        new.system,
        base_of(part_there(part, destinations), place),
        (old.variables, new.variables),
        destinations.left,
        destinations.going_along,
        destinations.goes_to,
        is_settled,
        folders,
        may_repeat=len(part.entries) > 1,
    )
    pieces.decide(_levels(part), may_add=_may_add(part))
    return pieces


def unsayable(
    part: HoldingPart,
    catalog: Catalog,
    destinations: Destinations,
    computers: tuple[Computer, Computer],
    place: MachinePath,
) -> Unsayable | None:
    """What a catalog could not say, without writing anything; None when it can say everything."""
    pieces = decided(part, catalog, destinations, computers, place)
    for _ in pieces.changes():
        pass
    if not pieces.inexpressible:
        return None
    first = next((piece for piece in pieces.inexpressible[0].pieces if piece is not None), None)
    entries = tuple(entry.recorded for entry in pieces.inexpressible)
    by_name = any(each.spelling.begins_with_volume for each in part.entries)
    unnamed = (str(each.anchor) for each in computers[1].volumes if not (each.label or each.serial or each.uuid))
    return Unsayable(
        entries, "" if first is None else first.text.rstrip("\\/"), _may_add(part), next(unnamed, "") if by_name else ""
    )


def is_tree(part: EntriesPart) -> bool:
    """Whether a path is a branch of a tree and a piece of the entry itself, and nothing else depends on it."""
    return len(part.path) == 2 and bool(part.path[0].parent) and not (part.besides or part.path[1].made_of)


def _levels(part: HoldingPart) -> int:
    """How many pieces a path may have; with trees of folders that depends on how deep they are."""
    if any(piece.parent for each in part.entries for piece in each.path):
        return ANY_NUMBER
    return max(len(each.path) for each in part.entries)


def _may_add(part: HoldingPart) -> bool:
    return any(piece.may_add for each in part.entries for piece in each.path)
