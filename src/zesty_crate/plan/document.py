"""The plan as a file: routes, names, decisions and blockers in TOML, for a person to read and edit."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from pydantic import Field

from ..documents import DocumentError, KeyLines, Part, parse_document
from ..errors import ZestyError
from ..machines import Computer, Disk
from ..merge import MergeOptions, Taken
from ..paths import MachinePath, PathError, Route
from .decisions import Choice, Decision

FORMAT = 6


class PlanHead(Part):
    """``[plan]``"""

    format: int
    crate: str
    from_computer: str = Field(alias="from")
    to_computer: str = Field(alias="to")
    made: str
    leave_entries: bool = False
    values: Taken | Literal[""] = ""
    without: tuple[str, ...] = ()


class RoutePart(Part):
    """``[[route]]`` and ``[[rename]]``; ``proposed`` is what was proposed, as ``OLD=NEW``: it tells what was edited."""

    old: str
    new: str
    why: str = ""
    files: int = 0
    proposed: str = ""


class DecisionPart(Part):
    """``[[decision]]``"""

    on: str
    choose: Choice


class ConflictPart(Part):
    """``[[conflict]]``: ``choose`` is a person's, ``comes_to`` what it comes to with all decisions."""

    holding: str
    old: str
    new: str
    carried_bytes: int
    carried_date: dt.datetime
    there_bytes: int
    there_date: dt.datetime
    choose: Choice | Literal[""] = ""
    comes_to: Choice | Literal[""] = ""
    beside: str = ""
    why: str = ""
    warning: str = ""


class ValuePart(Part):
    """``[[registry-conflict]]``: a value that differs; ``choose`` and ``comes-to`` as in a conflict of files."""

    holding: str
    value: str
    carried: str
    there: str
    choose: Choice | Literal[""] = ""
    comes_to: Choice | Literal[""] = ""
    why: str = ""


class MergedValuePart(Part):
    """``[[merged-value]]``: what becomes of one value that both of two merged catalogs have, and differently."""

    catalog: str
    entry: str
    field: str
    choose: Taken


class BlockerPart(Part):
    """``[[blocker]]``, written for people and never read back into anything."""

    concerns: str
    what: str
    clear: str


class PlanPart(Part):
    """A whole plan file."""

    plan: PlanHead
    route: tuple[RoutePart, ...] = ()
    rename: tuple[RoutePart, ...] = ()
    decision: tuple[DecisionPart, ...] = ()
    conflict: tuple[ConflictPart, ...] = ()
    registry_conflict: tuple[ValuePart, ...] = ()
    merged_value: tuple[MergedValuePart, ...] = ()
    blocker: tuple[BlockerPart, ...] = ()


@dataclass(frozen=True, slots=True)
class Blocker:
    """A reason why a part of the plan may not run, and what clears it. ``places`` are all the places concerned.

    With a ``guide`` it stops the part of that program alone.
    """

    concerns: str
    what: str
    clear: str
    places: tuple[str, ...] = ()
    guide: str = ""


@dataclass(frozen=True, slots=True)
class PlannedRoute:
    """A route with the number of carried files that go by it."""

    route: Route
    files: int


@dataclass(frozen=True, slots=True)
class PlannedConflict:
    """What a plan file says about one conflict: ``asked`` by a person for this file, and its ``outcome``.

    ``there_bytes`` and ``there_date`` are of what was in the place when the plan was made.
    """

    holding: str
    old: MachinePath
    new: MachinePath
    there_bytes: int
    there_date: dt.datetime
    asked: Choice | None
    outcome: Choice | None
    beside: MachinePath | None

    @property
    def is_current(self) -> bool:
        """Whether what it comes to is what was asked; an edit shows only when the plan is made again."""
        return self.asked in (None, self.outcome) or (self.asked is Choice.NEWER and self.outcome is not Choice.BOTH)


@dataclass(frozen=True, slots=True)
class PlannedValue:
    """What a plan file says about one registry value that differs: what is there, and what was decided."""

    value: str
    there: str
    asked: Choice | None
    outcome: Choice | None


@dataclass(frozen=True, slots=True)
class ValueChoice:
    """What a person chose for one value of a merged catalog, which is named by its place on the new computer."""

    catalog: str
    entry: str
    field: str
    choice: Taken


@dataclass(frozen=True, slots=True)
class MergingChoices:
    """How catalogs are merged: what becomes of ``values`` and of ``single`` ones, and ``without`` which tables."""

    values: Taken | None = None
    single: tuple[ValueChoice, ...] = ()
    without: tuple[str, ...] = ()

    def options_for(self, catalog: MachinePath) -> MergeOptions:
        """What is asked of a merge of the catalog at a place of the new computer."""
        single = {(each.entry, each.field): each.choice for each in self.single if each.catalog == str(catalog)}
        return MergeOptions(self.values, single, self.without)


NOTHING_CHOSEN = MergingChoices()


@dataclass(frozen=True, slots=True)
class PlanFile:
    """What a plan file says. With ``leave_entries`` those stay behind whose new paths their catalogs cannot say."""

    routes: tuple[Route, ...] = ()
    renames: tuple[Route, ...] = ()
    decisions: tuple[Decision, ...] = ()
    conflicts: tuple[PlannedConflict, ...] = ()
    values: tuple[PlannedValue, ...] = ()
    leave_entries: bool = False
    merging: MergingChoices = NOTHING_CHOSEN


def read_plan(text: str, title: str, old: Computer, new: Computer) -> PlanFile:
    """Read a plan file. Raises `DocumentError` that names the lines of all that cannot be used."""
    part = parse_document(text, PlanPart, title)
    if part.plan.format != FORMAT:
        raise DocumentError(
            f"{title} has format {part.plan.format}; this version reads format {FORMAT}.",
            next_step="Move it elsewhere and run zesty plan, which writes a new one.",
        )
    reader = _PlanParser(KeyLines(text), old, new)
    routes = reader.routes("route", part.route)
    renames = reader.routes("rename", part.rename)
    conflicts = reader.conflicts(part.conflict)
    if reader.faults:
        raise DocumentError(f"{title} has mistakes.", details=reader.faults, next_step="Correct it.")
    decisions = tuple(Decision(each.on, each.choose) for each in part.decision)
    values = (PlannedValue(v.value, v.there, v.choose or None, v.comes_to or None) for v in part.registry_conflict)
    head, single = part.plan, (ValueChoice(v.catalog, v.entry, v.field, v.choose) for v in part.merged_value)
    return PlanFile(
        routes,
        renames,
        decisions,
        conflicts,
        tuple(values),
        head.leave_entries,
        MergingChoices(head.values or None, tuple(single), head.without),
    )


def as_option(old: MachinePath, new: MachinePath) -> str:
    """A route as one writes it behind ``--route``."""
    return f"{old}={new}"


class _PlanParser:
    """Reads the tables of a plan, and collects what is no path."""

    def __init__(self, lines: KeyLines, old: Computer, new: Computer) -> None:
        self._lines = lines
        self._old = old
        self._new = new
        self.faults: list[str] = []

    def routes(self, table: str, parts: Sequence[RoutePart]) -> tuple[Route, ...]:
        """The routes of a table."""
        routes = []
        for number, each in enumerate(parts):
            old, new = self._ends(table, number, each)
            if old is not None and new is not None:
                is_edited = bool(each.proposed) and each.proposed != as_option(old, new)
                why = "set in the plan" if is_edited else each.why
                routes.append(Route(old, new, why, manual=is_edited or not each.proposed))
        return tuple(routes)

    def conflicts(self, parts: Sequence[ConflictPart]) -> tuple[PlannedConflict, ...]:
        """What was settled."""
        settled = []
        for number, each in enumerate(parts):
            old, new = self._ends("conflict", number, each)
            beside = self._parsed(("conflict", number, "beside"), each.beside, self._new) if each.beside else None
            if old is not None and new is not None:
                asked, outcome = each.choose or None, each.comes_to or None
                settled.append(
                    PlannedConflict(each.holding, old, new, each.there_bytes, each.there_date, asked, outcome, beside)
                )
        return tuple(settled)

    def _ends(
        self, table: str, number: int, part: RoutePart | ConflictPart
    ) -> tuple[MachinePath | None, MachinePath | None]:
        old = self._parsed((table, number, "old"), part.old, self._old)
        return old, self._parsed((table, number, "new"), part.new, self._new)

    def _parsed(self, place: tuple[str | int, ...], text: str, computer: Computer) -> MachinePath | None:
        try:
            return computer.parse(text)
        except PathError as error:
            self.faults.append(f"line {self._lines.line_of(place)}: {error.message}")
            return None


def load_plan(path: Path, disk: Disk) -> str:
    """The text of a plan file. Raises `ZestyError` when there is none."""
    if disk.facts(path) is None:
        raise ZestyError(f"There is no plan at {path}.", next_step="Run zesty plan first, and read the result.")
    return disk.read_text(path)
