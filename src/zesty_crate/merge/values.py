"""Values that both sides have: which one counts, by what both came from, and by what a person decides."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import NamedTuple

from .model import MergeOptions, Taken, ValueConflict

Cell = object  # a value of a database or a text; None and the empty text are nothing


class Sides(NamedTuple):
    """One value on all sides. ``was_there`` and ``was_carried`` are what it was at the common origin, if known.

    Where the two differ, the move that is the origin had them merged: to what was there, or, if it went the other way
    and ``is_back`` now, to what was carried.
    """

    there: Cell
    carried: Cell
    is_known: bool = False
    was_there: Cell = None
    was_carried: Cell = None
    is_back: bool = False

    @property
    def is_changed_there(self) -> bool:
        """Whether the one there is not what the carried side last knew."""
        return not _alike(self.there, self.was_there) or (self._differed and not self.is_back)

    @property
    def is_changed_carried(self) -> bool:
        """Whether the carried one is not what the side there last knew."""
        return not _alike(self.carried, self.was_carried) or (self._differed and self.is_back)

    @property
    def _differed(self) -> bool:
        return not _alike(self.was_there, self.was_carried)


@dataclass(slots=True)
class Record:
    """A record that both sides have: what people know it by, and when each side changed it last."""

    name: str
    there_ns: int | None = None
    carried_ns: int | None = None


@dataclass(slots=True)
class Values:
    """Decides value by value, and counts."""

    options: MergeOptions
    only_there: int = 0
    only_carried: int = 0
    facts: int = 0
    conflicts: list[ValueConflict] = field(default_factory=list)

    def takes_carried(self, record: Record, name: str, sides: Sides, *, is_work: bool) -> bool:
        """Whether the carried value takes the place of the one there. What is no person's work never conflicts."""
        there, carried = sides.there, sides.carried
        if _alike(there, carried):
            return False
        if sides.is_known:
            if not sides.is_changed_carried:
                self.only_there += 1
                return False
            if not sides.is_changed_there:
                self.only_carried += 1
                return True
        if not is_work:
            self.facts += 1
            return False
        if not sides.is_known and (_is_nothing(carried) or _is_nothing(there)):
            takes = _is_nothing(there)
            self.only_carried += takes
            self.only_there += not takes
            return takes
        return self._settled(record, name, sides) is Taken.BRING_IN

    def _settled(self, record: Record, name: str, sides: Sides) -> Taken | None:
        chosen = self.options.single.get((record.name, name))
        outcome, why = chosen or self.options.values, "chosen for this value" if chosen else "chosen for all values"
        if outcome is Taken.NEWER:
            outcome, why = _newer(record, why)
        origin = _shown(sides.was_carried) if sides.is_known else None
        shown = _shown(sides.there), _shown(sides.carried)
        why = why if outcome or chosen or self.options.values else ""
        self.conflicts.append(ValueConflict(record.name, name, *shown, origin, outcome, why))
        return outcome


def _newer(record: Record, why: str) -> tuple[Taken | None, str]:
    if record.there_ns is None or record.carried_ns is None:
        return None, "newer was chosen, and nothing tells when each was changed"
    if record.there_ns == record.carried_ns:
        return None, "newer was chosen, but both were changed at the same moment"
    return (Taken.BRING_IN if record.carried_ns > record.there_ns else Taken.KEEP), f"the newer one, {why}"


def _is_nothing(value: Cell) -> bool:
    return value is None or value in ("", b"")


def _alike(one: Cell, other: Cell) -> bool:
    return (one == other and type(one) is type(other)) or (_is_nothing(one) and _is_nothing(other))


def _shown(value: Cell) -> str:
    if isinstance(value, bytes):
        return f"{len(value)} bytes, {value[:8].hex()}..." if len(value) > 8 else value.hex()
    return "" if value is None else str(value)
