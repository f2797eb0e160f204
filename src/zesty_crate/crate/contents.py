"""Where the content of a crate is: in its own bag, in its other parts, in the earlier crates that it builds on."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import NamedTuple

from ..errors import ZestyError
from ..machines import Disk
from ..survey import Carried, SurveyStore
from .bag import DamagedCrate
from .crate import Crate

_NEEDED = """
SELECT number, series, part, name, earlier FROM bag WHERE number IN (
    SELECT bag FROM carried UNION SELECT s.bag FROM segment AS s JOIN carried AS c ON c.file = s.file)
ORDER BY number < 0, abs(number)
"""
_SEGMENTS = """
SELECT s.bag, s.payload FROM carried AS c JOIN segment AS s ON s.file = c.file
WHERE c.bag = 0 AND c.payload = ? ORDER BY s.first
"""


class Bag(NamedTuple):
    """A bag that holds something of a crate. ``series`` and ``part`` say which one it is, wherever it is."""

    number: int
    series: str
    part: int
    name: str
    earlier: int

    def __str__(self) -> str:
        what = "the earlier crate" if self.earlier else f"part {self.part}"
        return f"{what} ({self.name})"


@dataclass(slots=True)
class Contents:
    """Finds what a crate holds, in the bags that are here."""

    crate: Crate
    survey: SurveyStore
    roots: dict[int, Path]
    records: Path | None = None  # where a move's own records are, if not in the crate

    def needed(self) -> list[Bag]:
        """The bags that hold something of this crate."""
        return [Bag(*row) for row in self.survey.database.execute(_NEEDED)]

    def missing(self) -> list[Bag]:
        """Those of them that are not here."""
        return [bag for bag in self.needed() if bag.number not in self.roots]

    def add(self, folder: Path, disk: Disk) -> list[Bag]:
        """Take notice of the bag at a folder, or of those in it by their own names; nothing when none is missing."""
        added = []
        for bag in self.missing():
            for root in (folder, folder / bag.name):
                if bag.number not in self.roots and _is_bag(Crate(root), bag, disk):
                    self.roots[bag.number] = root
                    added.append(bag)
        return added

    def source_of(self, carried: Carried) -> str:
        """A text for the journal, by which `files_of` finds a file's content again."""
        root = self.roots.get(carried.bag)
        own = root is self.crate.root or root == self.crate.root
        return carried.payload if own else f"{carried.bag}:{carried.payload}"

    def files_of(self, source: str) -> list[str]:
        """The file, or its segments in order, that a source or something kept aside names: texts, for there are many.

        Raises `ZestyError` when a bag is not here.
        """
        number, colon, payload = source.partition(":")
        if not colon or not number.lstrip("-").isdigit():
            own = f"{self.records or self.crate.root}/{source}"
            return [own if self.records is not None and Path(own).exists() else f"{self.crate.root}/{source}"]
        if int(number) != 0:
            return [f"{self._root(int(number))}/{payload}"]
        return [f"{self._root(bag)}/{name}" for bag, name in self.survey.database.execute(_SEGMENTS, (payload,))]

    def file_of(self, source: str) -> Path:
        """The one file that a source names."""
        (file,) = self.files_of(source)
        return Path(file)

    def is_here(self, carried: Carried) -> bool:
        """Whether all of a file's content is here."""
        if carried.bag:
            return carried.bag in self.roots
        rows = self.survey.database.execute(_SEGMENTS, (carried.payload,))
        return all(bag in self.roots for bag, _ in rows)

    def _root(self, number: int) -> Path:
        if number not in self.roots:
            bag = next(bag for bag in self.needed() if bag.number == number)
            raise ZestyError(f"{str(bag)[0].upper()}{str(bag)[1:]} is needed but not here.", next_step=PLUG_IN)
        return self.roots[number]


PLUG_IN = "Connect its carrier, and name its folder with --part."


def find_contents(crate: Crate, survey: SurveyStore, disk: Disk, folders: Iterable[Path] = ()) -> Contents:
    """Look for the bags of a crate: the crate itself, what is beside it, and the folders that were named.

    Raises `ZestyError` for a folder that holds none, and for records that do not know all parts yet.
    """
    about = crate.about(disk)
    if about.get("parts") is None:
        raise ZestyError(
            f"{crate.root} was written before the last part and does not list all parts.",
            next_step="Name the first part or the last one as the crate, and the others with --part.",
        )
    contents = Contents(crate, survey, {})
    for bag in contents.needed():
        for root in (crate.root, crate.root.parent / bag.name):
            if bag.number not in contents.roots and _is_bag(Crate(root), bag, disk):
                contents.roots[bag.number] = root
    for folder in folders:
        if not contents.add(folder, disk) and not _is_known(contents, folder):
            raise ZestyError(
                f"{folder} is not a part that this crate needs.",
                details=[f"needed: {bag}" for bag in contents.missing()],
                next_step="Name the folder of one of these with --part.",
            )
    return contents


def _is_known(contents: Contents, folder: Path) -> bool:
    known = {root.absolute() for root in contents.roots.values()}
    return bool(known & {folder.absolute(), *(folder.absolute() / bag.name for bag in contents.needed())})


def _is_bag(crate: Crate, bag: Bag, disk: Disk) -> bool:
    if disk.facts(crate.about_path) is None:
        return False
    try:
        about = crate.about(disk)
    except DamagedCrate:
        return False
    return about.get("series") == bag.series and about.get("part") == bag.part and crate.is_finished(disk)
