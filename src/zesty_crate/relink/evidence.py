"""Find from evidence where folders went: which moves of a folder explain the most entries whose files are not there.

Pure: paths, names and sizes come in, and routes go out. Two files of one name, each in folders of the same names up to
some depth, vote for the move of the folder above that; what all voters have in common below it is what is said to have
gone. Of all such moves those are taken that explain most, one after the other; where another move would explain the
same as well, nothing is guessed.
"""

from __future__ import annotations

import heapq
from collections import defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from ..paths import MachinePath, Route
from ..survey import NotLookedAt
from .clues import Lost
from .matching import Matched

_MOST_CANDIDATES = 16  # files of one name; a name that more of them bear tells nothing
_RIVAL = 0.8  # a move that explains so much of what another one explains casts doubt on it
_ENOUGH_ALONE = 1.25  # two names, or one and the size
_EXAMPLES = 3


@dataclass(frozen=True, slots=True)
class FoundRoute:
    """A move of a folder, and what supports it.

    Of ``missing`` entries below the old folder it explains ``found``; at ``contradicted`` places there is a file of
    another size. ``examples`` are pairs of an old and a new path.
    """

    route: Route
    found: int
    missing: int
    contradicted: int
    examples: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class Doubt:
    """Entries that several moves explain equally well, so that none is chosen."""

    old: MachinePath
    new: tuple[MachinePath, ...]
    entries: int


@dataclass(frozen=True, slots=True)
class Evidence:
    """What was found. ``explained`` are new paths by the displaced ones; ``left`` are those that nothing explains.

    ``matched`` has, for each that no route explains, what it could be; those with a choice are among the explained.
    """

    routes: tuple[FoundRoute, ...]
    doubts: tuple[Doubt, ...]
    explained: dict[MachinePath, MachinePath]
    left: tuple[MachinePath, ...]
    matched: tuple[Matched, ...] = ()
    not_looked_at: tuple[NotLookedAt, ...] = ()


Folded = Callable[[str], str]
_Move = tuple[MachinePath, MachinePath]


class Searcher:
    """Collects files that could be what is displaced, and weighs them.

    ``folded`` gives the form in which names are compared.
    """

    def __init__(self, displaced: Iterable[Lost], folded: Folded) -> None:
        self._displaced = list({each.path: each for each in displaced}.values())
        self._folded = folded
        self._wanted = {folded(each.path.name) for each in self._displaced}
        self._by_name: defaultdict[str, list[tuple[MachinePath, int | None]]] = defaultdict(list)
        self._by_parent: defaultdict[tuple[str, str], list[tuple[MachinePath, int | None]]] = defaultdict(list)
        self._there: dict[tuple[str, ...], tuple[MachinePath, int | None]] = {}

    def see(self, path: MachinePath, size_bytes: int | None) -> None:
        """Take notice of a file, or of a folder, which has no size."""
        name = self._folded(path.name)
        if name in self._wanted and path.parts:
            seen = (path, size_bytes)
            self._there[self._key(path)] = seen
            self._by_name[name].append(seen)
            self._by_parent[self._folded(path.parent.name), name].append(seen)

    def search(self) -> Evidence:
        """Weigh all moves."""
        voters, against = self._votes()
        chooser = _Chooser(voters, against, [each.path for each in self._displaced])
        chooser.run()
        routes = chooser.taken
        explained: dict[MachinePath, MachinePath] = {}
        tally: defaultdict[MachinePath, list[int]] = defaultdict(lambda: [0, 0, 0])
        examples: defaultdict[MachinePath, list[tuple[str, str]]] = defaultdict(list)
        left = []
        for each in self._displaced:
            old = next((above for above in _upwards(each.path) if above in routes), None)
            place = None if old is None else routes[old].below(*each.path.parts[len(old.parts) :])
            there = self._there.get(self._key(place)) if place is not None else None
            fits = there is not None and agree(each.size_bytes, there[1]) is not False
            if old is not None:
                tally[old][1] += 1
                tally[old][0 if fits else 2] += there is not None
            if not fits or there is None or old is None:
                left.append(each.path)
                continue
            explained[each.path] = there[0]
            if len(examples[old]) < _EXAMPLES:
                examples[old].append((str(each.path), str(there[0])))
        found = [
            found_route(Route(old, new, "found from evidence"), tally[old], examples[old])
            for old, new in routes.items()
            if tally[old][0]
        ]
        found.sort(key=lambda each: -each.found)
        return Evidence(tuple(found), tuple(chooser.doubts), explained, tuple(left))

    def _votes(self) -> tuple[dict[_Move, dict[int, float]], dict[_Move, int]]:
        """For each move the entries that support it, with their weight; and how many contradict it."""
        voters: defaultdict[_Move, dict[int, float]] = defaultdict(dict)
        against: defaultdict[_Move, int] = defaultdict(int)
        for number, each in enumerate(self._displaced):
            for path, size in self._candidates(each.path):
                depth = self._agreement(each.path, path)
                move = _above(each.path, depth), _above(path, depth)
                fits = agree(each.size_bytes, size)
                if fits is False:
                    against[move] += 1
                elif move[0] != move[1]:
                    voters[move][number] = 1 + min(depth, 8) / 8 + (1 if fits else 0)
        return voters, against

    def _candidates(self, path: MachinePath) -> list[tuple[MachinePath, int | None]]:
        name = self._folded(path.name)
        close = self._by_parent.get((self._folded(path.parent.name), name), []) if path.parts else []
        if 0 < len(close) <= _MOST_CANDIDATES:
            return close
        everywhere = self._by_name.get(name, [])
        return everywhere if len(everywhere) <= _MOST_CANDIDATES else []

    def _agreement(self, one: MachinePath, other: MachinePath) -> int:
        """How many names the two paths have in common, from the end."""
        depth = 0
        for mine, theirs in zip(reversed(one.parts), reversed(other.parts), strict=False):
            if mine != theirs and self._folded(mine) != self._folded(theirs):
                break
            depth += 1
        return depth

    def _key(self, path: MachinePath) -> tuple[str, ...]:
        return (path.root, *(self._folded(name) for name in path.parts))


class _Chooser:
    """Chooses the moves that explain most, one after the other, each counted without what those before it explain.

    Scores only fall, so that a move is weighed again only when it comes up (lazy greedy set cover).
    """

    def __init__(
        self, voters: dict[_Move, dict[int, float]], against: dict[_Move, int], paths: list[MachinePath]
    ) -> None:
        self._voters = voters
        self._against = against
        self._paths = paths
        self._supporters: defaultdict[int, list[_Move]] = defaultdict(list)
        self._heap: list[tuple[float, str, _Move]] = []
        self._done: set[int] = set()
        self.taken: dict[MachinePath, MachinePath] = {}
        self.doubts: list[Doubt] = []
        for move in voters:
            self._enter(move, voters[move])

    def run(self) -> None:
        """Weigh every move."""
        while self._heap:
            score, text, move = heapq.heappop(self._heap)
            left = {number: weight for number, weight in self._voters[move].items() if number not in self._done}
            now = -sum(left.values())
            if left and now > score:
                heapq.heappush(self._heap, (now, text, move))
            elif _is_enough(left, self._against.get(move, 0)):
                self._take(move, left)

    def _take(self, move: _Move, left: dict[int, float]) -> None:
        names = _shared_names(move, [self._paths[number] for number in left])
        old, new = move[0].below(*names), move[1].below(*names)
        if old in self.taken:  # the rest of that folder went elsewhere: folder by folder, then
            self._voters[move] = {}  # it is no rival of what it is taken apart into
            for deeper, weights in _one_deeper(move, left, self._paths).items():
                self._voters.setdefault(deeper, {}).update(weights)
                self._enter(deeper, weights)
            return
        self._done.update(left)
        rivals = self._rivals(move, left)
        if rivals:
            others = (rival[1].below(*old.parts[len(rival[0].parts) :]) for rival in rivals)
            self.doubts.append(Doubt(old, (new, *others), len(left)))
        else:
            self.taken[old] = new

    def _enter(self, move: _Move, weights: dict[int, float]) -> None:
        for number in weights:
            self._supporters[number].append(move)
        heapq.heappush(self._heap, (-sum(self._voters[move].values()), str(move), move))

    def _rivals(self, move: _Move, left: dict[int, float]) -> list[_Move]:
        """Other moves that explain nearly as much of the same, and as well."""
        shared: defaultdict[_Move, float] = defaultdict(float)
        for number in left:
            for other in self._supporters[number]:
                if other != move:
                    shared[other] += self._voters[other].get(number, 0)
        whole = sum(left.values())
        return sorted((other for other, weight in shared.items() if weight >= _RIVAL * whole), key=str)


def _shared_names(move: _Move, paths: list[MachinePath]) -> tuple[str, ...]:
    """The folders that all of these are in below the one that a move is about: only of that is anything known."""
    depth = len(move[0].parts)
    first = paths[0].parts[depth:-1]
    shared = len(first)
    for path in paths[1:]:
        names = path.parts[depth:-1]
        shared = next((n for n, pair in enumerate(zip(first, names, strict=False)) if pair[0] != pair[1]), shared)
        shared = min(shared, len(names))
    return first[:shared]


def _one_deeper(move: _Move, weights: dict[int, float], paths: list[MachinePath]) -> dict[_Move, dict[int, float]]:
    """The same for each folder in the one that a move is about."""
    depth = len(move[0].parts)
    deeper: defaultdict[_Move, dict[int, float]] = defaultdict(dict)
    for number, weight in weights.items():
        names = paths[number].parts[depth : depth + 1]
        if names:
            deeper[move[0].below(*names), move[1].below(*names)][number] = weight
    return deeper


def found_route(route: Route, tally: list[int], examples: list[tuple[str, str]]) -> FoundRoute:
    """A route with what supports it: ``tally`` is of those found, all that are missing, and those contradicted."""
    found, missing, contradicted = tally
    return FoundRoute(route, found, missing, contradicted, tuple(examples))


def _is_enough(weights: dict[int, float], against: int) -> bool:
    """Two that agree, or one that agrees in more than its name; and more for it than against it."""
    return len(weights) > against and (len(weights) > 1 or next(iter(weights.values()), 0.0) >= _ENOUGH_ALONE)


def agree(one: int | None, other: int | None) -> bool | None:
    """Whether two sizes are the same; None where one is not known."""
    return None if one is None or other is None else one == other


def _above(path: MachinePath, depth: int) -> MachinePath:
    return MachinePath(path.system, path.root, path.parts[: len(path.parts) - depth])


def _upwards(path: MachinePath) -> Iterable[MachinePath]:
    yield path
    while path.parts:
        path = path.parent
        yield path
