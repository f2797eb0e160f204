"""The folders that entries' files are in: what holds for a million entries is asked of their folders alone."""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter
from collections.abc import Callable, Hashable, Iterator
from functools import cached_property
from itertools import accumulate
from typing import TypeVar

from ..machines import Computer
from ..machines.texts import restored, stored
from ..paths import MachinePath, Route, RouteMap
from ..survey import SurveyStore

_Of = TypeVar("_Of", bound=Hashable)
_AT_ONCE = 10_000  # values that one question to SQLite may have
_JUST_AFTER = chr(ord("/") + 1)


class EntryFolders:
    """Folders, each with how many entries have their files right in it."""

    def __init__(
        self, survey: SurveyStore, computer: Computer, condition: str = "1", bindings: tuple[object, ...] = ()
    ) -> None:
        """Those of the entries for which an SQL condition of ours holds. They are not looked at before it is needed."""
        self._survey = survey
        self._computer = computer
        self._condition = condition
        self._bindings = bindings

    @cached_property
    def _counts(self) -> Counter[MachinePath]:
        query = f"SELECT path FROM entry WHERE path <> '' AND {self._condition}"
        separator = self._computer.system.separator
        texts = Counter(
            text[: text.rfind(separator) + 1]
            for (path,) in self._survey.database.execute(query, self._bindings)
            if (text := path if path.__class__ is str else restored(path))
        )
        counts: Counter[MachinePath] = Counter()
        for text, number in texts.items():
            counts[self._computer.parse(text)] += number
        return counts

    def __iter__(self) -> Iterator[MachinePath]:
        return iter(self._counts)

    @cached_property
    def entries(self) -> int:
        """How many entries there are in all of them."""
        return sum(self._counts.values())

    def by(self, of: Callable[[MachinePath], _Of]) -> Counter[_Of]:
        """How many entries have their files in folders of each sort."""
        found: Counter[_Of] = Counter()
        for folder, number in self._counts.items():
            found[of(folder)] += number
        return found

    def under(self, place: MachinePath) -> int:
        """How many entries have their files in a folder, however deep."""
        keys, before = self._sorted
        start = f"{self._computer.key(place)}/"
        return before[bisect_left(keys, start[:-1] + _JUST_AFTER)] - before[bisect_left(keys, start)]

    @cached_property
    def _sorted(self) -> tuple[list[str], list[int]]:
        """The keys of all folders, each with a separator behind it; and how many entries are before each of them."""
        rows = sorted((f"{self._computer.key(folder)}/", number) for folder, number in self._counts.items())
        return [key for key, _ in rows], [0, *accumulate(number for _, number in rows)]


def routes_of_single_entries(survey: SurveyStore, computer: Computer, routes: RouteMap) -> set[Route]:
    """The routes that are of the very file of an entry."""
    by_key = {stored(computer.key(route.old)): route for route in routes}
    found: set[Route] = set()
    keys = list(by_key)
    for first in range(0, len(keys), _AT_ONCE):
        some = keys[first : first + _AT_ONCE]
        marks = ", ".join("?" * len(some))
        rows = survey.database.execute(f"SELECT DISTINCT path_key FROM entry WHERE path_key IN ({marks})", some)
        found |= {by_key[key] for (key,) in rows}
    return found
