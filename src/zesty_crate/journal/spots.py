"""From a computer's own paths to spots in a journal, and from those to files from here."""

from __future__ import annotations

from pathlib import Path, PurePosixPath

from ..errors import ZestyError
from ..machines import Computer, Finder
from ..paths import MachinePath
from .model import Spot


class Spots:
    """The spots of one computer. They hold no mount, so a journal stays true when the disk is mounted elsewhere."""

    def __init__(self, computer: Computer) -> None:
        self._computer = computer
        self._mounts = {str(volume.anchor): volume.mount for volume in computer.volumes}

    def at(self, finder: Finder, path: MachinePath) -> Spot:
        """The spot where ``path`` is or would be, below folders under their real names.

        Raises `ZestyError` when its volume is not here.
        """
        volume = self._computer.volume_of(path)
        real = finder.destination(path)
        if volume is None or volume.mount is None or real is None:
            raise ZestyError(
                f"The volume of {path} is not here on {self._computer.name}.",
                next_step="Plug it in, or correct its mount in the sheet.",
            )
        return Spot(str(volume.anchor), real.relative_to(volume.mount).as_posix())

    def real(self, spot: Spot) -> Path:
        """Where a spot is from here."""
        mount = self._mounts.get(spot.volume)
        if mount is None:
            raise ZestyError(f"The volume of {spot} is not here.", next_step="Plug it in, then run the command again.")
        return mount.joinpath(*PurePosixPath(spot.path).parts)
