"""What two catalogs came from: the newest move between these two computers, in either direction, that both were in.

A move leaves the carried catalog with other paths and the same keys; or, where it merged, one that it kept a copy of
(`merge_records`), with the rows there for the rows that came.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from pathlib import Path

from ..catalogs import CatalogError
from ..crate import Crate, open_finished
from ..errors import ZestyError
from ..guides import Holding
from ..journal import Journal, Kind, Locations
from ..machines import Finder, Sheet, make_folders
from ..merge import OriginFiles, Rows
from ..paths import MachinePath
from ..split_paths import CarriedCatalog, Targets, relinked_copy
from .merge_records import standing_record
from .move import Move, open_move


@dataclass(frozen=True, slots=True)
class _Between:
    """A move of another crate between the two computers: ``began`` when, and whether ``back`` the other way."""

    crate: Crate
    began: dt.datetime
    is_back: bool


def origin_of(move: Move, holding: Holding, at: MachinePath, place: MachinePath, work: Path) -> OriginFiles | None:
    """The common origin of the catalog ``at`` a place of the old computer, and the one at its ``place`` on the new."""
    for between in sorted(_between(move), key=lambda each: each.began, reverse=True):
        folder = work / "origin"
        make_folders(move.outside.disk, folder)
        try:
            found = (
                _back(move, between, holding, at, place, folder)
                if between.is_back
                else _forth(move, between, holding, at, place, folder)
            )
        except (CatalogError, ZestyError):
            continue  # an origin is a help and no more
        if found is not None:
            return found
    return None


def _forth(
    move: Move, between: _Between, holding: Holding, at: MachinePath, place: MachinePath, work: Path
) -> OriginFiles | None:
    """An earlier move the same way: as it was carried then, and as it was left on the new computer."""
    with _opened(between.crate, move.new_sheet, move) as earlier:
        carried = _carried(earlier, at, work)
        if carried is None:
            return None
        left = _left(earlier, holding, at, place, carried, work)
        return None if left is None else OriginFiles(left.as_carried or carried, left.file, left.rows)


def _back(
    move: Move, between: _Between, holding: Holding, at: MachinePath, place: MachinePath, work: Path
) -> OriginFiles | None:
    """A move the other way: as it was on the new computer when it was carried, and as it was left on the old one."""
    with _opened(between.crate, move.old_sheet, move) as earlier:
        carried = _carried(earlier, place, work)
        if carried is None:
            return None
        left = _left(earlier, holding, place, at, carried, work)
        if left is None:
            return None
        rows = (
            None
            if left.rows is None
            else {table: {new: old for old, new in pairs.items()} for table, pairs in left.rows.items()}
        )
        return OriginFiles(left.file if left.rows is not None else carried, carried, rows, is_back=True)


@dataclass(frozen=True, slots=True)
class _Left:
    file: Path
    rows: Rows | None
    as_carried: Path | None = None


def _left(
    earlier: Move, holding: Holding, at: MachinePath, place: MachinePath, carried: Path, work: Path
) -> _Left | None:
    """A catalog as a move left it: what merging kept, or else what was carried, relinked as it was then."""
    journal = Journal.open_existing(earlier.journal_path, earlier.outside)
    if journal is None:
        return None
    with closing(journal):
        finder, locations = Finder(earlier.new, earlier.outside.disk), Locations(earlier.new)
        last = journal.last_at(locations.at(finder, place))
        unpacked = [step for step in journal.standing("unpack") if step.ended]
        if not unpacked:
            return None
        arrangement = earlier.arrangement(unpacked[-1].note)
        if arrangement.routes.translate(at) != place:
            return None  # what went there was another one
        record = standing_record(earlier, place, last)
        if record is not None:
            return _Left(record.left, record.rows)
        if last is None or last.kind not in (Kind.FILE, Kind.REPLACE) or not last.sha512:
            return None
        targets = Targets(earlier.survey, earlier.old, earlier.new, arrangement.routes)
        catalog = CarriedCatalog(holding.part, carried, at, place, (earlier.old, earlier.new))
        return _Left(relinked_copy(catalog, targets, work, earlier.outside.disk, leave_entries=True), None)


def _carried(earlier: Move, at: MachinePath, work: Path) -> Path | None:
    from .merging import carried_file

    is_known = any(each.path == str(at) for each in earlier.survey.documents())
    return carried_file(earlier, at, work) if is_known else None


def _between(move: Move) -> Iterator[_Between]:
    """The moves between the two computers that stand, by the crates beside this one, and this one itself."""
    disk, carrier = move.outside.disk, move.crate.root.absolute().parent
    for name in disk.names(carrier) if move.into is None else ():
        crate = Crate(carrier / name)
        if disk.facts(crate.survey_path) is None or not crate.is_finished(disk):
            continue
        try:
            whose = crate.about(disk)["computer"]["name"]
        except (ZestyError, KeyError, TypeError):
            continue
        for to, is_back in ((move.new, False), (move.old, True)):
            if whose != (move.new if is_back else move.old).name:
                continue
            journal = Journal.open_existing(crate.move_folder(to.name) / "journal.db", move.outside)
            if journal is None:
                continue
            with closing(journal):
                began = journal.last_begun()
            if began is not None:
                yield _Between(crate, began, is_back)


@contextmanager
def _opened(crate: Crate, sheet: Sheet, move: Move) -> Iterator[Move]:
    earlier = open_move(open_finished(crate.root, move.outside.disk), sheet, move.outside)
    with closing(earlier.survey):
        yield earlier
