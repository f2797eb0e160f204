"""A computer as a sheet describes it: its volumes, its places, and the way from its own paths to files from here."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path

from ..errors import ZestyError
from ..paths import (
    FORMATS,
    USUAL_FORMAT,
    Folding,
    MachinePath,
    NamedVolume,
    NameRules,
    PathError,
    Spelling,
    System,
    Variables,
    name_key,
    path_key,
    read_path,
)
from .places import USUAL_PLACES, VARIABLES
from .sheet import Sheet

_REMEMBERED_FOLDERS = 20_000
_PLACE = re.compile(r"\{([a-z0-9-]+)\}")


@dataclass(frozen=True, slots=True)
class Volume:
    """A disk or share of a computer; ``mount`` is where its files are from here, None while it is not connected.

    One that ``travels`` goes along to the new computer itself.
    """

    anchor: MachinePath
    rules: NameRules
    label: str
    mount: Path | None
    travels: bool = False
    serial: str = ""
    uuid: str = ""

    def is_same_as(self, other: Volume) -> bool:
        """Whether two computers mean one volume: by its UUID or serial where both know one, else by its label."""
        if self.uuid and other.uuid:
            return self.uuid.lower() == other.uuid.lower()
        if self.serial and other.serial:  # Windows shows the second half of what is on the disk
            mine, theirs = (each.replace("-", "").lower()[-8:] for each in (self.serial, other.serial))
            return mine == theirs
        return bool(self.label) and self.label.casefold() == other.label.casefold()


class Computer:
    """One computer. Its paths are `MachinePath` values; only `mounted` turns one into a path that can be opened."""

    def __init__(self, name: str, system: System, user: str, volumes: list[Volume], places: Mapping[str, str]) -> None:
        self.name = name
        self.system = system
        self.user = user
        self.volumes = sorted(volumes, key=lambda volume: -len(volume.anchor.parts))
        self._places = places
        self._folder_keys: dict[tuple[str, tuple[str, ...]], tuple[str, Folding]] = {}
        self._usual_rules = FORMATS[USUAL_FORMAT[system]]
        self._templates = {**USUAL_PLACES[system], **places, "user": user}

    def mounted_at(self, mounts: Mapping[MachinePath, Path]) -> Computer:
        """The same computer with its volumes, by their anchors, mounted elsewhere."""
        volumes = [replace(each, mount=mounts[each.anchor]) for each in self.volumes]
        return Computer(self.name, self.system, self.user, volumes, self._places)

    def volume_of(self, path: MachinePath) -> Volume | None:
        """The volume that holds ``path`` (the one with the deepest anchor), or None when it has no such volume."""
        return next((volume for volume in self.volumes if _holds(volume, path)), None)

    def mounts_in(self, folder: MachinePath) -> bool:
        """Whether a volume is mounted under a name in ``folder``, however that is written."""
        depth = len(folder.parts)
        inner = (each for each in self.volumes if len(each.anchor.parts) == depth + 1)
        return any(_holds(each, folder.below(each.anchor.name)) for each in inner)

    def same_volume(self, volume: Volume) -> Volume | None:
        """The one volume of this computer that is a ``volume`` of another one, under whatever letter."""
        same = [each for each in self.volumes if each.is_same_as(volume)]
        return same[0] if len(same) == 1 else None

    def anchor_of(self, path: MachinePath) -> str:
        """The volume of ``path`` for people, without a separator at its end."""
        volume = self.volume_of(path)
        return str(volume.anchor if volume else path._replace(parts=())).rstrip("\\") or "/"

    def travels(self, path: MachinePath) -> bool:
        """Whether ``path`` is on a drive that itself goes along to the new computer."""
        volume = self.volume_of(path)
        return volume is not None and volume.travels

    def rules_for(self, path: MachinePath) -> NameRules:
        """What the volume of ``path`` makes of names."""
        volume = self.volume_of(path)
        return volume.rules if volume else self._usual_rules

    def key(self, path: MachinePath) -> str:
        """The key under which ``path`` is looked up. The key of its folder is remembered: files come by folders."""
        if not path.parts:
            return path_key(path, self.rules_for(path))
        key, folding = self.folder_key(path)
        return f"{key}/{name_key(path.parts[-1], folding)}"

    def folder_key(self, path: MachinePath) -> tuple[str, Folding]:
        """The key of the folder of ``path``, and how names in it are folded."""
        folder = (path.root, path.parts[:-1])
        known = self._folder_keys.get(folder)
        if known is None:
            if len(self._folder_keys) >= _REMEMBERED_FOLDERS:
                self._folder_keys.clear()
            rules = self.rules_for(path)
            known = self._folder_keys[folder] = (path_key(path.parent, rules), rules.folding)
        return known

    def mounted(self, path: MachinePath) -> Path | None:
        """Where ``path`` is from here, spelled as it is written; None when its volume is not here."""
        volume = self.volume_of(path)
        if volume is None or volume.mount is None:
            return None
        return volume.mount.joinpath(*path.parts[len(volume.anchor.parts) :])

    def path_of(self, real: Path) -> MachinePath | None:
        """What this computer calls a place from here; None when it is on none of its volumes."""
        for volume in self.volumes:  # those with deeper anchors first
            if volume.mount is not None and real.is_relative_to(volume.mount):
                return volume.anchor.below(*real.relative_to(volume.mount).parts)
        return None

    def parse(self, text: str) -> MachinePath:
        """Read a native path of this computer."""
        return read_path(text, self.system, Spelling.NATIVE).path

    def parse_all(self, texts: Iterable[str]) -> Iterator[MachinePath]:
        """Read native paths of this computer that come by folders, each of which is read once."""
        separator, known, folder = self.system.separator, None, MachinePath(self.system, "")
        for text in texts:
            start, cut, name = text.rpartition(separator)
            if name in ("", ".", "..") or "/" in name:
                yield self.parse(text)
                continue
            if start != known:
                known, folder = start, self.parse(start + cut)
            yield MachinePath(folder.system, folder.root, (*folder.parts, name))

    def place(self, name: str) -> MachinePath:
        """A named place of this computer."""
        return self.expand("{" + name + "}")

    @cached_property
    def variables(self) -> Variables:
        """What variables in recorded paths represent."""
        values = {name: self.place(place) for name, place in VARIABLES[self.system].items()}
        return Variables(values, tuple(NamedVolume(v.anchor, v.label, v.serial, v.uuid) for v in self.volumes))

    def expand(self, template: str, more: Mapping[str, str] | None = None) -> MachinePath:
        """A template such as ``{music}/Wimblethorn Sounds`` as a path; ``more`` adds a guide's own places.

        Raises `ZestyError` for a place that is not known, that goes in circles, or a result that is no path.
        """
        text = self._filled(template, {**self._templates, **(more or {})}, ())
        try:
            return self.parse(text)
        except PathError as error:
            raise ZestyError(
                f"The place {template!r} of {self.name} becomes {text!r}, which is not a path of a {self.system} "
                "computer.",
                next_step="Correct the place in the sheet or the guide.",
            ) from error

    def _filled(self, template: str, places: Mapping[str, str], inside: tuple[str, ...]) -> str:
        def fill(match: re.Match[str]) -> str:
            name = match.group(1)
            if name not in places or name in inside:
                fault = "refers to itself" if name in inside else f"is not known on {self.name}"
                raise ZestyError(
                    f"The place {{{name}}} {fault}.", next_step=f"Known places are {', '.join(sorted(places))}."
                )
            return self._filled(places[name], places, (*inside, name)).rstrip("\\/")

        return _PLACE.sub(fill, template)


def computer_of(sheet: Sheet) -> Computer:
    """The computer that a sheet describes. Raises `ZestyError` when an anchor is no path of its system."""
    part, system = sheet.part, sheet.system
    volumes = []
    for each in part.volume:
        text = each.anchor + "\\" if system is System.WINDOWS and each.anchor[-1] not in "\\/" else each.anchor
        try:
            anchor = read_path(text, system, Spelling.NATIVE).path
        except PathError as error:
            raise ZestyError(
                f"The anchor {each.anchor!r} in the sheet of {part.computer.name} is not a {system} path.",
                next_step='Write a drive letter ("E:") on Windows, and a mount point ("/Volumes/Spools") elsewhere.',
            ) from error
        rules = FORMATS[each.format or USUAL_FORMAT[system]]
        mount = None if each.mount is None else sheet.folder / each.mount
        volumes.append(Volume(anchor, rules, each.label, mount, each.travels, each.serial, each.uuid))
    return Computer(part.computer.name, system, part.computer.user, volumes, part.places)


def _holds(volume: Volume, path: MachinePath) -> bool:
    anchor = volume.anchor
    if anchor.root != path.root and anchor.root.upper() != path.root.upper():
        return False
    if not anchor.parts:
        return True
    if len(anchor.parts) > len(path.parts):
        return False
    folding = volume.rules.folding
    return all(name_key(a, folding) == name_key(b, folding) for a, b in zip(anchor.parts, path.parts, strict=False))
