"""Find the files of a computer as that computer would: by its own rules of case and Unicode form, on any disk."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

from ..paths import Folding, MachinePath, name_key
from .computer import Computer
from .disk import Disk, DiskError, FileFacts


class Sight(StrEnum):
    """What looking for a path came to."""

    THERE = "there"
    ABSENT = "absent"
    UNPLUGGED = "unplugged"
    TWINS = "twins"  # several names that this computer takes for one, and none is exactly as written
    DENIED = "denied"


@dataclass(frozen=True, slots=True)
class Seen:
    """What was found where a path of a computer points. ``path`` has the names as they really are."""

    sight: Sight
    path: MachinePath
    real: Path | None = None
    facts: FileFacts | None = None
    why: str = ""


class Finder:
    """Looks things up on one computer. Listings are remembered, so one finder is for one undisturbed look."""

    def __init__(self, computer: Computer, disk: Disk, remembered_folders: int = 20_000) -> None:
        self.computer = computer
        self._disk = disk
        self._remembered = remembered_folders
        self._listings: dict[Path, dict[str, tuple[str, ...]]] = {}
        self._folders: dict[MachinePath, Seen] = {}

    def find(self, path: MachinePath) -> Seen:
        """Look for ``path``; never raises for what the disk holds or lacks."""
        if self._is_anchor(path):
            seen = self._locate(path)
        else:
            seen = self._folder(path.parent)
            seen = self._step(seen, path.parts[-1]) if seen.sight is Sight.THERE else seen
        if seen.sight is not Sight.THERE or seen.real is None:
            return seen
        try:
            facts = self._disk.facts(seen.real)
        except DiskError as error:
            return Seen(Sight.DENIED, seen.path, seen.real, why=str(error))
        return Seen(Sight.THERE if facts else Sight.ABSENT, seen.path, seen.real, facts)

    def destination(self, path: MachinePath) -> Path | None:
        """Where a new file ``path`` goes from here: below folders that are there under their real names."""
        seen = self.find(path)
        if seen.sight is Sight.UNPLUGGED:
            return None
        if seen.sight is Sight.THERE or not path.parts:
            return seen.real
        above = self.destination(path.parent)
        return above / path.name if above else None

    def note_made(self, folder: MachinePath) -> None:
        """Take notice of a folder that was just made."""
        self._folders.pop(folder, None)
        above = self._folder(folder.parent)
        if above.real in self._listings:
            listing = self._listings[above.real]
            key = name_key(folder.name, self.computer.rules_for(above.path).folding)
            listing[key] = (*listing.get(key, ()), folder.name)

    def walk(self, top: MachinePath) -> Iterator[Seen]:
        """Everything below ``top`` (not itself), folders before what they hold, in a stable order.

        Links are told and not followed. What may not be read is told as `Sight.DENIED`.
        """
        seen = self.find(top)
        if seen.real is None or seen.facts is None or seen.facts.kind != "folder":
            return
        pending = [(seen.path, seen.real)]
        while pending:
            folder, real = pending.pop()
            deeper = []
            for each in self._children(folder, real):
                yield each
                if each.facts and each.facts.kind == "folder" and each.real:
                    deeper.append((each.path, each.real))
            pending.extend(reversed(deeper))

    def _children(self, folder: MachinePath, real: Path) -> Iterator[Seen]:
        try:
            names = self._disk.names(real)
        except DiskError as error:
            yield Seen(Sight.DENIED, folder, real, why=str(error))
            return
        for name in names:
            try:
                facts = self._disk.facts(real / name)
            except DiskError as error:
                yield Seen(Sight.DENIED, folder.below(name), real / name, why=str(error))
                continue
            if facts is not None:
                yield Seen(Sight.THERE, folder.below(name), real / name, facts)

    def _folder(self, path: MachinePath) -> Seen:
        seen = self._folders.get(path)
        if seen is None:
            if len(self._folders) >= self._remembered:
                self._folders.clear()
            seen = self._folders[path] = self._locate(path)
        return seen

    def _listing(self, folder: Path, folding: Folding) -> dict[str, tuple[str, ...]]:
        listing = self._listings.get(folder)
        if listing is None:
            if len(self._listings) >= self._remembered:
                self._listings.clear()
            listing = self._listings[folder] = self._read_listing(folder, folding)
        return listing

    def _is_anchor(self, path: MachinePath) -> bool:
        volume = self.computer.volume_of(path)
        return not path.parts or (volume is not None and len(volume.anchor.parts) == len(path.parts))

    def _locate(self, path: MachinePath) -> Seen:
        """Walk down to ``path`` from its volume, name by name, taking the names that are really there."""
        volume = self.computer.volume_of(path)
        if volume is None or volume.mount is None:
            return Seen(Sight.UNPLUGGED, path)
        if len(path.parts) == len(volume.anchor.parts):
            try:
                here = self._disk.facts(volume.mount)
            except DiskError as error:
                return Seen(Sight.DENIED, path, volume.mount, why=str(error))
            return Seen(Sight.THERE if here else Sight.UNPLUGGED, volume.anchor, volume.mount)
        above = self._folder(path.parent)
        return self._step(above, path.parts[-1]) if above.sight is Sight.THERE else above

    def _step(self, folder: Seen, name: str) -> Seen:
        if folder.real is None:
            return folder
        folding = self.computer.rules_for(folder.path).folding
        try:
            listing = self._listing(folder.real, folding)
        except DiskError as error:
            return Seen(Sight.DENIED, folder.path.below(name), folder.real / name, why=str(error))
        known = listing.get(name_key(name, folding), ())
        if name in known:
            return Seen(Sight.THERE, folder.path.below(name), folder.real / name)
        if len(known) == 1:
            return Seen(Sight.THERE, folder.path.below(known[0]), folder.real / known[0])
        sight = Sight.TWINS if known else Sight.ABSENT
        return Seen(sight, folder.path.below(name), why=" and ".join(known))

    def _read_listing(self, folder: Path, folding: Folding) -> dict[str, tuple[str, ...]]:
        facts = self._disk.facts(folder)
        if facts is None or facts.kind not in ("folder", "link"):
            return {}
        listing: dict[str, tuple[str, ...]] = {}
        for name in self._disk.names(folder):
            key = name_key(name, folding)
            listing[key] = (*listing.get(key, ()), name)
        return listing
