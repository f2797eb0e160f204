"""Programs that run now: their catalogs must not be changed under them."""

from __future__ import annotations

from ..catalogs import CatalogError
from ..errors import ZestyError
from ..guides import is_running
from ..plan import Move


def require_closed(move: Move, programs: set[str]) -> None:
    """Raise `ZestyError` when one of these programs is running."""
    if faults := [*running(move, programs).values()]:
        raise ZestyError(faults[0].message, next_step=faults[0].next_step)


def running(move: Move, programs: set[str]) -> dict[str, CatalogError]:
    """Those of these programs that are running, by their ids, each with what to do."""
    return {
        guide.id: CatalogError(
            f"{guide.title} is running on {move.new.name}, so its catalog must not be changed now.",
            next_step="Quit it, set running = false in the sheet if needed, and run the command again.",
        )
        for guide in (move.guides if move.into is None else ())
        if guide.id in programs and is_running(guide, move.new_sheet, move.outside)
    }
