"""Merge a carried catalog into a working copy of the one there: to show it beforehand, and to write it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from ..catalogs import CatalogError, syntax_of
from ..crate import group_scope
from ..guides import Holding
from ..machines import Finder
from ..machines.texts import restored, stored
from ..merge import Merged, MergeOptions, MergeReport, Sides, can_merge, merge_and_prove
from ..paths import MachinePath
from ..split_paths import CarriedCatalog, Targets, part_there, relinked_copy
from ..survey import Document
from .move import Move
from .origins import origin_of

_CARRIED = "SELECT f.id, c.payload, c.bag FROM carried AS c JOIN file AS f ON f.id = c.file WHERE f.key = ?"


@dataclass(frozen=True, slots=True)
class MergeErrand:
    """A carried catalog that is to be merged into the one at ``place``, whose file is ``there``."""

    document: Document
    holding: Holding
    at: MachinePath
    place: MachinePath
    there: Path


@dataclass(frozen=True, slots=True)
class MergedFile:
    """A merged catalog in a working folder, proven, and what it came to."""

    file: Path
    merged: Merged

    @property
    def report(self) -> MergeReport:
        """What it came to."""
        return self.merged.report


def why_not_merged(holdings: Sequence[Holding]) -> str:
    """Why catalogs of these holdings, which look into one document, cannot be merged; empty when they can."""
    if len(holdings) > 1:
        return f"several holdings look into it ({', '.join(each.id for each in holdings)})"
    return can_merge(holdings[0].part)


def merged_file(
    move: Move, errand: MergeErrand, destinations: Targets, options: MergeOptions, work: Path, *, leave_entries: bool
) -> MergedFile:
    """Merge in the folder ``work``. Raises `CatalogError` for what cannot be merged."""
    disk, part = move.outside.disk, errand.holding.part
    carried = CarriedCatalog(part, carried_file(move, errand.at, work), errand.at, errand.place, (move.old, move.new))
    relinked = relinked_copy(carried, destinations, work, disk, leave_entries=leave_entries)
    original, target = work / "there", work / "merged"
    syntax_of(part).copy_whole(errand.there, original, disk)
    syntax_of(part).copy_whole(original, target, disk)
    origin = origin_of(move, errand.holding, errand.at, errand.place, work)
    sides = Sides(
        part_there(part, destinations),
        errand.place,
        original,
        target,
        relinked,
        move.new,
        origin,
        _scope(move, errand.document),
    )
    return MergedFile(target, merge_and_prove(sides, options, disk, work))


def carried_file(move: Move, at: MachinePath, work: Path) -> Path:
    """A carried catalog as one file: in the crate, on the drive that travels, or put together of its segments."""
    if move.old.travels(at):
        real = Finder(move.new, move.outside.disk).find(at).real
        if real is not None:
            return real
    row = move.survey.database.execute(_CARRIED, (stored(move.old.key(at)),)).fetchone()
    if row is None:
        raise CatalogError(f"{at} was not carried, so it cannot be merged.")
    file, payload, bag = row
    name = restored(payload)
    if bag and bag in move.contents.roots:
        return move.contents.roots[bag] / name
    whole, facts = work / "carried in segments", next(move.survey.files("id = ?", (file,))).facts
    move.outside.disk.join(move.contents.files_of(f"{bag}:{name}"), whole, facts)
    return whole


def _scope(move: Move, document: Document) -> tuple[frozenset[str], frozenset[str]] | None:
    """The entries and groups that were chosen when it was packed, by the document's own keys; None for all."""
    chosen = group_scope(move.survey, document.holding)
    if chosen is None:
        return None
    cut = len(document.prefix)
    entries, groups = (frozenset(each[cut:] for each in keys) for keys in chosen)
    return entries, groups
