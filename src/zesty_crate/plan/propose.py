"""Propose routes from what both computers have: a guide's own places, the systems' usual ones, volumes of one label."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from ..guides import Guide, places_on
from ..machines import Computer, Sheet, Volume
from ..machines.places import USUAL_PLACES
from ..paths import MachinePath, Route, RouteMap
from ..survey import PastLinks, SurveyStore, followed_links


def propose_routes(
    guides: Sequence[Guide], old: Computer, old_sheet: Sheet, new: Computer, new_sheet: Sheet
) -> list[Route]:
    """Every route that the two computers' places suggest; of two that contradict each other, the more special one."""
    chosen: dict[str, Route] = {}
    for route in _suggestions(guides, old, old_sheet, new, new_sheet):
        chosen.setdefault(old.key(route.old), route)
    return list(chosen.values())


def link_routes(survey: SurveyStore, old: Computer, routes: Sequence[Route]) -> Iterator[Route]:
    """For what links lead to: it goes where the links would be, unless it has a route or its drive travels."""
    past = PastLinks(survey, old)
    for route in routes:
        if (true := past.of(route.old)) != route.old and not old.travels(true):
            yield replace(route, old=true, why=f"where {route.old} leads by a link; {route.why}")
    places = RouteMap(routes, old.rules_for)
    for link in followed_links(survey):
        target = old.parse(link.leads_to)
        new = places.translate(past.of(old.parse(link.at))) or places.translate(old.parse(link.at))
        if new is not None and places.translate(target) is None and not old.travels(target):
            yield Route(target, new, f"where the link {link.at} leads")


def _suggestions(
    guides: Sequence[Guide], old: Computer, old_sheet: Sheet, new: Computer, new_sheet: Sheet
) -> Iterator[Route]:
    for guide in guides:
        theirs = places_on(guide, new, new_sheet)
        for name, place in places_on(guide, old, old_sheet).items():
            if name in theirs and not _is_left_behind(place, theirs[name], old, new):
                yield Route(place, theirs[name], f"the place {{{name}}} of {guide.title}")
    for name in USUAL_PLACES[old.system]:
        yield Route(old.place(name), new.place(name), f"the place {{{name}}} on both computers")
    for volume in old.volumes:
        same = _same_label(volume, new)
        if same is not None:
            why = "which travels" if volume.travels else "on both computers"
            yield Route(volume.anchor, same.anchor, f'the volume labelled "{volume.label}", {why}')


def _same_label(volume: Volume, new: Computer) -> Volume | None:
    """The one volume of the new computer with this volume's label."""
    same = [each for each in new.volumes if each.label and each.label.casefold() == volume.label.casefold()]
    return same[0] if len(same) == 1 else None


def _is_left_behind(place: MachinePath, theirs: MachinePath, old: Computer, new: Computer) -> bool:
    """Whether a guide's fixed place is on a volume that has another letter now, where its label tells."""
    volume = old.volume_of(place)
    same = _same_label(volume, new) if volume is not None else None
    return same is not None and theirs == place and new.volume_of(theirs) is not same
