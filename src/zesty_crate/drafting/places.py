"""Where things are, in the words of a guide: usual places, the program's own, the folders in which its media are."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from ..machines import Computer
from ..machines.places import USUAL_PLACES
from ..media.facts import PICTURES, SOUNDS
from ..paths import MachinePath, System

_NOT_FOR_GUIDES = ("temp", "programs")
_OF_PEOPLE = ("home", "documents", "pictures", "music", "movies", "desktop", "downloads", "")
_NOT_THEMSELVES = ("home", "app-data", "app-data-local", "shared-data", "config", "preferences", "programs", "temp")


@dataclass(frozen=True, slots=True)
class Templates:
    """Writes paths of one computer by its usual places, and by places of the guide's own."""

    computer: Computer
    own: Mapping[str, MachinePath]

    def of(self, path: MachinePath) -> str:
        """The shortest template of a path; the path itself where no place is around it."""
        name, place = self._place_around(path)
        if not name:
            return str(path)
        rest = path.parts[len(place.parts) :]
        return "/".join((f"{{{name}}}", *rest))

    def _place_around(self, path: MachinePath) -> tuple[str, MachinePath]:
        computer, found = self.computer, ("", path)
        deepest = -1
        usual = {name: computer.place(name) for name in USUAL_PLACES[computer.system] if name not in _NOT_FOR_GUIDES}
        for name, place in (*self.own.items(), *usual.items()):
            if len(place.parts) > deepest and self.is_within(path, place):
                found, deepest = (name, place), len(place.parts)
        return found

    def is_within(self, path: MachinePath, folder: MachinePath) -> bool:
        """Whether a path is a folder, or something below it."""
        key, outer = self.computer.key(path), self.computer.key(folder)
        return key == outer or key.startswith(outer.rstrip("/") + "/")

    def is_a_place(self, path: MachinePath) -> bool:
        """Whether a path is a usual place itself, or the top of a volume."""
        key = self.computer.key(path)
        if any(key == self.computer.key(volume.anchor) for volume in self.computer.volumes):
            return True
        return any(key == self.computer.key(self.computer.place(name)) for name in USUAL_PLACES[self.computer.system])

    def is_shared_place(self, path: MachinePath) -> bool:
        """Whether a path is a place that no program has for itself, such as the home."""
        key = self.computer.key(path)
        places = (self.computer.place(name) for name in _NOT_THEMSELVES)
        tops = (volume.anchor for volume in self.computer.volumes)
        return any(key == self.computer.key(each) for each in (*places, *tops))

    def is_for_people(self, path: MachinePath) -> bool:
        """Whether a path is where people keep their own things, and not in a program's folder."""
        name, _ = Templates(self.computer, {})._place_around(path)
        return name in _OF_PEOPLE

    def own_places(self) -> dict[str, dict[str, str]]:
        """The guide's own places on all three systems: here as they are, elsewhere in the same usual place."""
        outer = Templates(self.computer, {})
        found = {}
        for name, path in self.own.items():
            template = outer.of(path)
            is_usual = template.startswith("{")
            mine = template if not is_usual else template.replace("/", "\\" if self._is_windows else "/")
            proposed = {str(each): template for each in System} if is_usual else {}
            found[name] = {**proposed, str(self.computer.system): mine}
        return found

    @property
    def _is_windows(self) -> bool:
        return self.computer.system is System.WINDOWS


def usual_place_of(ending: str) -> str:
    """The usual place for media of an ending."""
    return "music" if f".{ending}" in SOUNDS else "pictures" if f".{ending}" in PICTURES else "movies"


def media_folders(templates: Templates, files: Iterable[MachinePath]) -> dict[MachinePath, int]:
    """The folders in which files are, one for each place, with how many are in each: the deepest that holds them all.

    Files right in a usual place are in no folder of their own, and counted with that place.
    """
    by_top: defaultdict[MachinePath, list[MachinePath]] = defaultdict(list)
    computer = templates.computer
    for path in files:
        _, place = templates._place_around(path)
        volume = computer.volume_of(path)
        if place == path or len(path.parts) <= len(place.parts):
            place = volume.anchor if volume is not None else path._replace(parts=())
        if computer.key(place) == computer.key(computer.place("home")) and len(path.parts) > len(place.parts) + 1:
            place = place.below(path.parts[len(place.parts)])
        depth = min(len(place.parts) + 1, len(path.parts) - 1)
        by_top[path._replace(parts=path.parts[:depth])].append(path)
    return {_common([each.parent for each in paths]): len(paths) for paths in by_top.values()}


def _common(folders: Sequence[MachinePath]) -> MachinePath:
    first, *others = folders
    depth = len(first.parts)
    for each in others:
        depth = min(depth, len(each.parts))
        while first.parts[:depth] != each.parts[:depth]:
            depth -= 1
    return first._replace(parts=first.parts[:depth])
