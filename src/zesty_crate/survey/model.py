"""What a survey says: the state of every entry, and what every holding holds."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from enum import StrEnum


class State(StrEnum):
    """The state of a catalog entry; the same word in text, JSON and every table."""

    FOUND = "found"
    CHANGED = "changed"
    MISSING = "missing"
    MISSING_BEFORE = "missing-before"
    REMOTE = "remote"
    OUTSIDE = "outside"
    UNPLUGGED = "unplugged"
    UNCLEAR = "unclear"


NEEDS_ATTENTION = (State.MISSING, State.CHANGED, State.UNCLEAR)

Totals = dict[str, int]


def no_totals() -> Totals:
    """A count of nothing, with a key for every state."""
    return {state.value: 0 for state in State} | {"entries": 0}


@dataclass(frozen=True, slots=True)
class Problem:
    """An entry that is not simply found, and why."""

    holding: str
    entry: str
    state: State
    recorded: str
    why: str


@dataclass(frozen=True, slots=True)
class HoldingReport:
    """One holding as the survey found it. Sizes are in bytes."""

    id: str
    guide: str
    title: str
    kind: str
    at: str
    present: bool
    swept: bool = False  # found anywhere by a pattern, and not at one place
    files: int = 0
    size_bytes: int = 0
    factory_files: int = 0
    factory_bytes: int = 0
    outside_files: int = 0
    outside_bytes: int = 0
    unreadable: int = 0
    documents: int = 0
    groups: int = 0
    totals: Totals = field(default_factory=no_totals)


@dataclass(frozen=True, slots=True)
class SurveyReport:
    """A whole survey, summed up."""

    computer: str
    system: str
    user: str
    taken: str
    unplugged: tuple[str, ...]
    holdings: tuple[HoldingReport, ...]
    problems: tuple[Problem, ...]
    unread: tuple[str, ...]  # catalogs that could not be read, each with the reason
    warnings: tuple[str, ...]

    @property
    def totals(self) -> Totals:
        """All holdings' entries, summed."""
        return summed(holding.totals for holding in self.holdings)


def summed(many: Iterable[Totals]) -> Totals:
    """The sum of several totals."""
    total = no_totals()
    for each in many:
        for name, number in each.items():
            total[name] += number
    return total
