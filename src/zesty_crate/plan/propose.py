"""Propose routes from what both computers have: a guide's own places, the systems' usual ones, volumes of one label."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from ..guides import Guide, places_on
from ..machines import Computer, Sheet
from ..machines.places import USUAL_PLACES
from ..paths import MachinePath, Route, RouteMap
from ..survey import PastLinks, SurveyStore, followed_links
from .mount_points import mount_point


def propose_routes(
    guides: Sequence[Guide], old: Computer, old_sheet: Sheet, new: Computer, new_sheet: Sheet
) -> list[Route]:
    """Every route that the two computers' places suggest; of two that contradict each other, the more special one.

    None leads to a volume that the new computer does not have.
    """
    chosen: dict[str, Route] = {}
    for route in _suggestions(guides, old, old_sheet, new, new_sheet):
        if new.volume_of(route.new) is not None and mount_point(route.new, new) is None:
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
        same = new.same_volume(volume)
        if same is not None:
            why = "which travels" if volume.travels else "on both computers"
            called = f'labelled "{volume.label}"' if volume.label else volume.serial or volume.uuid
            yield Route(volume.anchor, same.anchor, f"the volume {called}, {why}")


def _is_left_behind(place: MachinePath, theirs: MachinePath, old: Computer, new: Computer) -> bool:
    """Whether a guide's fixed place is on a volume that has another letter now, where its label tells."""
    volume = old.volume_of(place)
    same = new.same_volume(volume) if volume is not None else None
    return same is not None and theirs == place and new.volume_of(theirs) is not same
