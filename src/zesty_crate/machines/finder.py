"""Find the files of a computer as that computer would: by its own rules of case and Unicode form, on any disk."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from enum import StrEnum
from pathlib import Path
from typing import NamedTuple

from ..errors import ZestyError
from ..paths import Folding, MachinePath, PathError, Spelling, System, name_key, read_path
from .computer import Computer
from .disk import Disk
from .files import DiskError, FileFacts
from .listing import Contents

_REMEMBERED_NAMES = 50_000
_MOST_LINKS = 40  # that lead on to one another, as Linux has it


class Sight(StrEnum):
    """What looking for a path came to."""

    THERE = "there"
    ABSENT = "absent"
    UNPLUGGED = "unplugged"
    TWINS = "twins"  # several names that this computer takes for one, and none is exactly as written
    DENIED = "denied"
    ASTRAY = "astray"  # a link leads in circles, or to where nothing is


class Seen(NamedTuple):
    """What was found where a path of a computer points.

    ``path`` has the names as they really are, and no link on the way to the last one.

    ``folder`` is where its folder is from here; for the anchor of a volume it is the mount itself.
    """

    sight: Sight
    path: MachinePath
    folder: Path | None = None
    facts: FileFacts | None = None
    why: str = ""
    is_anchor: bool = False

    @property
    def real(self) -> Path | None:
        """Where it is from here, or would be: put together only when it is asked for, since most never are."""
        return self.folder if self.folder is None or self.is_anchor else self.folder / self.path.parts[-1]


class _Folder:
    """A folder's names with what they are, and, once it matters, by key."""

    __slots__ = ("_by_key", "_contents", "_folding")

    def __init__(self, contents: Contents, folding: Folding) -> None:
        self._contents = contents
        self._folding = folding
        self._by_key: dict[str, tuple[str, ...]] | None = None

    def __len__(self) -> int:
        return len(self._contents)

    @property
    def entries(self) -> dict[str, FileFacts | DiskError]:
        """Its names with what they are."""
        return self._contents.known

    def twins_of(self, name: str) -> tuple[str, ...]:
        """The names that this volume takes for ``name``."""
        if self._folding is Folding.EXACT:
            return ()
        if self._by_key is None:
            self._by_key = {}
            for each in self.entries:
                key = name_key(each, self._folding)
                self._by_key[key] = (*self._by_key.get(key, ()), each)
        return self._by_key.get(name_key(name, self._folding), ())

    def add(self, name: str, facts: FileFacts) -> None:
        """Take notice of something that was made."""
        self.entries[name] = facts
        self._by_key = None


class Finder:
    """Looks things up on one computer. Listings are remembered, so one finder is for one undisturbed look."""

    def __init__(self, computer: Computer, disk: Disk) -> None:
        self.computer = computer
        self._disk = disk
        self._remembered = 0
        self._listings: dict[Path, _Folder] = {}
        self._folders: dict[MachinePath, Seen] = {}
        self._following: list[MachinePath] = []
        self._anchor_depths = {0, *(len(volume.anchor.parts) for volume in computer.volumes)}
        self._last: tuple[Seen, Path, _Folder] | None = None  # where we looked last, since files come by folders

    def find(self, path: MachinePath) -> Seen:
        """Look for ``path``; never raises for what the disk holds or lacks.

        Links on the way are followed by the rules of this very computer, wherever it is mounted. What is at the end of
        it is told as it is, though it be a link.
        """
        depth = len(path.parts)
        known = None if depth in self._anchor_depths else self._folders.get(path.parent)
        if known is not None and known.sight is Sight.THERE:
            return self._step(known, path.parts[-1])
        volume = self.computer.volume_of(path)
        if volume is None or volume.mount is None:
            return Seen(Sight.UNPLUGGED, path)
        if depth == len(volume.anchor.parts):
            return self._anchor(path, volume.mount)
        above = self.folder(path.parent)
        return self._step(above, path.parts[-1]) if above.sight is Sight.THERE else above

    def lacks(self, folder: MachinePath) -> Callable[[str], bool]:
        """What tells of a name whether a folder surely has nothing under it, or under one that its volume takes for it.

        Where a volume is mounted, or what cannot be listed, is sure of none. Files come by folders, and this costs far
        less than to look for each.
        """
        if self.computer.mounts_in(folder):
            return lambda _: False
        seen = self.folder(folder)
        if seen.sight is Sight.ABSENT:
            return lambda _: True
        if seen.sight is not Sight.THERE or seen.real is None:
            return lambda _: False
        try:
            listing = self._listing(seen.real, self.computer.rules_for(seen.path).folding)
        except DiskError:
            return lambda _: False
        return lambda name: name not in listing.entries and not listing.twins_of(name)

    def follow(self, seen: Seen) -> Seen:
        """What a link leads to in the end; anything else as it is."""
        if seen.facts is None or seen.facts.kind != "link":
            return seen
        target = self._target_of(seen.path, seen.facts.target)
        if target is None or seen.path in self._following or len(self._following) == _MOST_LINKS:
            return _astray(seen)
        self._following.append(seen.path)
        try:
            found = self.follow(self.find(target))
        finally:
            self._following.pop()
        return _astray(seen) if found.sight in (Sight.ABSENT, Sight.ASTRAY) else found

    def links_on_the_way(self, path: MachinePath) -> Iterator[tuple[Seen, Seen]]:
        """Each link by which ``path`` is reached, itself included, with what it leads to."""
        for length in range(1, len(path.parts) + 1):
            seen = self.find(path._replace(parts=path.parts[:length]))
            if seen.facts is not None and seen.facts.kind == "link":
                yield seen, self.follow(seen)

    def destination(self, path: MachinePath) -> MachinePath | None:
        """Where a new file ``path`` goes: below folders that are there, under their real names and past all links.

        None when its volume is not here.
        """
        seen = self.find(path)
        if seen.sight in (Sight.UNPLUGGED, Sight.ASTRAY):
            return None
        if seen.sight is Sight.THERE or not path.parts:
            return seen.path
        above = self.folder(path.parent)
        if above.sight is Sight.THERE:
            return above.path.below(path.name)
        further = self.destination(path.parent)
        return None if further is None else further.below(path.name)

    def note_made(self, folder: MachinePath) -> None:
        """Take notice of a folder that was just made."""
        self._folders.pop(folder, None)
        above = self.folder(folder.parent)
        if above.real in self._listings:
            self._listings[above.real].add(folder.name, FileFacts("folder", 0, 0, 0))

    def walk(self, top: MachinePath) -> Iterator[Seen]:
        """Everything below ``top`` (not itself), folders before what they hold, in a stable order.

        Links are told and not followed. What may not be read is told as `Sight.DENIED`.
        """
        seen = self.folder(top)
        if seen.facts is None or seen.facts.kind != "folder":
            return
        pending = [seen]
        while pending:
            folder = pending.pop()
            deeper = []
            for each in self._children(folder):
                yield each
                if each.facts is not None and each.facts.kind == "folder":
                    deeper.append(each)
            pending.extend(reversed(deeper))

    def inside(self, folder: MachinePath) -> Iterator[Seen]:
        """What is directly in a folder; nothing when it is none."""
        seen = self.folder(folder)
        return self._children(seen) if seen.facts is not None and seen.facts.kind == "folder" else iter(())

    def contents(self, folder: Seen) -> Mapping[str, FileFacts | DiskError]:
        """The names in a folder that was seen, sorted, each with what is there. Raises `DiskError`."""
        if folder.real is None:
            return {}
        return self._listing(folder.real, self.computer.rules_for(folder.path).folding).entries

    def contents_below(self, top: Seen, skipped: frozenset[str] = frozenset()) -> Iterator[Contents | DiskError]:
        """What is in a folder that was seen and in all below it: as `Disk.scan_below` has it."""
        return iter(()) if top.real is None else self._disk.scan_below(top.real, skipped)

    def note_listed(self, folder: Seen, contents: Contents) -> None:
        """Remember what was listed in a folder."""
        if folder.real is not None:
            self._remember(folder.real, _Folder(contents, self.computer.rules_for(folder.path).folding))

    def _children(self, folder: Seen) -> Iterator[Seen]:
        real = folder.real
        if real is None:
            return
        try:
            listing = self._listing(real, self.computer.rules_for(folder.path).folding)
        except DiskError as error:
            why = said_of(error, folder.path)
            yield Seen(Sight.DENIED, folder.path, folder.folder, why=why, is_anchor=folder.is_anchor)
            return
        for name, facts in listing.entries.items():
            yield _seen(folder.path.below(name), real, facts)

    def folder(self, path: MachinePath) -> Seen:
        """Look for a folder, which a link may lead to; what was seen is remembered."""
        seen = self._folders.get(path)
        if seen is None:
            if len(self._folders) >= _REMEMBERED_NAMES:
                self._folders.clear()
            seen = self.follow(self.find(path))
            if not self._following:  # else it may have been given up for the circle that it is in
                self._folders[path] = seen
        return seen

    def _target_of(self, link: MachinePath, target: str) -> MachinePath | None:
        """The path that the text of a link means on its computer; None when it means none."""
        if link.system is System.WINDOWS and target.startswith("/"):  # a driver for NTFS tells it as it is from here
            return self.computer.path_of(Path(target))
        try:
            return read_path(target.removeprefix("\\??\\"), link.system, Spelling.RELATIVE, link.parent).path
        except PathError:
            return None

    def _anchor(self, path: MachinePath, mount: Path) -> Seen:
        try:
            facts = self._disk.facts(mount)
            if facts is not None and facts.kind == "link":  # of the technician's, not of this computer
                mount = mount.resolve()
                facts = self._disk.facts(mount)
        except DiskError as error:
            return Seen(Sight.DENIED, path, mount, why=said_of(error, path), is_anchor=True)
        return Seen(Sight.THERE if facts else Sight.UNPLUGGED, path, mount, facts, is_anchor=True)

    def _step(self, above: Seen, name: str) -> Seen:
        """What a folder has under ``name``, or under the one name that its volume takes for it."""
        path = above.path.below(name)
        last = self._last
        if last is None or last[0] is not above:
            if (folder := above.real) is None:
                return above
            try:
                last = above, folder, self._listing(folder, self.computer.rules_for(above.path).folding)
            except DiskError as error:
                return Seen(Sight.DENIED, path, folder, why=said_of(error, above.path))
            self._last = last
        _, real, listing = last
        facts = listing.entries.get(name)
        if facts is not None:
            return _seen(path, real, facts)
        twins = listing.twins_of(name)
        if len(twins) == 1:
            return _seen(above.path.below(twins[0]), real, listing.entries[twins[0]])
        return Seen(Sight.TWINS if twins else Sight.ABSENT, path, real, why=" and ".join(twins))

    def _listing(self, folder: Path, folding: Folding) -> _Folder:
        listing = self._listings.get(folder)
        if listing is None:
            listing = self._read_listing(folder, folding)
            self._remember(folder, listing)
        return listing

    def _remember(self, folder: Path, listing: _Folder) -> None:
        self._last = None
        self._remembered += len(listing) + 1
        if self._remembered > _REMEMBERED_NAMES:
            self._listings.clear()
            self._remembered = len(listing) + 1
        self._listings[folder] = listing

    def _read_listing(self, folder: Path, folding: Folding) -> _Folder:
        facts = self._disk.facts(folder)
        if facts is None or facts.kind != "folder":
            return _Folder(Contents("", (), ()), folding)
        return _Folder(self._disk.scan(folder), folding)


def said_of(error: DiskError, path: MachinePath) -> str:
    """What a disk said of something, by the path that the computer itself has for it, wherever it is mounted here."""
    return error.message.replace(error.path, str(path))


def require_in_reach(seen: Seen, computer: Computer) -> None:
    """Raise `ZestyError` for a place of which nobody can tell whether it is there."""
    if seen.sight is Sight.DENIED:
        raise ZestyError(seen.why, next_step="Give this user permission for it, then run the command again.")
    if seen.sight is Sight.UNPLUGGED and computer.volume_of(seen.path) is not None:
        raise ZestyError(
            f"The volume of {seen.path} is not connected to {computer.name}.",
            next_step="Connect it, name its mount in the sheet, and run the command again.",
        )


def _astray(link: Seen) -> Seen:
    leads_to = link.facts.target if link.facts is not None else ""
    return Seen(Sight.ASTRAY, link.path, link.folder, why=f"{link.path} is a link to {leads_to}, which is not there")


def _seen(path: MachinePath, folder: Path, facts: FileFacts | DiskError) -> Seen:
    if isinstance(facts, DiskError):
        return Seen(Sight.DENIED, path, folder, why=said_of(facts, path))
    return Seen(Sight.THERE, path, folder, facts)
