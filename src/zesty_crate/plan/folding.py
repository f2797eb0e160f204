"""Fold in: give strays and outside media a home below the library's own folder, by routes that a person can read."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import count

from ..guides import Guide, Holding, HoldingKind, holdings_on
from ..machines import Computer, Finder, Sheet
from ..machines.texts import restored
from ..paths import MachinePath, Route, before_ending, fitting_name
from ..survey import SurveyStore

HOME = "Folded in"
_CARRIED = """
SELECT f.path, f.holding, f.role = 'outside' OR (h.swept AND h.kind = 'media') FROM carried AS c
JOIN file AS f ON f.id = c.file LEFT JOIN holding AS h ON h.id = f.holding
"""


def fold_in(
    survey: SurveyStore, guides: tuple[Guide, ...], old: Computer, new: Computer, sheet: Sheet, finder: Finder
) -> list[Route]:
    """A route for each folder with nothing in it but such media, and for each such file in other folders.

    What belongs to a program without a library of its own stays on the other routes.
    """
    homes = {guide.id: home for guide in guides if (home := _library(guide, new, sheet)) is not None}
    folded, mixed = _sorted_out(survey, old, homes)
    routes: list[Route] = []
    names = _FreeNames(new, finder)
    whole = _outermost(folded, mixed)
    for folder, guide in whole.items():
        routes.append(
            Route(
                folder, names.free(homes[guide].below(HOME), folder.name), "folding in, the whole folder", manual=True
            )
        )
    for folder, files in folded.items():
        if folder not in whole and not any(above in whole for above in _above(folder)):
            for path, guide in files:
                routes.append(Route(path, names.free(homes[guide].below(HOME), path.name), "folding in", manual=True))
    return routes


def _library(guide: Guide, new: Computer, sheet: Sheet) -> MachinePath | None:
    """The program's first folder of media of its own on the new computer."""
    fit = (each for each in holdings_on(guide, new, sheet) if _is_library(each))
    return next((each.at for each in fit), None)


def _is_library(holding: Holding) -> bool:
    part = holding.part
    return (
        holding.kind is HoldingKind.MEDIA
        and not holding.has_several
        and not part.is_regenerable
        and "**" not in part.factory
    )


Folded = dict[MachinePath, list[tuple[MachinePath, str]]]


def _sorted_out(survey: SurveyStore, old: Computer, homes: dict[str, MachinePath]) -> tuple[Folded, set[MachinePath]]:
    """The files to fold in, by folder; and all folders that have something else in them, however deep."""
    folded: Folded = {}
    mixed: set[MachinePath] = set()
    for text, holding, stray in survey.database.execute(_CARRIED):
        path, guide = old.parse(restored(text)), holding.partition("/")[0]
        if stray and guide in homes:
            folded.setdefault(path.parent, []).append((path, guide))
        else:
            mixed.update(each for each in _above(path) if each not in mixed)
    return folded, mixed


def _outermost(folded: Folded, mixed: set[MachinePath]) -> dict[MachinePath, str]:
    """The folders that go as a whole: of one program, with nothing else in them, and in no other such folder."""
    pure = {
        folder: files[0][1]
        for folder, files in folded.items()
        if folder.parts and folder not in mixed and len({guide for _, guide in files}) == 1
    }
    return {
        folder: guide
        for folder, guide in pure.items()
        if not any(above in pure for above in _above(folder))
        and all(pure.get(inner) == guide for inner in folded if folder in _above(inner))
    }


def _above(path: MachinePath) -> Iterator[MachinePath]:
    while path.parts:
        path = path.parent
        yield path


class _FreeNames:
    """Names that nothing has yet in a folder, neither on the computer nor among those given."""

    def __init__(self, new: Computer, finder: Finder) -> None:
        self._new = new
        self._finder = finder
        self._taken: set[str] = set()

    def free(self, folder: MachinePath, name: str) -> MachinePath:
        rules = self._new.rules_for(folder)
        for number in count(1):
            wish = before_ending(name, f" ({number})") if number > 1 else name
            path = folder.below(fitting_name(wish, rules))
            key = self._new.key(path)
            if key not in self._taken and self._finder.find(path).facts is None:
                self._taken.add(key)
                return path
        raise AssertionError("there is always a next number")
