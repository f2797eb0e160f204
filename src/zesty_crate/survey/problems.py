"""What is not simply found, of which there may be a million: held packed, and told one after the other."""

from __future__ import annotations

import marshal
import zlib
from collections.abc import Iterable, Iterator, Sequence
from itertools import islice
from operator import attrgetter, eq
from typing import Any, Self, overload

from .model import Problem
from .states import State

_TOGETHER = 1_000
_STATES = {state.value: state for state in State}
_fields = attrgetter("holding", "entry", "state.value", "recorded", "why", "chosen")


_KINDS = [str, str, str, str, str, bool]
Fields = tuple[str, str, str, str, str, bool]  # holding, entry, state, what is recorded, why, chosen


class Problems(Sequence[Problem]):
    """Problems in the order in which they came. They take a tenth of the room that they would take one by one."""

    def __init__(self, problems: Iterable[Problem] = ()) -> None:
        self._packed: list[bytes] = []
        self._last: list[Problem] = []
        self._number = 0
        for each in problems:
            self.add(each)

    @classmethod
    def by_state(cls, problems: Iterable[Problem], states: Iterable[State]) -> Self:
        """In the order of their states, and those of one state as they came."""
        of_each = {state: cls() for state in states}
        for each in problems:
            of_each[each.state].add(each)
        found = cls()
        for some in of_each.values():
            found._pack()
            found._packed += some._packed
            found._number += some._number - len(some._last)
            for each in some._last:
                found.add(each)
        return found

    @classmethod
    def of_fields(cls, fields: Iterable[Fields]) -> Self:
        """By the fields of each, as `blocks` gives them. Raises `ValueError` where anything is no problem."""
        left = iter(fields)
        return cls.of_blocks(iter(lambda: list(islice(left, _TOGETHER)), []))

    @classmethod
    def of_blocks(cls, blocks: Iterable[Sequence[Fields]]) -> Self:
        """What `blocks` gave. Raises `ValueError` where anything is no problem."""
        found = cls()
        for some in blocks:
            if not all(map(_is_problem, some)):
                raise ValueError("not what a problem consists of")
            found._packed.append(_packed(some))
            found._number += len(some)
        return found

    def blocks(self) -> Iterator[Sequence[Fields]]:
        """The fields of all of them as they are kept: plain texts and a truth, many at a time."""
        for packed in self._packed:
            yield marshal.loads(zlib.decompress(packed))
        if self._last:
            yield [_fields(each) for each in self._last]

    def add(self, problem: Problem) -> None:
        """Take one more."""
        self._last.append(problem)
        self._number += 1
        if len(self._last) >= _TOGETHER:
            self._pack()

    def _pack(self) -> None:
        if self._last:
            self._packed.append(_packed([_fields(each) for each in self._last]))
            self._last = []

    def __len__(self) -> int:
        return self._number

    def __iter__(self) -> Iterator[Problem]:
        for some in self.blocks():
            for holding, entry, state, recorded, why, chosen in some:
                yield Problem(holding, entry, _STATES[state], recorded, why, chosen)

    @overload
    def __getitem__(self, at: int) -> Problem: ...
    @overload
    def __getitem__(self, at: slice) -> Sequence[Problem]: ...
    def __getitem__(self, at: int | slice) -> Problem | Sequence[Problem]:
        if isinstance(at, slice):
            return list(self)[at]
        place = at if at >= 0 else at + self._number
        found = next(islice(self, place, None), None) if place >= 0 else None
        if found is None:
            raise IndexError(at)
        return found

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Sequence) and len(self) == len(other) and all(map(eq, self, other))

    __hash__ = None  # type: ignore[assignment]  # as of a list

    def __repr__(self) -> str:
        return f"Problems({list(self)!r})"


def _packed(some: Sequence[Fields]) -> bytes:
    return zlib.compress(marshal.dumps(list(some)), 1)


def _is_problem(given: Any) -> bool:
    return [*map(type, given)] == _KINDS and given[2] in _STATES
