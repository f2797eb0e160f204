"""Carry out a plan: everything in its place, media first, every change written down before it is made."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterator, Sequence
from contextlib import AbstractContextManager, closing, nullcontext
from dataclasses import replace
from pathlib import Path

from ..crate import Bag, Sum, Watch, open_part, verify
from ..errors import HalfwayError, ZestyError, halfway
from ..journal import NOTHING, Action, Doer, Journal, Kind, Locations, Step
from ..machines import BATCH_BYTES, ENOUGH_FILES, Finder, Seen, Worker
from ..paths import MachinePath
from ..plan import (
    Arrangement,
    Blocker,
    Move,
    Placement,
    Placements,
    absent_parts,
    blockers_of_programs,
    current_blockers,
    load_plan,
    record_baseline,
)
from ..progress import Tell, silent
from .attributes import Attributes
from .counts import Counts, UnpackReport
from .fates import Fate, Fates, target_of
from .permissions import facts_there
from .replacing import Replacer
from .second_names import SecondNames

_log = logging.getLogger(__name__)

STEP, _BATCH_FILES, _BATCH_BYTES = "unpack", 1_000, 256 << 20


class Blocked(ZestyError):  # noqa: N818  it is a state, as in the interface
    """A plan that may not run."""


Ask = Callable[[Sequence[str]], Path | None]  # the bags that are missing: the folder of one of them, or None


def prepare_unpack(move: Move, tell: Tell = silent, *, may_ask: bool = False) -> str:
    """See that unpacking may begin: what is here of the crate is whole, and nothing blocks. Returns the plan's text.

    What blocks single programs stops their part alone, unless there is nothing else.
    Parts that are not here block too, unless somebody can be asked for them later. Raises `DamagedCrate`, or `Blocked`
    with every blocker.
    """
    text = load_plan(move.plan_path, move.outside.disk)
    arrangement = move.arrangement(text)
    blockers = current_blockers(move, arrangement)
    if not may_ask:
        blockers += absent_parts(move)
    if any(not each.guide for each in blockers) or not _something_left(move, arrangement, blockers):
        raise blocked(blockers)
    for root in move.contents.roots.values():
        _verify(move, root, tell)
    return text


def _something_left(move: Move, arrangement: Arrangement, blockers: Sequence[Blocker]) -> bool:
    """Whether there is anything to place besides the things of programs that are blocked."""
    without = frozenset(each.guide for each in blockers)
    return not without or any(True for _ in Placements(move.survey, move.old, arrangement.routes, without).files())


def _blocked_guides(move: Move) -> tuple[frozenset[str], tuple[str, ...]]:
    """The programs that are blocked, and why."""
    blockers = blockers_of_programs(move)
    return frozenset(each.guide for each in blockers), tuple(f"{each.what} {each.clear}" for each in blockers)


def _verify(move: Move, root: Path, tell: Tell) -> None:
    disk = move.outside.disk
    part = move.crate if root == move.crate.root else open_part(root, disk)
    verify(part, disk, tell, "reading the crate", from_drive=False)


def _names(bags: Sequence[Bag]) -> list[str]:
    return [str(bag)[0].upper() + str(bag)[1:] for bag in bags]


def blocked(blockers: Sequence[Blocker]) -> Blocked:
    """The error that says what blocks a plan."""
    lines = []
    for each in blockers:
        lines += [f"{each.what} {each.clear}", *(f"  {place}" for place in each.places)]
    return Blocked(
        f"The plan is blocked by {len(blockers)} " + ("thing." if len(blockers) == 1 else "things."),
        details=lines,
        next_step="Clear them, then run zesty plan again to confirm.",
    )


def unpack(move: Move, plan: str, tell: Tell = silent, ask: Ask | None = None) -> UnpackReport:
    """Place everything by the routes of ``plan``; resumes what an interrupted run began.

    For parts that are not here ``ask`` is asked, one after the other, in any order.
    """
    with move.at_work("zesty unpack"), closing(Journal.open(move.journal_path, move.outside)) as journal:
        if not journal.standing(STEP):
            record_baseline(move, move.arrangement(plan).routes)
        step = journal.begin(STEP, note=plan)
        begun = move.arrangement(step.note)
        _require_same(begun, move.arrangement(plan))
        with halfway(), _hand_for(move) as worker:
            unpacker = _Unpacker(move, journal, step, begun, tell, worker)
            unpacker.resume()
            unpacker.place_files()
            while missing := move.contents.missing():
                for bag in _asked_for(move, missing, tell, ask):
                    unpacker.place_files(bag.number)
            report = unpacker.place_rest()
            journal.end(step)
            return report


def _hand_for(move: Move) -> AbstractContextManager[Worker | None]:
    """Help with many files; starting it is not worth while for few."""
    many = move.survey.count("SELECT count(*) FROM carried") >= ENOUGH_FILES
    return move.outside.disk.worker() if many else nullcontext()


def _asked_for(move: Move, missing: Sequence[Bag], tell: Tell, ask: Ask | None) -> list[Bag]:
    """More bags, from a folder that a person names, once all in them was found to be whole."""
    folder = ask(_names(missing)) if ask is not None else None
    if folder is None:
        raise HalfwayError(
            f"Not everything is placed yet: {len(missing)} of the crate's parts are not connected.",
            details=[f"not here: {bag}" for bag in missing],
            next_step="Run zesty unpack again with them; it continues where it stopped.",
        )
    bags = move.contents.add(folder, move.outside.disk)
    if not bags:
        raise HalfwayError(
            f"{folder} is not one of the parts that are needed.",
            details=[f"needed: {each}" for each in missing],
            next_step="Run zesty unpack again with one of these; it continues where it stopped.",
        )
    for bag in bags:
        _verify(move, move.contents.roots[bag.number], tell)
    return bags


def count_unpack(move: Move, plan: str) -> UnpackReport:
    """What `unpack` would place now."""
    journal = Journal.open_existing(move.journal_path, move.outside)
    try:
        without, why = _blocked_guides(move)
        arrangement = move.arrangement(plan)
        fates = Fates(arrangement, Finder(move.new, move.outside.disk), Locations(move.new), journal, move.outside.disk)
        counts = Counts()
        for placement in Placements(move.survey, move.old, arrangement.routes, without).files():
            if placement.new is not None:
                counts.add(fates.of(placement)[0], placement)
        return counts.report(move, why)
    finally:
        if journal is not None:
            journal.close()


def _require_same(begun: Arrangement, now: Arrangement) -> None:
    """What was begun by one plan is not finished by another."""
    if not begun.means_the_same_as(now):
        raise ZestyError(
            "Unpacking was interrupted, and the plan was changed since: its routes or its decisions.",
            next_step="Run zesty undo, then unpack by the new plan.",
        )


class _Unpacker:
    def __init__(
        self, move: Move, journal: Journal, step: Step, arrangement: Arrangement, tell: Tell, worker: Worker | None
    ) -> None:
        self._move = move
        self._journal = journal
        self._step = step
        without, self._blocked = _blocked_guides(move)
        self._placements = Placements(move.survey, move.old, arrangement.routes, without)
        self._finder = Finder(move.new, move.outside.disk)
        self._locations = Locations(move.new)
        self._fates = Fates(arrangement, self._finder, self._locations, journal, move.outside.disk)
        self._replacer = Replacer(move, journal)
        files, size = (move.survey.count(f"SELECT {what} FROM carried") for what in ("count(*)", "sum(size)"))
        self._watch = Watch("placing", Sum(files, size), tell)
        self._doer = Doer(move.contents, self._locations, journal, move.outside, moved=self._watch.moved)
        self._doer.parts.worker = worker
        self._counts = Counts()
        self._attributes = Attributes(move, journal, step)
        self._names = SecondNames(move, self._finder, self._locations)

    def resume(self) -> None:
        """Finish what an earlier run intended."""
        self._doer.resume(self._step)

    def place_files(self, bag: int | None = None) -> None:
        """Place the files that are here, with the folders they need; with ``bag`` those that it was lacking for."""
        gone = Sum(0, 0)
        for batch in self._names.in_turn(self._placements.files(), _BATCH_FILES, _BATCH_BYTES):
            self._place([each for each in batch if each.new is not None and self._is_due(each, bag)])
            sizes = [_size(each) for each in batch]
            gone = Sum(gone.files + len(batch), gone.size_bytes + sum(sizes))
            self._watch.flush(gone, sum(size for size in sizes if size > BATCH_BYTES))

    def place_rest(self) -> UnpackReport:
        """Place links, and give folders their own dates."""
        self._place_links()
        self._place_folders()
        _log.info("files by fate: %s", {str(fate): number for fate, number in self._counts.fates.items()})
        report = self._counts.report(self._move, self._blocked, self._attributes.refused, self._names.count())
        refused = tuple(self._doer.links_refused)
        return replace(report, links=max(0, report.links - len(refused)), links_refused=refused)

    def _is_due(self, placement: Placement, bag: int | None) -> bool:
        carried = placement.carried
        return carried is not None and (bag is None or carried.bag in (0, bag)) and self._move.contents.is_here(carried)

    def _place(self, placements: Sequence[Placement]) -> None:
        actions: list[Action] = []
        fates = [self._fates.of(placement) for placement in placements]
        for placement, (fate, seen) in zip(placements, fates, strict=True):
            self._counts.add(fate, placement)
            if fate is Fate.PLACE:
                actions += self._placing(placement, seen)
            elif fate is Fate.REPLACE:
                actions += self._replacer.actions(
                    placement, self._locations.at(self._finder, target_of(placement), seen)
                )
        if actions:
            # What folders there must be comes first: one flush does for all of them.
            self._doer.carry_out(self._step, sorted(actions, key=lambda action: action.kind is not Kind.FOLDER))
        ours = [each for each, (fate, _) in zip(placements, fates, strict=True) if fate in (Fate.PLACE, Fate.EARLIER)]
        self._names.note_placed(ours)
        for placement, (fate, _) in zip(placements, fates, strict=True) if self._attributes.any else ():
            if self._attributes.may_lack(fate):
                location = self._locations.at(self._finder, target_of(placement))
                self._attributes.give(placement.row, self._locations.real(location))

    def _placing(self, placement: Placement, seen: Seen) -> Iterator[Action]:
        path, carried = target_of(placement), placement.carried
        if carried is None:
            raise ValueError("what is not carried cannot be placed")
        yield from self._folders(path.parent)
        location, facts = self._locations.at(self._finder, path, seen), facts_there(self._move, carried.file.facts)
        source, note = self._move.contents.source_of(carried), self._names.note_of(placement, location)
        yield Action(Kind.FILE, location, facts, source=source, sha512=carried.sha512, note=note)

    def _folders(self, folder: MachinePath) -> Iterator[Action]:
        """What makes the folders that are missing, outer ones first; from now on they are taken for made."""
        missing = []
        while folder.parts and self._finder.folder(folder).facts is None:
            missing.append(folder)
            folder = folder.parent
        for each in reversed(missing):
            yield Action(Kind.FOLDER, self._locations.at(self._finder, each), NOTHING)
            self._finder.note_made(each)
            self._counts.folders += 1

    def _place_links(self) -> None:
        for placement in self._placements.links():
            if placement.new is None or self._finder.find(placement.new).facts is not None:
                continue
            facts = placement.row.facts._replace(target=placement.leads_to)
            folders = list(self._folders(placement.new.parent))
            location = self._locations.at(self._finder, placement.new)
            self._doer.carry_out(self._step, [*folders, Action(Kind.LINK, location, facts)])
            self._counts.links += 1

    def _place_folders(self) -> None:
        """Make the empty folders, too, and give the folders that this step made their dates, inner ones first."""
        dated = []
        missing: list[Action] = []
        for placement in self._placements.folders():
            if placement.new is not None:
                missing += self._folders(placement.new)
                dated.append((self._locations.at(self._finder, placement.new), placement.row))
        if missing:
            self._doer.carry_out(self._step, missing)
        for location, row in reversed(dated):
            action = self._journal.last_at(location)
            if action is not None and action.kind is Kind.FOLDER:
                self._attributes.give(row, self._locations.real(location))
                self._move.outside.disk.set_facts(self._locations.real(location), facts_there(self._move, row.facts))


def _size(placement: Placement) -> int:
    return placement.row.facts.size_bytes
