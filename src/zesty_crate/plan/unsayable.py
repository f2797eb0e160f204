"""Entries whose new paths their own catalog will not be able to say: known before anything is placed."""

from __future__ import annotations

import logging
from collections.abc import Iterable
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from ..catalogs import CatalogError, syntax_of
from ..errors import ZestyError
from ..guides import Holding
from ..machines import Finder, working_folder
from ..machines.texts import restored, stored
from ..paths import MachinePath, RouteMap
from ..split_paths import Targets, Unsayable, unsayable
from ..survey import Document, bounds_of
from .arrangement import Arrangement
from .decisions import Choice
from .document import Blocker
from .entry_folders import EntryFolders
from .move import Move

_log = logging.getLogger(__name__)

_MANY_ENTRIES = 200_000  # of a catalog of which one route holds all; relinking looks at it anyway
_CARRIED = """SELECT c.payload, c.bag FROM carried AS c JOIN file AS f ON f.id = c.file WHERE f.key = ?"""
_OF_DOCUMENT = "holding = ? AND key >= ? AND key < ?"
_EXAMPLES = 8


@dataclass(frozen=True, slots=True)
class UnsayableEntries:
    """The entries of one document that would be left, with what would help."""

    holding: str
    title: str
    at: str
    entries: int
    examples: tuple[str, ...]
    helps: str
    why: str


@dataclass(frozen=True, slots=True)
class Foreseen:
    """The ``entries`` that would be left, and the catalogs that could not be looked at now."""

    entries: tuple[UnsayableEntries, ...]
    not_seen: tuple[str, ...]


def foresee(move: Move, routes: RouteMap, folders: EntryFolders, arrangement: Arrangement | None = None) -> Foreseen:
    """What no catalog could say under these routes; by an ``arrangement``, only of those that will be placed.

    ``folders`` are those of the files of all entries.
    """
    destinations = Targets(move.survey, move.old, move.new, routes)
    holdings = {each.id: each for each in move.old_holdings()}
    found, not_seen = [], []
    for document in move.survey.documents("NOT registry"):
        holding, at = holdings.get(document.holding), move.old.parse(document.path)
        place = routes.translate(at)
        if holding is None or place is None or not _has_pieces(holding) or _is_simple(move, document, routes, folders):
            continue
        if arrangement is not None and arrangement.choice_of(at) is Choice.KEEP:
            continue
        real = _real(move, at, place)
        try:
            left = None if real is None else _look(move, holding, real, at, place, destinations)
        except (CatalogError, ZestyError) as error:
            _log.info("what %s can say is not known: %s", at, error)
            real = left = None
        if real is None and _is_carried(move, at):
            not_seen.append(document.path)
        if left is not None:
            helps = remedy(left, document.path)
            examples = left.entries[:_EXAMPLES]
            entries = UnsayableEntries(
                holding.id, holding.title, document.path, len(left.entries), examples, helps, left.why
            )
            found.append(entries)
    return Foreseen(tuple(found), tuple(not_seen))


def remedy(left: Unsayable, at: str) -> str:
    """What helps a catalog that could not say the new paths of some entries."""
    if left.unnamed:
        return f"Give each volume its label in the sheet of the new computer, {left.unnamed} too."
    rows = "" if left.may_add else ", allow new rows in the guide (may-add = true)"
    whole = f"Send all of {left.root} to one place" if left.root else f"Send all media of {at} to one place"
    return f"{whole}, with --route '{left.root or 'FOLDER'}=NEW'{rows}, or leave these entries with --leave-entries."


def blockers_of_unsayable(found: Iterable[UnsayableEntries]) -> list[Blocker]:
    """What keeps a program's things from being placed while some of its entries would be left behind unasked."""
    return [
        Blocker(
            each.title,
            f"Entries whose new paths their catalog cannot say: {each.entries}. {each.why}, in {each.at}.",
            each.helps,
            each.examples,
            guide=each.holding.partition("/")[0],
        )
        for each in found
    ]


def _has_pieces(holding: Holding) -> bool:
    return any(len(each.path) > 1 for each in holding.part.entries)


def _is_simple(move: Move, document: Document, routes: RouteMap, folders: EntryFolders) -> bool:
    """Whether one route holds all entries of a large document, so that none can part from the others."""
    bounds = bounds_of(document)
    count = move.survey.count(f"SELECT count(*) FROM entry WHERE {_OF_DOCUMENT} AND path <> ''", bounds)
    if count < _MANY_ENTRIES:
        return False
    of_document = EntryFolders(move.survey, move.old, _OF_DOCUMENT, bounds)
    return any(len(each.by(routes.route_for)) == 1 for each in (folders, of_document))


def _real(move: Move, at: MachinePath, place: MachinePath) -> Path | None:
    """Where a catalog can be read now: in the crate, or on the drive that travels."""
    if move.old.travels(at):
        return Finder(move.new, move.outside.disk).find(place).real
    row = _carried(move, at)
    if row is None or row[1] not in move.contents.roots:
        return None  # not carried, cut into segments, or in a part that is not here
    return move.contents.roots[row[1]] / restored(row[0])


def _carried(move: Move, at: MachinePath) -> tuple[str, int] | None:
    row: tuple[str, int] | None = move.survey.database.execute(_CARRIED, (stored(move.old.key(at)),)).fetchone()
    return row


def _is_carried(move: Move, at: MachinePath) -> bool:
    return move.old.travels(at) or _carried(move, at) is not None


def _look(
    move: Move, holding: Holding, real: Path, at: MachinePath, place: MachinePath, destinations: Targets
) -> Unsayable | None:
    disk = move.outside.disk
    with (
        working_folder(disk, move.folder / "work") as work,
        closing(syntax_of(holding.part).open(real, holding.part, at, disk, work)) as catalog,
    ):
        return unsayable(holding.part, catalog, destinations, (move.old, move.new), place)
