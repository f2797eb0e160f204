"""Relink the catalogs of one computer with no crate: find where files went, keep the originals, write, prove."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import islice

from ..errors import ZestyError
from ..machines import Computer, Disk, Finder, Sight, require_in_reach
from ..machines.texts import restored
from ..media import MediaFacts
from ..paths import Folding, MachinePath, PathError, Route, RouteMap, name_key
from ..plan import given_route
from ..progress import Progress, Tell, silent
from ..survey import NotLookedAt, State, SurveyStore
from .clues import Lost
from .evidence import Evidence, FoundRoute, Searcher, agree, found_route
from .matching import Matched
from .one_by_one import match_one_by_one

_TELL_EVERY = 2_000
_CLUES = ("size", "content", "modified_ns", "duration_s", "width", "height")
# Several catalogs may know of one file; what they do not agree on, nobody knows.
_AGREED = ", ".join(f"CASE WHEN min({each}) = max({each}) THEN max({each}) END" for each in _CLUES)
_GONE = f"state IN ('{State.MISSING_BEFORE}', '{State.UNPLUGGED}') AND path <> ''"
_LOST = (
    f"SELECT path, {_AGREED} FROM (SELECT rowid, path, path_key, size, nullif(content, '') AS content, modified_ns, "
    f"duration_s, width, height FROM entry WHERE {_GONE}) GROUP BY path_key ORDER BY min(rowid)"
)


@dataclass(frozen=True, slots=True)
class Given:
    """What a technician knows already: routes as ``OLD=NEW``, and by their old paths the files decided one by one.

    Those decided to be left have no new path.
    """

    routes: Sequence[str] = ()
    decided: Mapping[MachinePath, MachinePath | None] = field(default_factory=dict)


NOTHING_GIVEN = Given()


def find_routes(
    store: SurveyStore,
    finder: Finder,
    disk: Disk,
    look_in: Sequence[str],
    given: Given = NOTHING_GIVEN,
    tell: Tell = silent,
) -> Evidence:
    """Look in folders of a computer for the files of entries that the survey found to be missing.

    What is ``given`` comes first; what is left is looked for by routes, and then one by one. Raises `ZestyError` when
    one of the folders is not there, or a given route sends two entries to one file.
    """
    computer = finder.computer
    given_routes = _GivenRoutes(computer, finder, [given_route(text, computer, computer) for text in given.routes])
    lost = [each for each in lost_files(store, computer) if each.path not in given.decided]
    unexplained = [each for each in lost if not given_routes.explains(each)]
    found = _searched(unexplained, finder, look_in, tell)
    left = set(found.left)
    matched = match_one_by_one(
        [each for each in unexplained if each.path in left], finder, disk, _tops(finder, look_in), tell
    )
    matched = [_left_in_doubt(each, found) for each in matched]
    sure = {each.lost.path: each.choice.path for each in matched if each.choice is not None}
    decided = {old: new for old, new in given.decided.items() if new is not None}
    stays = [old for old, new in given.decided.items() if new is None]
    explained = {**found.explained, **given_routes.explained, **sure, **decided}
    left_over = (*(path for path in found.left if path not in sure), *stays)
    routes = *given_routes.routes(), *found.routes
    return Evidence(routes, found.doubts, explained, left_over, tuple(matched), found.not_looked_at)


def _left_in_doubt(matched: Matched, evidence: Evidence) -> Matched:
    """Of a folder that could be in several places, single files are not chosen either."""
    path = matched.lost.path
    doubtful = any(
        each.old.root == path.root and path.parts[: len(each.old.parts)] == each.old.parts for each in evidence.doubts
    )
    return replace(matched, choice=None) if doubtful else matched


def _searched(displaced: list[Lost], finder: Finder, look_in: Sequence[str], tell: Tell) -> Evidence:
    searcher = Searcher(displaced, lambda name: name_key(name, Folding.CANONICAL_CASELESS))
    seen, denied = 0, list[NotLookedAt]()
    for top in _tops(finder, look_in):
        for each in finder.walk(top):
            if each.facts is not None:
                searcher.see(each.path, each.facts.size_bytes if each.facts.is_file else None)
            elif each.sight is Sight.DENIED:
                denied.append(NotLookedAt(str(each.path), each.why))
            seen += 1
            if seen % _TELL_EVERY == 0:
                tell(Progress("looking for files", seen))
    return replace(searcher.search(), not_looked_at=tuple(denied))


class _GivenRoutes:
    """Routes of a technician's own: a file must be there, with the size that the catalog records."""

    def __init__(self, computer: Computer, finder: Finder, routes: list[Route]) -> None:
        self._computer = computer
        self._finder = finder
        self._map = RouteMap(routes, computer.rules_for)
        self._tally: dict[Route, list[int]] = {route: [0, 0, 0] for route in routes}
        self._taken: dict[str, MachinePath] = {}
        self.explained: dict[MachinePath, MachinePath] = {}

    def explains(self, displaced: Lost) -> bool:
        """Whether one of the routes leads to a file that can be it."""
        route = self._map.route_for(displaced.path)
        if route is None:
            return False
        seen = self._finder.find(route.apply(displaced.path))
        tally = self._tally[route]
        tally[1] += 1
        if seen.facts is None:
            return False
        fits = agree(displaced.size_bytes, seen.facts.size_bytes if seen.facts.is_file else None) is not False
        tally[0 if fits else 2] += 1
        if fits:
            self._take(displaced.path, seen.path)
        return fits

    def routes(self) -> Iterator[FoundRoute]:
        """Each route with what supports it."""
        for route, tally in self._tally.items():
            pairs = ((old, new) for old, new in self.explained.items() if self._map.route_for(old) == route)
            yield found_route(route, tally, [(str(old), str(new)) for old, new in islice(pairs, 3)])

    def _take(self, old: MachinePath, new: MachinePath) -> None:
        first = self._taken.setdefault(self._computer.key(new), old)
        if self._computer.key(first) != self._computer.key(old):
            raise ZestyError(
                f"Two of the given routes send different entries to {new}.",
                details=[str(first), str(old)],
                next_step="Change the route for one of them.",
            )
        self.explained[old] = new


def catalogs_concerned(store: SurveyStore, computer: Computer, evidence: Evidence) -> tuple[str, ...]:
    """The holdings whose catalogs have entries that the evidence explains."""
    keys = {computer.key(path) for path in evidence.explained}
    rows = store.database.execute(f"SELECT DISTINCT holding, path_key FROM entry WHERE {_GONE}")
    return tuple(sorted({holding for holding, key in rows if restored(key) in keys}))


def found_files(store: SurveyStore) -> frozenset[str]:
    """The keys of all files that entries find."""
    rows = store.database.execute("SELECT path_key FROM entry WHERE state IN ('found', 'outside', 'changed')")
    return frozenset(restored(row[0]) for row in rows)


def lost_files(store: SurveyStore, computer: Computer) -> Iterator[Lost]:
    """The files of all entries that the survey found to be missing, each once.

    What is on a volume that this computer knows, and that is only not connected, is not missing. One that it does not
    know, such as another letter, will never be connected.
    """
    for text, size, content, modified_ns, duration_s, width, height in store.database.execute(_LOST):
        path, media = (
            computer.parse(restored(text)),
            MediaFacts(duration_s, (width, height) if width and height else None),
        )
        volume = computer.volume_of(path)
        if volume is None or volume.mount is not None:
            yield Lost(path, size, content or "", modified_ns, media)


def _tops(finder: Finder, look_in: Sequence[str]) -> Iterator[MachinePath]:
    computer = finder.computer
    for text in look_in:
        try:
            top = computer.parse(text)
        except PathError as error:
            raise ZestyError(
                f"{text!r} is not a path of {computer.name}: {error.message}",
                next_step=f"Write the folder as on {computer.name} ({computer.system}).",
            ) from error
        seen = finder.find(top)
        require_in_reach(seen, computer)
        if seen.facts is None or seen.facts.kind != "folder":
            raise ZestyError(f"There is no folder {top} on {computer.name}.", next_step="Name an existing folder.")
        yield seen.path
