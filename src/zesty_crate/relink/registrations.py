"""Bring registrations to the new computer's registry: the branch that is needed, with paths as they are there now."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import closing
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

from ..catalogs import Catalog, CatalogError, Change, ChangeList, syntax_of
from ..crate import merges
from ..guides import Holding
from ..journal import NOTHING, Action, Doer, Journal, Kind, Location, Step, digest_of
from ..machines import make_folders, working_folder
from ..machines.registry import differences_of, read_export, write_export
from ..machines.texts import restored
from ..paths import MachinePath, System
from ..plan import Choice, Move, decided_values, outcome_of
from ..split_paths import Decided
from ..survey import Relinked

_EXAMPLES = 4


class Merging(StrEnum):
    """What becomes of a branch of the registry."""

    PENDING = "to be merged"
    MERGED = "merged"
    ALREADY = "merged already"
    MANUAL = "manual import"  # the new computer's registry is not here
    ELSEWHERE = "no registry"  # it has none
    REFUSED = "not merged"  # its new paths cannot be written


Decide = Callable[[Holding, Catalog, MachinePath], Decided]


@dataclass(frozen=True, slots=True)
class Registrations:
    """What became of one branch of the registry.

    ``without_content`` were registered on the old computer and had no content there; ``unregistered`` is content that
    no registration knew. ``file`` is the export with the new paths.
    """

    holding: str
    title: str
    branch: str
    state: Merging
    keys: int
    values: int
    entries_moved: int
    examples: tuple[Change, ...]
    file: str
    without_content: tuple[str, ...]
    unregistered: tuple[str, ...]
    refused: str = ""

    @property
    def outcome(self) -> tuple[Relinked, str]:
        """What was done with the branch, once relinking is over, and why."""
        if self.refused:
            return Relinked.NOT_RELINKED, self.refused
        if self.state is Merging.MANUAL:
            return Relinked.NOT_RELINKED, f"Import this file on the new computer: {self.file}"
        return (Relinked.NOTHING_TO_CHANGE, "") if self.state is Merging.ELSEWHERE else (Relinked.PROVEN, "")


class Registrar:
    """Merges registrations."""

    def __init__(
        self, move: Move, journal: Journal, doer: Doer, decide: Decide, is_same_plan: Callable[[str], bool]
    ) -> None:
        """``is_same_plan`` tells whether a plan's text means what the plan of now does."""
        self._is_same_plan = is_same_plan
        self._move = move
        self._disk = move.outside.disk
        self._journal = journal
        self._doer = doer
        self._decide = decide
        self._registry = move.registry()

    def run(self, step: Step | None, is_chosen: Callable[[str], bool]) -> list[Registrations]:
        """Every branch that was carried and whose holding is chosen; without a ``step`` nothing is changed."""
        move = self._move
        holdings = move.old_holdings()
        scope = move.survey.about("scope") or {}
        return [
            self._bring(step, holding)
            for holding in holdings
            if holding.part.branch
            and is_chosen(holding.id)
            and merges(scope, holding.id)
            and self._disk.facts(move.crate.export_path(holding.id)) is not None
        ]

    def _bring(self, step: Step | None, holding: Holding) -> Registrations:
        move, branch = self._move, holding.part.branch
        carried = move.crate.export_path(holding.id)
        location = Location("", branch)
        target = move.folder / "registry" / carried.name
        state = self._state(location)
        refused, moved, examples = "", 0, tuple[Change, ...]()
        try:
            write = step is not None and state is not Merging.ALREADY
            moved, examples = self._rewrite(holding, carried, target, write=write)
            if write and state is Merging.PENDING:
                self._keep_what_was_decided(carried, target, branch)
        except CatalogError as error:
            state, refused = Merging.REFUSED, f"{error.message} {error.next_step}"
        if step is not None and state == Merging.PENDING and self._registry is not None:
            here = move.own_folder
            action = Action(
                Kind.REGISTRY,
                location,
                NOTHING,
                source=f"{here}/registry/{target.name}",
                note=holding.id,
                old_sha512=digest_of(self._registry, branch),
                aside=f"{here}/aside/{target.stem} {step.id}.reg",
            )
            self._doer.carry_out(step, [action])
            state = Merging.MERGED
        blocks = read_export(self._disk.read_bytes(carried), str(carried))
        return Registrations(
            holding.id,
            holding.title,
            branch,
            state,
            len(blocks),
            sum(len(each.values) for each in blocks),
            moved,
            examples,
            str(target),
            *self._alone(holding),
            refused,
        )

    def _keep_what_was_decided(self, carried: Path, target: Path, branch: str) -> None:
        """Leave out of an export what is to stay as it is in the registry.

        A value that is there just as it was on the old computer is nothing to decide about: it follows its content.
        Raises `CatalogError` for a value that differs and was not decided.
        """
        if self._registry is None:
            return
        blocks = read_export(self._disk.read_bytes(target), str(target))
        decided, kept, undecided = decided_values(self._move), set[tuple[str, str]](), list[str]()
        there = self._registry.branch(branch)
        original = read_export(self._disk.read_bytes(carried), str(carried))
        foreign = {(each.key, each.name) for each in differences_of(original, there)}
        for each in differences_of(blocks, there):
            if (each.key, each.name) not in foreign:
                continue
            outcome = outcome_of(each.value, each.there, decided)
            if outcome is Choice.KEEP:
                kept.add((each.key, each.name))
            elif outcome is None:
                undecided.append(f"{each.value} ({each.carried} carried, {each.there} there)")
        if undecided:
            raise CatalogError(
                f"Registry values that differ and were not decided: {len(undecided)}, such as {undecided[0]}.",
                next_step="Decide with zesty plan --decide, then run zesty relink again.",
            )
        if kept:
            left = [
                block._replace(values=tuple(pair for pair in block.values if (block.key, pair[0]) not in kept))
                for block in blocks
            ]
            self._disk.write_bytes(target, write_export(left))

    def _state(self, location: Location) -> Merging:
        if self._move.new.system is not System.WINDOWS:
            return Merging.ELSEWHERE
        if self._registry is None:
            return Merging.MANUAL
        by_plan = self._journal.plan_of_last_at(location)
        return Merging.PENDING if by_plan is None or not self._is_same_plan(by_plan) else Merging.ALREADY

    def _rewrite(self, holding: Holding, carried: Path, target: Path, *, write: bool) -> tuple[int, tuple[Change, ...]]:
        """Have an export with the new paths, by the same code as every catalog, and proven like it."""
        move, syntax = self._move, syntax_of(holding.part)
        at = move.old.place("home").below(carried.name)
        with working_folder(self._disk, move.folder / "work") as work:
            changes = ChangeList(work / "changes.db")
            with closing(syntax.open(carried, holding.part, at, self._disk, work)) as catalog:
                pieces = self._decide(holding, catalog, move.new.place("home").below(carried.name))
                pieces.write(changes, catalog)
            examples = tuple(changes.first(_EXAMPLES))
            if write:
                make_folders(self._disk, target.parent)
                part = target.with_name(target.name + ".part")
                self._disk.remove(part)
                syntax.rewrite(carried, part, holding.part, changes, self._disk)
                syntax.prove(carried, part, holding.part, changes, self._disk)
                self._disk.flush(part)
                self._disk.rename(part, target)
        return pieces.moved, examples

    def _alone(self, holding: Holding) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """Registrations that had no content, and content without a registration, as the survey found them."""
        database = self._move.survey.database
        lost = "SELECT name, recorded FROM entry WHERE holding = ? AND state = 'missing-before' ORDER BY rowid"
        without = tuple(restored(name or recorded) for name, recorded in database.execute(lost, (holding.id,)))
        alone = "SELECT path FROM unregistered WHERE holding = ? ORDER BY path"
        return without, tuple(restored(row[0]) for row in database.execute(alone, (holding.id,)))
