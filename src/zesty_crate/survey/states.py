"""The states of a catalog entry: one table. A new state is a word and a row here; text, JSON and report follow."""

from __future__ import annotations

from enum import Enum, StrEnum, auto
from typing import NamedTuple


class Weight(Enum):
    """What a state means for the move, the lightest first."""

    FINE = auto()
    AS_BEFORE = auto()  # the same as on the old computer, so the move is not the cause
    ATTENTION = auto()  # a person must look at it


class State(StrEnum):
    """The state of a catalog entry; the same word in text, JSON and every table."""

    FOUND = "found"
    CHANGED = "changed"
    MISSING = "missing"
    MISSING_BEFORE = "missing-before"
    REMOTE = "remote"
    OUTSIDE = "outside"
    UNPLUGGED = "unplugged"
    LEFT_OUT = "left-out"
    UNCLEAR = "unclear"

    @property
    def when(self) -> str:
        """When an entry has this state, in words."""
        return STATES[self].when

    @property
    def remedy(self) -> str:
        """What a technician does about it."""
        return STATES[self].remedy

    @property
    def needs_attention(self) -> bool:
        """Whether a person must look at an entry in this state."""
        return STATES[self].weight is Weight.ATTENTION

    @property
    def is_as_before(self) -> bool:
        """Whether the entry had no reachable file on the old computer either."""
        return STATES[self].weight is Weight.AS_BEFORE


class StateRow(NamedTuple):
    """What is known of a state."""

    weight: Weight
    when: str
    remedy: str


STATES = {
    State.FOUND: StateRow(
        Weight.FINE, "the file is where the entry says, and its content is what was carried", "Nothing to do."
    ),
    State.CHANGED: StateRow(
        Weight.ATTENTION,
        "there is a file, but its content differs from what was carried",
        "Ask the customer which version is right; the carried file is in the crate.",
    ),
    State.MISSING: StateRow(
        Weight.ATTENTION,
        "there was a file on the old computer, and there is none now",
        "zesty check shows why. Find files that were moved with zesty relink --at SHEET --look-in DIR.",
    ),
    State.MISSING_BEFORE: StateRow(
        Weight.AS_BEFORE,
        "there was no file on the old computer either",
        "Show it to the customer; the move is not the cause.",
    ),
    State.REMOTE: StateRow(Weight.FINE, "streamed: by design there is no local file", "Nothing to do."),
    State.OUTSIDE: StateRow(
        Weight.FINE,
        "the file exists, but outside all folders of its program; it is carried only with --outside",
        "Carry it with zesty pack --outside, or leave it.",
    ),
    State.UNPLUGGED: StateRow(
        Weight.AS_BEFORE,
        "the file is on a volume that is not connected",
        "Connect the volume, name its mount in the sheet, and check again.",
    ),
    State.LEFT_OUT: StateRow(
        Weight.FINE,
        "its file stayed on the old computer by choice, since it is outside the scope of packing",
        "Nothing to do; to carry it after all, pack another crate with --since.",
    ),
    State.UNCLEAR: StateRow(
        Weight.ATTENTION,
        "more than one file could be meant, or the file cannot be accessed",
        "Rename one of the files, or give yourself the right to read, and check again.",
    ),
}

BY_WEIGHT = sorted(State, key=lambda state: STATES[state].weight.value)
"""All states, those that need attention last, where the eye is."""

Totals = dict[str, int]
"""Numbers of entries by state, and of all ``entries``."""


def no_totals() -> Totals:
    """A count of nothing, with a key for every state."""
    return {state.value: 0 for state in State} | {"entries": 0}
