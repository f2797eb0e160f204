"""Computers that do not exist, of each system, to which one that does exist could move."""

from __future__ import annotations

from collections.abc import Container, Iterable
from dataclasses import dataclass

from ..catalogs import Entry
from ..guides import Guide, places_on
from ..machines import Computer, Sheet, Volume
from ..paths import FORMATS, USUAL_FORMAT, MachinePath, PathError, Route, RouteMap, Spelling, System, read_path
from ..split_paths import ALL_NAMES, Target, always_told, keys_around

_USER = "Rehearsal"
_FREE_LETTERS = "HIJKLMNOPQRSTUVW"


def invented(old: Computer, system: System) -> Computer:
    """A computer of a system with a volume for each one of the old computer, under names that this has not."""
    anchors = [_anchor(system, number) for number in range(len(old.volumes))]
    volumes = [_volume(anchor, number, system) for number, anchor in enumerate(anchors)]
    places = {"home": rf"{anchors[0]}Users\{{user}}"} if system is System.WINDOWS else {}
    return Computer(f"rehearsal-{system.value}", system, _USER, volumes, places)


def _volume(anchor: MachinePath, number: int, system: System) -> Volume:
    """A volume with every kind of name, since a catalog may know it by any."""
    names = f"Rehearsal {number}", f"7E57-{number:04X}", f"{number:08x}-7e57-4e57-8e57-7e577e577e57"
    label, serial, uuid = names
    return Volume(anchor, FORMATS[USUAL_FORMAT[system]], label, None, serial=serial, uuid=uuid)


def _anchor(system: System, number: int) -> MachinePath:
    if system is System.WINDOWS:
        return read_path(f"{_FREE_LETTERS[number % len(_FREE_LETTERS)]}:\\", system, Spelling.NATIVE).path
    above = "Volumes" if system is System.MACOS else f"media/{_USER}"
    return read_path("/" if number == 0 else f"/{above}/Rehearsal {number}", system, Spelling.NATIVE).path


def routes_between(old: Computer, new: Computer, guide: Guide, sheet: Sheet) -> list[Route]:
    """Where all that is on the old computer would go: places to places, and volumes to volumes."""
    pairs = {old.expand("{home}", {}): new.expand("{home}", {})}
    anchors = sorted(old.volumes, key=lambda each: len(each.anchor.parts))
    for volume, other in zip(anchors, sorted(new.volumes, key=lambda each: len(each.anchor.parts)), strict=True):
        pairs[volume.anchor] = other.anchor if other.anchor.parts else other.anchor.below("Rehearsal")
    there = _own_places(guide, old, new)
    for name, place in places_on(guide, old, sheet).items():
        pairs[place] = there.get(name) or new.expand("{home}", {}).below(f"{name} of {guide.id}")
    return [Route(one, other) for one, other in pairs.items()]


def _own_places(guide: Guide, old: Computer, new: Computer) -> dict[str, MachinePath]:
    """The guide's places on the invented computer, where its system has them; never those of the same name again."""
    texts = {name: getattr(each, new.system.value) for name, each in guide.part.places.items()}
    own = {name: text for name, text in texts.items() if text}
    found = {}
    for name in own:
        place = new.expand("{" + name + "}", own)
        if new.system is not old.system or str(place) != str(old.expand(own[name], own)):
            found[name] = place
    return found


@dataclass(slots=True)
class Routed:
    """Destinations by routes alone: no survey knows what is on a computer that does not exist."""

    old: Computer
    routes: RouteMap
    in_place: bool = False

    @classmethod
    def of_routes(cls, routes: Iterable[Route], old: Computer) -> Routed:
        """By these routes of a computer."""
        return cls(old, RouteMap(routes, old.rules_for))

    def of(self, entry: Entry) -> Target:
        """Where an entry must lead."""
        if entry.remote:
            return Target(None, None)
        try:
            path = read_path(entry.recorded, self.old.system, entry.spelling, entry.base, self.old.variables).path
        except PathError:
            return Target(None, None)
        return Target(path, self.routes.translate(path))

    def going_along(self, folder: MachinePath) -> Container[str]:
        """All in a folder that no route parts."""
        key = self.old.key(folder)
        parted = {self.old.key(route.old.parent) for route in self.routes}
        return () if key in parted or self.routes.translate(folder) is None else ALL_NAMES

    def goes_whole(self, folder: MachinePath) -> bool:
        """All in a folder that no route parts, and in those in it."""
        return self.routes.translate(folder) is not None and not self.is_parted(folder)

    def is_parted(self, folder: MachinePath) -> bool:
        """Whether a route begins in it."""
        return self.old.key(folder) in keys_around((route.old for route in self.routes), self.old)

    def left(self, entry: Entry) -> str:
        """All that no route holds."""
        return always_told(entry)

    def place_of(self, document: MachinePath) -> MachinePath | None:
        """By the routes."""
        return self.routes.translate(document)

    def goes_to(self, path: MachinePath) -> MachinePath | None:
        """By the routes, too."""
        return self.routes.translate(path)
