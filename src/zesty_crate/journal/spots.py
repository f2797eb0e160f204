"""From a computer's own paths to spots in a journal, and from those to files from here."""

from __future__ import annotations

import os
from pathlib import Path, PurePosixPath

from ..errors import ZestyError
from ..machines import Computer, Finder
from ..paths import MachinePath
from .model import Spot

_REMEMBERED_FOLDERS = 20_000


class Spots:
    """The spots of one computer. They hold no mount, so a journal stays true when the disk is mounted elsewhere."""

    def __init__(self, computer: Computer) -> None:
        self._computer = computer
        self._mounts = {str(volume.anchor): volume.mount for volume in computer.volumes}
        self._folders: dict[tuple[str, str], Path] = {}
        self._known: dict[MachinePath, Spot] = {}

    def at(self, finder: Finder, path: MachinePath) -> Spot:
        """The spot where ``path`` is or would be, below folders under their real names.

        Raises `ZestyError` when its volume is not here.
        """
        folder = path.parent
        known = self._known.get(folder)
        if known is not None:  # files come by folders
            return Spot(known.volume, f"{known.path}/{finder.find(path).path.name}".lstrip("/"))
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
        return self.folder_of(spot) / spot.path.rpartition("/")[2]

    def folder_of(self, spot: Spot) -> Path:
        """The folder around it from here. Files come by folders, so each is put together once."""
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
            known = self._folders[spot.volume, folder] = mount.joinpath(*PurePosixPath(folder).parts)
        return known
