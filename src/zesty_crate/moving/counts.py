"""What unpacking comes to, in numbers."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from ..plan import Move, Placement
from .fates import Fate


@dataclass(frozen=True, slots=True)
class UnpackReport:
    """What unpacking came to, or would come to. Sizes in bytes. ``blocked`` says what waits, and why.

    ``already_there`` are files that were there of themselves, ``earlier`` those that an earlier run placed.
    Of the ``files``, those ``replaced`` took the place of others, which are kept aside. ``kept`` were not placed,
    because what is in their place stays. ``attributes_not_kept`` counts files and folders whose tags or labels
    (extended attributes) the new volume cannot keep. Of files that were names of one and the same (hard links),
    ``still_one`` are so still, and ``parted`` are files of their own now. ``to_merge`` are catalogs that relinking will
    merge into those in their places. ``links_refused`` are symbolic links that could not be made here, each with
    where it led.
    """

    computer: str
    files: int
    size_bytes: int
    folders: int
    links: int
    already_there: int
    replaced: int
    kept: int
    earlier: int
    blocked: tuple[str, ...]
    attributes_not_kept: int = 0
    still_one: int = 0
    parted: int = 0
    to_merge: int = 0
    links_refused: tuple[str, ...] = ()


class Counts:
    """What became of files, folders and links so far."""

    def __init__(self) -> None:
        self.fates: Counter[Fate] = Counter()
        self.bytes = self.folders = self.links = 0

    def add(self, fate: Fate, placement: Placement) -> None:
        """Count a file."""
        self.fates[fate] += 1
        if fate in (Fate.PLACE, Fate.REPLACE):
            self.bytes += placement.row.facts.size_bytes

    def report(
        self, move: Move, blocked: tuple[str, ...], attributes_not_kept: int = 0, names: tuple[int, int] = (0, 0)
    ) -> UnpackReport:
        """All of it."""
        placed, replaced = self.fates[Fate.PLACE], self.fates[Fate.REPLACE]
        there, earlier, kept = (self.fates[each] for each in (Fate.THERE, Fate.EARLIER, Fate.KEPT))
        return UnpackReport(
            move.new.name,
            placed + replaced,
            self.bytes,
            self.folders,
            self.links,
            there,
            replaced,
            kept,
            earlier,
            blocked,
            attributes_not_kept,
            *names,
            self.fates[Fate.MERGED],
        )
