"""From a computer's own paths to spots in a journal, and from those to files from here."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path, PurePosixPath

from ..errors import ZestyError
from ..machines import Computer, Disk, Finder, Seen, Sight
from ..paths import MachinePath
from .model import Location

_REMEMBERED_FOLDERS = 20_000
_path = lru_cache(maxsize=4_096)(Path)  # of one file it is asked several times


class Locations:
    """The spots of one computer. They hold no mount, so a journal stays true when the disk is mounted elsewhere."""

    def __init__(self, computer: Computer) -> None:
        self._computer = computer
        self._mounts = {str(volume.anchor): volume.mount for volume in computer.volumes}
        self._folders: dict[tuple[str, str], tuple[Path, str]] = {}
        self._known: dict[MachinePath, Location] = {}

    def at(self, finder: Finder, path: MachinePath, seen: Seen | None = None) -> Location:
        """The spot where ``path`` is or would be, below folders under their real names.

        ``seen`` is what was found there, where it was looked for already. Raises `ZestyError` when its volume is not
        here.
        """
        folder = path.parent
        known = self._known.get(folder)
        if known is not None:  # files come by folders
            found = seen or finder.find(path)
            is_there = found.facts is not None or found.sight is Sight.DENIED
            name = found.path.parts[-1] if is_there else path.parts[-1]
            return Location(known.volume, f"{known.path}/{name}" if known.path else name)
        destination = finder.destination(path)
        volume = self._computer.volume_of(destination) if destination is not None else None
        if destination is None or volume is None or volume.mount is None:
            raise ZestyError(
                f"The volume of {path} is not connected to {self._computer.name}.",
                next_step="Connect it, or correct its mount in the sheet.",
            )
        text = "/".join(destination.parts[len(volume.anchor.parts) :])
        location = Location(str(volume.anchor), text)
        if len(destination.parts) > len(volume.anchor.parts) and finder.folder(folder).facts is not None:
            if len(self._known) >= _REMEMBERED_FOLDERS:
                self._known.clear()
            self._known[folder] = Location(location.volume, text.rpartition("/")[0])
        return location

    def real(self, location: Location) -> Path:
        """Where a spot is from here."""
        return _path(self.place(location))

    def place(self, location: Location) -> str:
        """The same as a text, which costs a tenth."""
        return f"{self._folder_of(location)[1]}{location.path.rpartition('/')[2]}"

    def folder_of(self, location: Location) -> Path:
        """The folder around it from here."""
        return self._folder_of(location)[0]

    def part(self, location: Location, number: int) -> str:
        """Where the new content of a spot is put together, for an action of this number."""
        return f"{self._folder_of(location)[1]}.zesty-{number}.part"

    def link_above(self, location: Location, disk: Disk, known: dict[Location, str]) -> str:
        """The link by which a spot would be reached now; empty as long as it is as it was written down: without any.

        ``known`` is what was found out just before, by folders.
        """
        text = location.path.rpartition("/")[0]
        if not text:
            return ""
        folder = Location(location.volume, text)
        if folder not in known:
            above = self.link_above(folder, disk, known)
            facts = None if above else disk.facts(self.place(folder))
            known[folder] = str(folder) if facts is not None and facts.kind == "link" else above
        return known[folder]

    def _folder_of(self, location: Location) -> tuple[Path, str]:
        """The same as a path, and as a text that names in it are added to. Files come by folders: it is made once."""
        folder = location.path.rpartition("/")[0]
        known = self._folders.get((location.volume, folder))
        if known is None:
            mount = self._mounts.get(location.volume)
            if mount is None:
                raise ZestyError(
                    f"The volume of {location} is not connected.", next_step="Connect it, then run the command again."
                )
            if len(self._folders) >= _REMEMBERED_FOLDERS:
                self._folders.clear()
            path = mount.joinpath(*PurePosixPath(folder).parts)
            known = self._folders[location.volume, folder] = path, str(path / "x")[:-1]
        return known
