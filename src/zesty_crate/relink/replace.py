"""Put a rewritten catalog in the place of the one that is there: built beside it, proven, and then in one step."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from ..catalogs import CatalogError, Proof, syntax_of
from ..guides import Holding
from ..journal import NOTHING, Action, Doer, Journal, Kind, Location, Locations, Step
from ..machines import Disk, beside
from ..moving import Replacer

Build = Callable[[Path, Path], Proof]  # given the original and where to write: writes it, and proves it


@dataclass(frozen=True, slots=True)
class CatalogReplacer:
    """Replaces catalogs on one computer, and keeps what was there. Working copies go into ``work``."""

    disk: Disk
    journal: Journal
    doer: Doer
    replacer: Replacer
    locations: Locations
    work: Path

    def replace(self, step: Step, holding: Holding, location: Location, sha512: str, build: Build) -> Proof:
        """Build the rewritten catalog beside the old one, prove it, and put it in its place.

        Journals that its program left beside it are brought into the new one and taken away with the old one: they are
        written down together, so that neither is ever done without the other. ``sha512`` is of what was read.
        """
        syntax, real = syntax_of(holding.part), self.locations.real(location)
        journals = [self.replacer.taken_away(location, each, holding.id) for each in syntax.companions(real, self.disk)]
        facts, _, aside = self.replacer.kept(location, sha512)
        replaced = Action(
            Kind.REPLACE, location, NOTHING, old_facts=facts, old_sha512=sha512, aside=aside, note=holding.id
        )
        action, *rest = self.journal.intend(step, [replaced, *journals])
        original, part = real, Path(self.doer.parts.path_of(action))
        try:
            if journals:
                original = self.work / "original"
                syntax.copy_whole(real, original, self.disk)
            proof = build(original, part)
        except CatalogError:
            self.doer.give_up([action, *rest])
            raise
        with beside(lambda: self.disk.digest(part).sha512) as digest:
            facts = (self.disk.facts(part) or NOTHING)._replace(mode=replaced.old_facts.mode)
            if attributes := self.disk.attributes(real):
                self.disk.set_attributes(part, attributes)
            self.disk.set_facts(part, facts)
            self.disk.flush(part)
            built = self.journal.know_content(action, digest(), facts)
        self.doer.finish([*rest, built])
        return proof
