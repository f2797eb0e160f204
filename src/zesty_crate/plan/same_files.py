"""Media of catalogs that are merged, which are on the new computer already under another name: not placed twice.

Their entries lead to the file that is there, by a route of their own, and so are one with the entry of that file.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from ..guides import HoldingKind
from ..machines import Finder
from ..machines.texts import restored
from ..paths import Route, RouteMap
from ..survey import OF_DOCUMENT, bounds_of
from .decisions import Choice, Decisions
from .move import Move

_MEDIA = f"""
SELECT DISTINCT f.path, c.sha512, c.size FROM entry AS e JOIN file AS f ON f.key = e.path_key AND f.kind = 'file'
JOIN carried AS c ON c.file = f.id WHERE e.{OF_DOCUMENT.format("e.key")} AND c.size > 0
"""
_WHY = "the same file is there already"


def routes_to_same_files(move: Move, routes: RouteMap, decisions: Decisions) -> list[Route]:
    """A route for each carried file of a merged catalog whose content is in the program's folders there, once."""
    finder = Finder(move.new, move.outside.disk)
    found: list[Route] = []
    for guide, media in _media(move, routes, decisions, finder):
        sizes = {size for _, _, size in media}
        there: dict[int, list[str]] = {}
        for path, size in _files_of(move, guide, finder):
            if size in sizes:
                there.setdefault(size, []).append(path)
        for text, sha512, size in media:
            old = move.old.parse(text)
            new = routes.translate(old)
            if new is None or finder.find(new).facts is not None or size not in there:
                continue
            alike = [path for path in there[size] if _digest(move, finder, path) == sha512]
            if len(alike) == 1:
                found.append(Route(old, move.new.parse(alike[0]), _WHY))
    return found


def _media(
    move: Move, routes: RouteMap, decisions: Decisions, finder: Finder
) -> Iterator[tuple[str, list[tuple[str, str, int]]]]:
    """The carried media of each catalog that is to be merged with one that is there, with the guide of it."""
    for document in move.survey.documents("NOT registry"):
        place = routes.translate(move.old.parse(document.path))
        if place is None or finder.find(place).facts is None:
            continue
        general = decisions.in_general(document.holding, is_catalog=True)
        if (decisions.on_item(place) or (general and general.choice)) is Choice.MERGE:
            rows = move.survey.database.execute(_MEDIA, bounds_of(document))
            yield document.holding.partition("/")[0], [(restored(path), sha512, size) for path, sha512, size in rows]


def _files_of(move: Move, guide: str, finder: Finder) -> Iterable[tuple[str, int]]:
    for holding in move.holdings_there():
        if holding.guide.id == guide and holding.part.kind is HoldingKind.MEDIA and holding.at is not None:
            for seen in finder.walk(holding.at):
                if seen.facts is not None and seen.facts.is_file:
                    yield str(seen.path), seen.facts.size_bytes


def _digest(move: Move, finder: Finder, path: str) -> str:
    real = finder.find(move.new.parse(path)).real
    return "" if real is None else move.outside.disk.digest(real).sha512
