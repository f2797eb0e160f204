"""What was on the new computer before anything was placed there, written down so that it need not be guessed later."""

from __future__ import annotations

from ..machines import Finder, make_folders
from ..paths import RouteMap
from ..survey import SurveyStore, Walk, written
from .move import Move

FILE = "before.db"


def record_baseline(move: Move, routes: RouteMap) -> None:
    """List what is in the places of the holdings, in a survey without entries."""
    disk = move.outside.disk
    make_folders(disk, move.folder)
    part = move.folder / f"{FILE}.part"
    disk.remove(part)
    with written(SurveyStore.create(part)) as store:
        store.set_format()
        placed = [each for each in move.holdings_by(routes) if not each.part.sweep]
        for rows in Walk(move.new, Finder(move.new, disk), placed).rows():
            store.add_files(rows)
        store.index("file_by_key")
    disk.flush(part)
    disk.rename(part, move.folder / FILE)


def baseline(move: Move) -> SurveyStore | None:
    """What was listed, to be closed after use; None when nothing was."""
    path = move.folder / FILE
    return SurveyStore.open(path) if move.outside.disk.facts(path) is not None else None
