"""What catalogs of one computer could not say, before anything is moved or written there."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from ..catalogs import syntax_of
from ..guides import Guide, holdings_on
from ..machines import Finder, Outside, Sheet, own_folder
from ..split_paths import Destinations, Unsayable, unsayable
from ..survey import SurveyStore, based


@dataclass(frozen=True, slots=True)
class LeftBehind:
    """A catalog by its title and place, and the entries of which it cannot say where they go."""

    title: str
    at: str
    left: Unsayable

    @property
    def helps(self) -> str:
        """What helps."""
        rows = "" if self.left.may_add else ", or allow new rows in the guide (may-add = true)"
        return f"Move all of {self.left.root or 'what the catalog refers to'} together{rows}."


def left_behind(
    store: SurveyStore,
    holdings: Collection[str],
    computer: tuple[Sheet, Finder],
    guides: Sequence[Guide],
    destinations: Destinations,
    outside: Outside,
    scratch: Path,
) -> list[LeftBehind]:
    """The catalogs of these ``holdings`` that could not say where some entries go. Raises `CatalogError`.

    ``computer`` is its sheet, and what looks at it; working copies go into ``scratch``.
    """
    sheet, finder = computer
    all_of = (each for guide in guides for each in holdings_on(guide, finder.computer, sheet))
    known = {each.id: each for each in based(all_of, store.bases(), finder.computer)}
    found = []
    for document in store.documents("NOT registry"):
        holding = known.get(document.holding)
        at = finder.computer.parse(document.path)
        place, seen = destinations.place_of(at), finder.follow(finder.find(at))
        is_split = holding is not None and any(len(each.path) > 1 for each in holding.part.entries)
        if holding is None or document.holding not in holdings or not is_split or place is None or seen.real is None:
            continue
        with (
            own_folder(outside, scratch, "look") as work,
            closing(syntax_of(holding.part).open(seen.real, holding.part, at, outside.disk, work)) as catalog,
        ):
            left = unsayable(holding.part, catalog, destinations, (finder.computer, finder.computer), place)
        if left is not None:
            found.append(LeftBehind(holding.title, document.path, left))
    return found
