"""Let a carried file take the place of another one, which is kept aside whole."""

from __future__ import annotations

from pathlib import Path, PurePosixPath

from ..catalogs import syntax_of
from ..guides import Holding
from ..journal import NOTHING, Action, Journal, Kind, Location, Locations
from ..machines import FileFacts
from ..plan import Move, Placement
from .permissions import facts_there


class Replacer:
    """Writes down replacements."""

    def __init__(self, move: Move, journal: Journal) -> None:
        self._move = move
        self._disk = move.outside.disk
        self._journal = journal
        self._locations = Locations(move.new)
        self._documents = {document.path: document.holding for document in move.survey.documents()}
        self._holdings: dict[str, Holding] = {holding.id: holding for holding in move.holdings_there()}

    def actions(self, placement: Placement, location: Location) -> list[Action]:
        """What brings a carried file in: journals that a program left beside its old catalog are taken away first."""
        carried = placement.carried
        if carried is None:
            raise ValueError("what is not carried cannot be brought in")
        facts, sha512, aside = self.kept(location)
        source = self._move.contents.source_of(carried)
        replaced = Action(
            Kind.REPLACE,
            location,
            facts_there(self._move, carried.file.facts, facts),
            old_facts=facts,
            source=source,
            sha512=carried.sha512,
            old_sha512=sha512,
            aside=aside,
            note=placement.row.holding,
        )
        beside = [self.taken_away(location, each, placement.row.holding) for each in self._beside(placement, location)]
        return [*beside, replaced]

    def taken_away(self, catalog: Location, beside: Path, note: str) -> Action:
        """What takes away a file beside a catalog."""
        location = Location(catalog.volume, str(PurePosixPath(catalog.path).with_name(beside.name)))
        facts, sha512, aside = self.kept(location)
        return Action(Kind.TAKE_AWAY, location, NOTHING, old_facts=facts, old_sha512=sha512, aside=aside, note=note)

    def kept(self, location: Location, sha512: str = "") -> tuple[FileFacts, str, str]:
        """What stands at a spot now, its digest, and where in the crate it is kept (what was carried is there)."""
        real = self._locations.real(location)
        facts, sha512 = self._disk.facts(real) or NOTHING, sha512 or self._disk.digest(real).sha512
        placed = self._journal.last_at(location)
        if (
            placed is not None
            and placed.kind in (Kind.FILE, Kind.REPLACE)
            and placed.sha512 == sha512
            and placed.source
        ):
            return facts, sha512, placed.source
        return facts, sha512, f"{self._move.own_folder}/aside/{sha512}"

    def _beside(self, placement: Placement, location: Location) -> list[Path]:
        holding = self._holdings.get(self._documents.get(placement.row.path, ""))
        if holding is None:
            return []
        return syntax_of(holding.part).companions(self._locations.real(location), self._disk)
