"""Put rewritten catalogs in the places of those that are there: built beside them, proven, then each in one step."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from ..catalogs import CatalogError, Proof, syntax_of
from ..guides import Holding
from ..journal import NOTHING, Action, Doer, Journal, Kind, Location, Locations, Step
from ..machines import Disk, FileFacts
from ..moving import Replacer

Build = Callable[[Path, Path], Proof]  # given the original and where to write: writes it, and proves it
_FEW = 4  # files that are flushed one by one; of more, their volumes as a whole


@dataclass(frozen=True, slots=True)
class Wanted:
    """A catalog to replace. ``sha512`` is of what was read."""

    holding: Holding
    location: Location
    sha512: str
    build: Build


@dataclass(slots=True)
class _Begun:
    """One that is written down: its action, and those that take away what its program left beside it."""

    wanted: Wanted
    action: Action
    rest: list[Action]
    outcome: Proof | CatalogError | None = None
    sha512: str = ""
    facts: FileFacts = NOTHING


@dataclass(frozen=True, slots=True)
class CatalogReplacer:
    """Replaces catalogs on one computer, and keeps what was there. Working copies go into ``work``."""

    disk: Disk
    journal: Journal
    doer: Doer
    replacer: Replacer
    locations: Locations
    work: Path

    def replace(self, step: Step, wanted: Wanted) -> Proof:
        """Build the rewritten catalog beside the old one, prove it, and put it in its place. Raises `CatalogError`.

        Journals that its program left beside it are brought into the new one and taken away with the old one: they are
        written down together, so that neither is ever done without the other.
        """
        (outcome,) = self.replace_all(step, [wanted])
        if isinstance(outcome, CatalogError):
            raise outcome
        return outcome

    def replace_all(self, step: Step, wanted: Sequence[Wanted]) -> list[Proof | CatalogError]:
        """The same for many, written down and flushed together: no catalog goes in before all are built and proven.

        One that cannot be built is given up, and stops no other.
        """
        begun = self._begun(step, wanted)
        for each in begun:
            each.outcome = self._built(each)
        given_up = [each for each in begun if isinstance(each.outcome, CatalogError)]
        if given_up:  # before anything goes in: what is not built is no part of what is gone on with after a stop
            self.doer.give_up([action for each in given_up for action in (each.action, *each.rest)])
        built = [each for each in begun if not isinstance(each.outcome, CatalogError)]
        self._settle(built)
        known = self.journal.know_contents([(each.action, each.sha512, each.facts) for each in built])
        rest = [each.rest for each in built]
        self.doer.finish([each for some, action in zip(rest, known, strict=True) for each in (*some, action)])
        return [each.outcome for each in begun if each.outcome is not None]

    def _begun(self, step: Step, wanted: Sequence[Wanted]) -> list[_Begun]:
        """Write down all of them at once."""
        planned: list[list[Action]] = []
        for each in wanted:
            syntax, real = syntax_of(each.holding.part), self.locations.real(each.location)
            beside_it = syntax.companions(real, self.disk)
            journals = [self.replacer.taken_away(each.location, one, each.holding.id) for one in beside_it]
            facts, _, aside = self.replacer.kept(each.location, each.sha512)
            action = Action(
                Kind.REPLACE,
                each.location,
                NOTHING,
                old_facts=facts,
                old_sha512=each.sha512,
                aside=aside,
                note=each.holding.id,
            )
            planned.append([action, *journals])
        actions = iter(self.journal.intend(step, [action for some in planned for action in some]))
        return [
            _Begun(each, next(actions), [next(actions) for _ in some[1:]])
            for each, some in zip(wanted, planned, strict=True)
        ]

    def _built(self, each: _Begun) -> Proof | CatalogError:
        """Build one beside what is there, with all but its name."""
        real, part = self.locations.real(each.wanted.location), Path(self.doer.parts.path_of(each.action))
        try:
            original = real
            if each.rest:
                original = self.work / "original"
                syntax_of(each.wanted.holding.part).copy_whole(real, original, self.disk)
            proof = each.wanted.build(original, part)
        except CatalogError as error:
            return error
        with self.disk.digested(part) as digest:
            each.facts = (self.disk.facts(part) or NOTHING)._replace(mode=each.action.old_facts.mode)
            if attributes := self.disk.attributes(real):
                self.disk.set_attributes(part, attributes)
            self.disk.set_facts(part, each.facts)
            each.sha512 = digest()
        return proof

    def _settle(self, built: Sequence[_Begun]) -> None:
        """Have all that was built on the disk."""
        if len(built) <= _FEW:
            for each in built:
                self.disk.flush(Path(self.doer.parts.path_of(each.action)))
            return
        for folder in {
            each.action.location.volume: self.locations.folder_of(each.action.location) for each in built
        }.values():
            self.disk.flush_all(folder)
