"""What a merge is asked, and what it comes to."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

Handle = tuple[Any, ...]  # what names a record for good: in a database its key, or each column of it
Rows = Mapping[str, Mapping[Handle, Handle]]  # by tables: the rows there for those that were carried


class Taken(StrEnum):
    """What becomes of a value that both sides have, and differently."""

    KEEP = "keep"  # the new computer's stays
    BRING_IN = "bring-in"  # the carried one takes its place
    NEWER = "newer"  # that of the record which was changed last, by the program's own date


@dataclass(frozen=True, slots=True)
class ValueConflict:
    """A value that both sides have, and differently. ``entry`` is what people know the record by.

    ``origin`` is what it was when both were one, None where nobody knows. ``outcome`` is None while nothing decides.
    """

    entry: str
    field: str
    there: str
    carried: str
    origin: str | None
    outcome: Taken | None
    why: str = ""

    @property
    def subject(self) -> tuple[str, str]:
        """What a decision is about."""
        return self.entry, self.field


@dataclass(frozen=True, slots=True)
class MergedTable:
    """The records of one kind: before + new = after. ``same`` of those that were carried are one with one there."""

    name: str
    role: str
    carried: int
    before: int
    new: int
    same: int
    after: int
    why: str = ""  # what explains it, where the guide does not


@dataclass(frozen=True, slots=True)
class MergeReport:
    """What merging one catalog comes to.

    ``new`` entries come; ``same`` are on both sides. Of values, ``only_there`` were changed on the new computer alone
    and stay, ``only_carried`` were changed on the old one alone and come, ``facts`` differ that nobody wrote and stay.
    ``aside`` are tables that take no part, and ``left_out`` what else of the carried catalog does not come.
    ``unsure`` entries could each be one of several and are kept beside them;
    ``deleted_there`` came with an earlier move, were deleted on the new computer since, and come again.
    """

    tables: tuple[MergedTable, ...]
    new: int
    same: int
    only_there: int
    only_carried: int
    facts: int
    conflicts: tuple[ValueConflict, ...]
    groups_new: tuple[str, ...]
    groups_grown: tuple[str, ...]
    examples: tuple[str, ...]
    unsure: tuple[str, ...] = ()
    deleted_there: int = 0
    aside: tuple[str, ...] = ()
    left_out: tuple[str, ...] = ()
    three_sides: bool = False

    @property
    def undecided(self) -> tuple[ValueConflict, ...]:
        """The conflicts that nothing decides."""
        return tuple(each for each in self.conflicts if each.outcome is None)


@dataclass(frozen=True, slots=True)
class MergeOptions:
    """What is asked of a merge: what becomes of ``values`` in general, of single ones, and tables to go ``without``."""

    values: Taken | None = None
    single: Mapping[tuple[str, str], Taken] = field(default_factory=dict)
    without: tuple[str, ...] = ()


@dataclass(slots=True)
class KeyMap:
    """By which keys the carried entries and groups are in the merged catalog.

    ``stays`` are annotations of carried entries, by the carried key and the name, in place of which those there stay;
    ``new`` are the carried keys of entries that are one with none there.
    """

    entries: dict[str, str] = field(default_factory=dict)
    groups: dict[str, str] = field(default_factory=dict)
    stays: set[tuple[str, str]] = field(default_factory=set)
    new: set[str] = field(default_factory=set)
