"""Relink the catalogs of one computer with no crate: find where files went, keep the originals, write, prove."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import islice

from ..errors import ZestyError
from ..machines import Computer, Finder
from ..machines.texts import restored
from ..paths import Folding, MachinePath, PathError, Route, RouteMap, name_key
from ..plan import given_route
from ..progress import Progress, Tell, silent
from ..survey import State, SurveyStore
from .evidence import Displaced, Evidence, FoundRoute, Searcher, agree, found_route

_TELL_EVERY = 2_000
_MISSING = "SELECT path, size FROM entry WHERE state = ? AND path <> '' ORDER BY rowid"


def find_routes(
    store: SurveyStore,
    computer: Computer,
    finder: Finder,
    look_in: Sequence[str],
    given: Sequence[str] = (),
    tell: Tell = silent,
) -> Evidence:
    """Look in folders of a computer for the files of entries that the survey found to be missing.

    Routes that are ``given`` come first, and what is left is looked for. Raises `ZestyError` when one of the folders
    is not there, or a given route sends two entries to one file.
    """
    by_hand = _Given(computer, finder, [given_route(text, computer, computer) for text in given])
    searched = [each for each in _displaced(store, computer) if not by_hand.explains(each)]
    found = _searched(searched, computer, finder, look_in, tell)
    return Evidence(
        (*by_hand.routes(), *found.routes), found.doubts, {**found.explained, **by_hand.explained}, found.left
    )


def _searched(
    displaced: list[Displaced], computer: Computer, finder: Finder, look_in: Sequence[str], tell: Tell
) -> Evidence:
    searcher = Searcher(displaced, lambda name: name_key(name, Folding.CANONICAL_CASELESS))
    seen = 0
    for top in _tops(computer, finder, look_in):
        for each in finder.walk(top):
            if each.facts is not None:
                searcher.see(each.path, each.facts.size_bytes if each.facts.is_file else None)
            seen += 1
            if seen % _TELL_EVERY == 0:
                tell(Progress("looking for files", seen))
    return searcher.search()


class _Given:
    """Routes of a technician's own: a file must be there, with the size that the catalog records."""

    def __init__(self, computer: Computer, finder: Finder, routes: list[Route]) -> None:
        self._computer = computer
        self._finder = finder
        self._map = RouteMap(routes, computer.rules_for)
        self._tally: dict[Route, list[int]] = {route: [0, 0, 0] for route in routes}
        self._taken: dict[str, MachinePath] = {}
        self.explained: dict[MachinePath, MachinePath] = {}

    def explains(self, displaced: Displaced) -> bool:
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
        """Each route with what speaks for it."""
        for route, tally in self._tally.items():
            pairs = ((old, new) for old, new in self.explained.items() if self._map.route_for(old) == route)
            yield found_route(route, tally, [(str(old), str(new)) for old, new in islice(pairs, 3)])

    def _take(self, old: MachinePath, new: MachinePath) -> None:
        first = self._taken.setdefault(self._computer.key(new), old)
        if self._computer.key(first) != self._computer.key(old):
            raise ZestyError(
                f"The routes that were given send two entries to {new}.",
                details=[str(first), str(old)],
                next_step="Give a route for one of them that leads elsewhere.",
            )
        self.explained[old] = new


def catalogs_concerned(store: SurveyStore, computer: Computer, evidence: Evidence) -> tuple[str, ...]:
    """The holdings whose catalogs have entries that the evidence explains."""
    keys = {computer.key(path) for path in evidence.explained}
    query = "SELECT DISTINCT holding, path_key FROM entry WHERE state = ? AND path <> ''"
    rows = store.database.execute(query, (State.MISSING_BEFORE,))
    return tuple(sorted({holding for holding, key in rows if restored(key) in keys}))


def _displaced(store: SurveyStore, computer: Computer) -> Iterator[Displaced]:
    for path, size in store.database.execute(_MISSING, (State.MISSING_BEFORE,)):
        yield Displaced(computer.parse(restored(path)), size)


def _tops(computer: Computer, finder: Finder, look_in: Sequence[str]) -> Iterator[MachinePath]:
    for text in look_in:
        try:
            top = computer.parse(text)
        except PathError as error:
            raise ZestyError(
                f"{text!r} is no path of {computer.name}: {error.message}",
                next_step=f"Write the folder as {computer.name} ({computer.system}) writes it.",
            ) from error
        seen = finder.find(top)
        if seen.facts is None or seen.facts.kind != "folder":
            raise ZestyError(f"There is no folder {top} on {computer.name}.", next_step="Name one that is there.")
        yield seen.path
