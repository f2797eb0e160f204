"""Which catalogs to relink, when a technician names some of them."""

from __future__ import annotations

import difflib
from collections.abc import Collection

from ..errors import ZestyError
from ..plan import Move
from ..split_paths import Destinations
from ..survey import Document


class Chosen:
    """All catalogs, or those that are named: by program, by holding, or by their path on either computer."""

    def __init__(self, move: Move, destinations: Destinations, only: Collection[str]) -> None:
        """Raises `ZestyError` for a name that is nothing of these."""
        self._only = {each.casefold() for each in only}
        self._documents = {
            each.id: {each.path.casefold(), str(destinations.place_of(move.old.parse(each.path)) or "").casefold()}
            for each in (move.survey.documents("NOT registry") if only else ())
        }
        holdings = [row.id for row in move.survey.holdings()]
        known = {*holdings, *(each.partition("/")[0] for each in holdings)}
        paths = {path for found in self._documents.values() for path in found}
        for each in only:
            if each.casefold() not in {*known, *paths}:
                near = difflib.get_close_matches(each, sorted({*known, *paths}), n=1)
                hint = f"Did you mean {near[0]}?" if near else f"Programs and holdings are {', '.join(sorted(known))}."
                raise ZestyError(f"There is no program, holding or catalog {each}.", next_step=hint)

    def has(self, document: Document) -> bool:
        """Whether a document is chosen."""
        return self.has_holding(document.holding) or bool(self._only & self._documents.get(document.id, set()))

    def has_holding(self, holding: str) -> bool:
        """Whether all documents of a holding are chosen."""
        return not self._only or bool(self._only & {holding, holding.partition("/")[0]})
