"""Repair the recorded paths of the catalogs that a move has placed: decide, write into a copy, prove, replace whole."""

from __future__ import annotations

import logging
import os
from collections.abc import Collection, Iterable, Mapping, Sequence
from contextlib import closing
from functools import partial
from pathlib import Path

from ..catalogs import CatalogError
from ..errors import ZestyError, halfway
from ..guides import Holding
from ..journal import Action, Doer, Journal, Kind, Location, Locations, Step
from ..machines import Finder, faults_in
from ..moving import Replacer
from ..paths import MachinePath
from ..plan import Arrangement, Choice, Move, renamed_companions
from ..progress import Progress, Tell, silent
from ..split_paths import Destinations, Targets
from ..survey import Document, Verdict
from .chosen import Chosen
from .destinations import StillOpen
from .merging import CatalogMerger
from .model import RelinkedCatalog, RelinkReport
from .registrations import Registrar, Registrations
from .replace import CatalogReplacer
from .rewriter import Ready, Rewriter
from .running import running

_log = logging.getLogger(__name__)

STEP = "relink"
# Of small documents as many are rewritten together as are flushed in one go, and lost together if that is stopped.
_SMALL_BYTES = 1 << 20
_MOST_TOGETHER, _MOST_BYTES = 200, 16 << 20


def relink(
    move: Move,
    tell: Tell = silent,
    *,
    dry_run: bool = False,
    only: Collection[str] = (),
    leave_entries: bool = False,
) -> RelinkReport:
    """Relink every catalog that was unpacked. With ``dry_run`` all is decided, and nothing on the computer changes.

    ``only`` limits that to programs and holdings by their ids, or documents by their paths on either computer. With
    ``leave_entries`` catalogs are relinked though some of their entries then lead nowhere, which are named.

    Raises `ZestyError` when nothing was unpacked, a program is running, or a catalog cannot be read.
    """
    journal = Journal.open_existing(move.journal_path, move.outside)
    if journal is None:
        raise _nothing_unpacked(move)
    with closing(journal):
        unpacked = [step for step in journal.standing("unpack") if step.ended]
        if not unpacked:
            raise _nothing_unpacked(move)
        plan = unpacked[-1].note
        arrangement = move.arrangement(plan)
        leave_entries = leave_entries or arrangement.leaves_entries
        destinations = Targets(move.survey, move.old, move.new, arrangement.routes)
        return carry_out(
            move,
            journal,
            destinations,
            tell,
            dry_run=dry_run,
            only=only,
            leave_entries=leave_entries,
            plan=plan,
            arrangement=arrangement,
        )


def relink_in_place(
    move: Move, destinations: Destinations, tell: Tell = silent, *, dry_run: bool = False
) -> RelinkReport:
    """Relink catalogs where they are, on the computer that they were surveyed on."""
    with closing(Journal.open(move.journal_path, move.outside)) as journal:
        return carry_out(move, journal, destinations, tell, dry_run=dry_run)


def carry_out(
    move: Move,
    journal: Journal,
    destinations: Destinations,
    tell: Tell,
    *,
    dry_run: bool = False,
    all_or_none: bool = False,
    only: Collection[str] = (),
    leave_entries: bool = False,
    plan: str = "",
    arrangement: Arrangement | None = None,
) -> RelinkReport:
    """Relink every catalog that ``destinations`` know the place of; continues with a step that was begun.

    A catalog that was relinked by another ``plan`` than this one is gone on with: what still is as it was on the old
    computer gets its path by this plan.

    With ``all_or_none``, the first catalog that cannot be relinked ends it with its `CatalogError`.
    """
    chosen = Chosen(move, destinations, only)
    relinker = _Relinker(
        move, journal, destinations, chosen, plan, arrangement, all_or_none=all_or_none, leave_entries=leave_entries
    )
    relinker.hold_back()
    if dry_run:
        with faults_in(move.folder / "work"):
            return relinker.run(None, tell)
    with move.at_work("zesty relink"), halfway(), faults_in(move.folder / "work"):
        step = journal.begin(STEP, note=plan)
        relinker.doer.resume(step)
        if step.note != plan:  # an interrupted one, of the plan before
            journal.end(step)
            step = journal.begin(STEP, note=plan)
        report = relinker.run(step, tell)
        journal.end(step)
        return report


def _nothing_unpacked(move: Move) -> ZestyError:
    return ZestyError(
        f"This crate was not unpacked on {move.new.name} completely, so there is nothing to relink.",
        next_step="Run zesty unpack first.",
    )


class _Batch:
    """Documents that wait to be rewritten together."""

    def __init__(self) -> None:
        self._waiting: list[Ready] = []
        self._room = _MOST_BYTES

    def has(self, location: Location) -> bool:
        """Whether the document at a location waits."""
        return any(each.location == location for each in self._waiting)

    def takes(self, ready: Ready, size_bytes: int) -> bool:
        """Take one more, of any size if it is the first; False where there is no room for it."""
        if self._waiting and (size_bytes > self._room or len(self._waiting) >= _MOST_TOGETHER):
            return False
        self._waiting.append(ready)
        self._room -= size_bytes
        return True

    def emptied(self) -> list[Ready]:
        """All of it; it is empty afterwards."""
        waiting, self._waiting, self._room = self._waiting, [], _MOST_BYTES
        return waiting


class _Relinker:
    def __init__(
        self,
        move: Move,
        journal: Journal,
        destinations: Destinations,
        chosen: Chosen,
        plan: str,
        arrangement: Arrangement | None,
        *,
        all_or_none: bool,
        leave_entries: bool,
    ) -> None:
        self._plan = plan
        self._arrangement = arrangement
        self._leave_entries = leave_entries
        self._chosen = chosen
        self._all_or_none = all_or_none
        self._move = move
        self._disk = move.outside.disk
        self._journal = journal
        self._destinations = destinations
        self._work = move.folder / "work"
        self._finder = Finder(move.new, self._disk)
        self._locations = Locations(move.new)
        self._running: dict[str, CatalogError] = {}
        self._open: dict[int, CatalogError] = {}
        self.doer = Doer(move.contents, self._locations, journal, move.outside, move.registry())
        replacer = Replacer(move, journal)
        self._catalogs = CatalogReplacer(self._disk, journal, self.doer, replacer, self._locations, self._work)
        self._rewriter = Rewriter(move, self._locations, destinations, self._catalogs, leave_entries=leave_entries)
        self._merger = (
            None
            if arrangement is None
            else CatalogMerger(move, arrangement, self._catalogs, self._finder, leave_entries)
        )

    def programs(self) -> set[str]:
        """The programs whose catalogs are here and may be changed."""
        guides = {row.id: row.guide for row in self._move.survey.holdings()}
        found: set[str] = set()
        for document in self._move.survey.documents():
            guide = guides[document.holding]
            if guide not in found and self._chosen.has(document):
                place = self._place_of(self._move.old.parse(document.path))
                if place and self._finder.find(place).facts is not None:
                    found.add(guide)
        return found

    def hold_back(self) -> None:
        """Note which programs are running, and which catalogs are open: these are refused, and all others relinked.

        Raises `ZestyError` when nothing is left then, or when it must be all or none.
        """
        programs = self.programs()
        self._running = running(self._move, programs)
        self._open = self._open_catalogs()
        faults = [*self._running.values(), *self._open.values()]
        if faults and (self._all_or_none or programs <= set(self._running)):
            raise ZestyError(faults[0].message, next_step=faults[0].next_step)

    def _open_catalogs(self) -> dict[int, CatalogError]:
        """The documents that are open in any program, its own or another one, by their numbers."""
        found: dict[int, CatalogError] = {}
        open_files = self._move.outside.processes.open_files()
        names = {Path(each).name for each in open_files}
        for document in self._move.survey.documents() if open_files else ():
            if not self._chosen.has(document):
                continue
            place = self._place_of(self._move.old.parse(document.path))
            seen = self._finder.find(place) if place else None
            if seen is None or seen.facts is None or seen.real is None:
                continue
            may_be = seen.real.name in names or seen.facts.kind == "link"
            if may_be and (program := open_files.get(os.path.realpath(seen.real))):
                found[document.id] = CatalogError(
                    f"The catalog {place} is open in {program}, so it must not be changed now.",
                    next_step="Quit that program, and run the command again.",
                )
        return found

    def run(self, step: Step | None, tell: Tell) -> RelinkReport:
        """Relink one catalog after the other."""
        move = self._move
        holdings = {each.id: each for each in move.old_holdings()}
        documents = [each for each in move.survey.documents("NOT registry") if self._chosen.has(each)]
        found = self._relinked(step, documents, holdings, tell)
        rows = [found[each.id] for each in documents if each.id in found]
        outcomes = {number: (row.outcome, f"{row.refused} {row.next_step}".strip()) for number, row in found.items()}
        for row in rows:
            _log.info("%s at %s: %d texts, %d entries left", row.holding, row.at, row.cells, len(row.untouched))
        renamed, registered = 0, tuple[Registrations, ...]()
        if self._destinations.in_place:
            renamed = self._rename_companions(step, holdings.values())
        else:
            decide = partial(self._rewriter.decide, destinations=self._destinations)
            registrar = Registrar(move, self._journal, self.doer, decide, self._is_same_plan)
            registered = tuple(registrar.run(step, self._chosen.has_holding))
            states = {each.holding: each.outcome for each in registered}
            branches = [each for each in move.survey.documents("registry") if each.holding in states]
            outcomes |= {each.id: states[each.holding] for each in branches}
        if step is not None:
            self._journal.set_outcomes(step, outcomes)
        return RelinkReport(move.new.name, tuple(rows), registered, renamed)

    def _relinked(
        self, step: Step | None, documents: Sequence[Document], holdings: Mapping[str, Holding], tell: Tell
    ) -> dict[int, RelinkedCatalog]:
        """What became of each document that is among what was placed; small ones are rewritten many at a time."""
        found: dict[int, RelinkedCatalog] = {}
        batch = _Batch()
        for number, document in enumerate(documents, start=1):
            place = self._place_of(self._move.old.parse(document.path))
            if place is not None:
                location = self._locations.at(self._finder, place)
                if batch.has(location):  # of two holdings that look into one document, the second reads what is new
                    found |= self._rewritten(step, batch)
                looked = self._look_at(step, holdings, document, place, location)
                if isinstance(looked, RelinkedCatalog):
                    found[document.id] = looked
                elif looked is not None and not batch.takes(looked, self._size_of(looked)):
                    found |= self._rewritten(step, batch)
                    batch.takes(looked, self._size_of(looked))
            tell(Progress("relinking", number, len(documents)))
        return found | self._rewritten(step, batch)

    def _rewritten(self, step: Step | None, batch: _Batch) -> dict[int, RelinkedCatalog]:
        some = batch.emptied()
        outcomes = self._rewriter.rewrite(step, some) if some else []
        return {each.document.id: self._outcome(each, told) for each, told in zip(some, outcomes, strict=True)}

    def _size_of(self, ready: Ready) -> int:
        """What a document counts for in a batch; one with files beside it, or that is large, is rewritten alone."""
        real = self._locations.real(ready.location)
        facts = self._disk.facts(real)
        is_plain = facts is not None and facts.size_bytes <= _SMALL_BYTES and ready.holding.part.syntax != "sqlite"
        return facts.size_bytes if facts is not None and is_plain and not self._all_or_none else _MOST_BYTES

    def _outcome(self, ready: Ready, outcome: RelinkedCatalog | CatalogError) -> RelinkedCatalog:
        if isinstance(outcome, RelinkedCatalog):
            return outcome
        _log.warning("%s is not relinked: %s", ready.place, outcome.message)
        return self._refused(ready.holding, ready.place, outcome, self._locations.real(ready.location))

    def _rename_companions(self, step: Step | None, holdings: Iterable[Holding]) -> int:
        """Give companions the names that go with the new paths; unpacking does so by its own routes."""
        actions = []
        for companion, name in renamed_companions(
            self._move.survey, holdings, self._move.old, self._destinations.goes_to
        ):
            place = self._destinations.place_of(companion) or companion
            seen = self._finder.find(place)
            if seen.facts is not None and self._finder.find(place.renamed(name)).facts is None:
                location = self._locations.at(self._finder, place.renamed(name))
                source = self._locations.at(self._finder, place).path
                actions.append(Action(Kind.MOVE, location, seen.facts, source=source))
        if step is not None and actions:
            self.doer.carry_out(step, actions)
        return len(actions)

    def _merges(self, at: MachinePath) -> bool:
        return self._arrangement is not None and self._arrangement.choice_of(at) is Choice.MERGE

    def _place_of(self, at: MachinePath) -> MachinePath | None:
        """Where a catalog is on the new computer: where it was placed, or that of the one it is merged into."""
        if self._arrangement is not None and self._merges(at):
            return self._arrangement.place_of_kept(at)
        return self._destinations.place_of(at)

    def _look_at(
        self,
        step: Step | None,
        holdings: Mapping[str, Holding],
        document: Document,
        place: MachinePath,
        location: Location,
    ) -> Ready | RelinkedCatalog | None:
        """Whether a document may be rewritten, or what became of it already; None when it was not placed.

        One on a drive that came along is relinked where it is. One that cannot be relinked stays as it is.
        """
        at, holding = self._move.old.parse(document.path), holdings[document.holding]
        if self._merges(at) and self._merger is not None:
            return self._merge(step, holding, document, place, location)
        placed = self._journal.last_at(location)
        stays = self._destinations.in_place or self._move.old.travels(at)
        if placed is None and not (stays and self._finder.find(place).facts):
            return None
        if document.verdict is Verdict.NOT_READ:
            return self._refused(holding, place, CatalogError(f"It could not be read: {document.reasons[0]}"))
        destinations, by_plan = self._destinations, self._journal.rewritten_for(location).get(holding.id)
        if by_plan is not None:  # for this holding: another one may look into the same catalog
            if self._is_same_plan(by_plan):
                return RelinkedCatalog(holding.id, holding.title, str(place), 0, 0, (), (), None, already=True)
            destinations = StillOpen(destinations, self._move.survey, document)
        if self._disk.facts(self._locations.real(location)) is None:
            why = "It was unpacked but no longer exists."
            error = CatalogError(why, next_step="Run zesty undo, then unpack again.")
            return self._refused(holding, place, error)
        if held := self._open.get(document.id) or self._running.get(holding.guide.id):
            return self._refused(holding, place, held)
        return Ready(document, holding, location, at, place, destinations, placed)

    def _merge(
        self, step: Step | None, holding: Holding, document: Document, place: MachinePath, location: Location
    ) -> RelinkedCatalog:
        """Merge a carried catalog into the one at its place; one that cannot be merged stays as it is."""
        by_plan = self._journal.rewritten_for(location).get(holding.id)
        if by_plan is not None and self._is_same_plan(by_plan):
            return RelinkedCatalog(holding.id, holding.title, str(place), 0, 0, (), (), None, already=True)
        held = self._open.get(document.id) or self._running.get(holding.guide.id)
        if document.verdict is Verdict.NOT_READ:
            held = CatalogError(f"It could not be read: {document.reasons[0]}")
        if held is not None or self._merger is None:
            return self._refused(holding, place, held or CatalogError("It cannot be merged."))
        try:
            return self._merger.merge(step, holding, document, place)
        except CatalogError as error:
            _log.warning("%s is not merged: %s", place, error.message)
            return self._refused(holding, place, error, self._locations.real(location))

    def _refused(
        self, holding: Holding, place: MachinePath, error: CatalogError, real: Path | None = None
    ) -> RelinkedCatalog:
        """A catalog that stays as it is. The reason names it by its place on its computer."""
        if self._all_or_none:
            raise error
        why = error.message if real is None else error.message.replace(str(real), str(place))
        at = str(place)
        return RelinkedCatalog(
            holding.id, holding.title, at, 0, 0, (), (), None, refused=why, next_step=error.next_step
        )

    def _is_same_plan(self, text: str) -> bool:
        """Whether a plan is the one that counts now, whatever else stands in its file."""
        if text == self._plan or not text or not self._plan:
            return True
        return self._move.arrangement(text).means_the_same_as(self._move.arrangement(self._plan))
