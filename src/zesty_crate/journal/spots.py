"""From a computer's own paths to spots in a journal, and from those to files from here."""

from __future__ import annotations

import os
from pathlib import Path, PurePosixPath

from ..errors import ZestyError
from ..machines import Computer, Finder, Seen
from ..paths import MachinePath
from .model import Spot

_REMEMBERED_FOLDERS = 20_000


class Spots:
    """The spots of one computer. They hold no mount, so a journal stays true when the disk is mounted elsewhere."""

    def __init__(self, computer: Computer) -> None:
        self._computer = computer
        self._mounts = {str(volume.anchor): volume.mount for volume in computer.volumes}
        self._folders: dict[tuple[str, str], tuple[Path, str]] = {}
        self._known: dict[MachinePath, Spot] = {}

    def at(self, finder: Finder, path: MachinePath, seen: Seen | None = None) -> Spot:
        """The spot where ``path`` is or would be, below folders under their real names.

        ``seen`` is what was found there, where it was looked for already. Raises `ZestyError` when its volume is not
        here.
        """
        folder = path.parent
        known = self._known.get(folder)
        if known is not None:  # files come by folders
            found = (seen or finder.find(path)).path.parts
            name = found[-1] if len(found) == len(path.parts) else path.parts[-1]  # in a folder that was made since
            return Spot(known.volume, f"{known.path}/{name}" if known.path else name)
        volume = self._computer.volume_of(path)
        real = finder.destination(path)
        if volume is None or volume.mount is None or real is None:
            raise ZestyError(
                f"The volume of {path} is not here on {self._computer.name}.",
                next_step="Plug it in, or correct its mount in the sheet.",
            )
        text = str(real)[len(str(volume.mount)) :].strip(os.sep).replace(os.sep, "/")
        spot = Spot(str(volume.anchor), text)
        if len(path.parts) > len(volume.anchor.parts) and finder.folder(folder).facts is not None:
            if len(self._known) >= _REMEMBERED_FOLDERS:
                self._known.clear()
            self._known[folder] = Spot(spot.volume, text.rpartition("/")[0])
        return spot

    def real(self, spot: Spot) -> Path:
        """Where a spot is from here."""
        return Path(self.place(spot))

    def place(self, spot: Spot) -> str:
        """The same as a text, which costs a tenth."""
        return f"{self._folder_of(spot)[1]}{spot.path.rpartition('/')[2]}"

    def folder_of(self, spot: Spot) -> Path:
        """The folder around it from here."""
        return self._folder_of(spot)[0]

    def part(self, spot: Spot, number: int) -> str:
        """Where the new content of a spot is put together, for an action of this number."""
        return f"{self._folder_of(spot)[1]}.zesty-{number}.part"

    def _folder_of(self, spot: Spot) -> tuple[Path, str]:
        """The same as a path, and as a text that names in it are added to. Files come by folders: it is made once."""
        folder = spot.path.rpartition("/")[0]
        known = self._folders.get((spot.volume, folder))
        if known is None:
            mount = self._mounts.get(spot.volume)
            if mount is None:
                raise ZestyError(
                    f"The volume of {spot} is not here.", next_step="Plug it in, then run the command again."
                )
            if len(self._folders) >= _REMEMBERED_FOLDERS:
                self._folders.clear()
            path = mount.joinpath(*PurePosixPath(folder).parts)
            known = self._folders[spot.volume, folder] = path, str(path / "x")[:-1]
        return known
