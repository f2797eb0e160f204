"""Propose routes from what both computers have: a guide's own places, the systems' usual ones, volumes of one label."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ..guides import Guide, places_on
from ..machines import Computer, Sheet
from ..machines.places import USUAL_PLACES
from ..paths import Route


def propose_routes(
    guides: Sequence[Guide], old: Computer, old_sheet: Sheet, new: Computer, new_sheet: Sheet
) -> list[Route]:
    """Every route that the two computers' places suggest; of two that contradict each other, the more special one."""
    chosen: dict[str, Route] = {}
    for route in _suggestions(guides, old, old_sheet, new, new_sheet):
        chosen.setdefault(old.key(route.old), route)
    return list(chosen.values())


def _suggestions(
    guides: Sequence[Guide], old: Computer, old_sheet: Sheet, new: Computer, new_sheet: Sheet
) -> Iterator[Route]:
    for guide in guides:
        theirs = places_on(guide, new, new_sheet)
        for name, place in places_on(guide, old, old_sheet).items():
            if name in theirs:
                yield Route(place, theirs[name], f"the place {{{name}}} of {guide.title}")
    for name in USUAL_PLACES[old.system]:
        yield Route(old.place(name), new.place(name), f"the place {{{name}}} on both computers")
    for volume in old.volumes:
        same = [each for each in new.volumes if each.label and each.label.casefold() == volume.label.casefold()]
        if len(same) == 1:
            why = "which travels" if volume.travels else "on both computers"
            yield Route(volume.anchor, same[0].anchor, f'the volume labelled "{volume.label}", {why}')
