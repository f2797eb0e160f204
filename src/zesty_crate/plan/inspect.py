"""Look at the new computer before anything happens: what is in the way, what cannot be, what there is no room for."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from functools import lru_cache
from itertools import groupby
from operator import itemgetter
from typing import NamedTuple

from ..crate import readable_size
from ..journal import Journal, Kind, Locations
from ..machines import Computer, Disk, Finder, Seen, Sight
from ..paths import MachinePath
from .document import Blocker
from .mount_points import mount_point
from .names import Names
from .placements import Folder, Going, Placement, Placements, main_of


@dataclass(slots=True)
class Findings:
    """What a look at the new computer came to. Sizes in bytes, by volume anchor.

    ``conflicts`` are carried files with another file in their place; what is ``in_the_way`` is no file.
    """

    files: int = 0
    size_bytes: int = 0
    already_there: int = 0
    by_route: Counter[MachinePath] = field(default_factory=Counter)
    needed: Counter[str] = field(default_factory=Counter)
    no_route: list[str] = field(default_factory=list)
    no_volume: list[str] = field(default_factory=list)
    leads_out: list[str] = field(default_factory=list)
    not_writable: list[str] = field(default_factory=list)
    in_the_way: list[str] = field(default_factory=list)
    conflicts: list[tuple[Placement, Seen]] = field(default_factory=list)


class _Room(NamedTuple):
    """A folder that files go to: its volume, where those are listed that cannot go there, and what it surely lacks."""

    anchor: str
    refused: list[str] | None
    lacks: Callable[[str], bool]


class Inspector:
    """Looks at each placement on the new computer and changes nothing."""

    def __init__(self, new: Computer, disk: Disk, journal: Journal | None) -> None:
        self._new = new
        self._disk = disk
        self._finder = Finder(new, disk)
        self._journal = journal
        self._locations = Locations(new)
        self._is_here = lru_cache(maxsize=None)(lambda mount: disk.facts(mount) is not None)
        self._room: dict[MachinePath, _Room] = {}
        self._writable: dict[MachinePath, bool] = {}
        self._out: dict[MachinePath, bool] = {}
        self.findings = Findings()

    def look(self, placements: Placements) -> Findings:
        """Inspect everything that would be placed."""
        for placement in placements.folders():
            seen = self._finder.find(placement.new) if placement.new else None
            if seen is not None and seen.facts is not None and seen.facts.kind not in ("folder", "link"):
                self.findings.in_the_way.append(f"{seen.path} (a {seen.facts.kind}; expected a folder)")
        for folder, files in groupby(placements.going(), key=itemgetter(0)):
            self._look_in(folder, files, placements)
        for placement in placements.links():
            self._look_at(placement)
        self._leave_side_files()
        return self.findings

    def _leave_side_files(self) -> None:
        """What a database has beside it goes with it, and is no conflict of its own."""
        conflicts = self.findings.conflicts
        mains = {placement.old for placement, _ in conflicts}
        self.findings.conflicts = [each for each in conflicts if main_of(each[0].old) not in mains]

    def _look_in(self, folder: Folder, files: Iterable[Going], placements: Placements) -> None:
        """Look at files that are in one folder, most of which are surely not in that on the new computer."""
        found, room = self.findings, None if folder.new is None else self._room_of(folder.new)
        number = size = lacking = 0
        rest: list[Going] = []
        for each in files:
            number += 1
            size += each.row.size_bytes
            if room is None:
                found.no_route.append(str(each.old))
            elif room.refused is not None:
                room.refused.append(str(each.new))
            elif room.lacks(each.new_name):
                lacking += each.row.size_bytes
            else:
                rest.append(each)
        found.files += number
        found.size_bytes += size
        if room is not None and folder.route is not None:
            found.by_route[folder.route.old] += number
            if lacking:
                found.needed[room.anchor] += lacking
            for placement in placements.of(rest):
                self._look_at_target(placement, room)

    def _look_at(self, placement: Placement) -> None:
        """Look at a link."""
        found, new = self.findings, placement.new
        if new is None or placement.route is None:
            found.no_route.append(str(placement.old))
            return
        found.by_route[placement.route.old] += 1
        room = self._room_of(new.parent)
        if room.refused is not None:
            room.refused.append(str(new))
        else:
            self._look_at_target(placement, room)

    def _look_at_target(self, placement: Placement, room: _Room) -> None:
        found, new = self.findings, placement.new
        seen = None if new is None or room.lacks(new.name) else self._finder.find(new)
        if new is None or seen is None or seen.sight is Sight.ABSENT:
            found.needed[room.anchor] += placement.row.size_bytes
        elif self._was_merged(new, seen) and placement.carried is not None:
            found.conflicts.append((placement, seen))
        elif self._was_placed(new, seen) or is_same(placement, seen, self._disk):
            found.already_there += 1
        elif seen.facts is not None and seen.facts.is_file and placement.carried is not None:
            found.conflicts.append((placement, seen))
        else:
            found.in_the_way.append(f"{seen.path} ({seen.facts.kind if seen.facts else seen.why})")

    def _room_of(self, folder: MachinePath) -> _Room:
        known = self._room.get(folder)
        if known is None:
            known = self._room[folder] = _Room(*self._room_in(folder), self._finder.lacks(folder))
        return known

    def _room_in(self, folder: MachinePath) -> tuple[str, list[str] | None]:
        """The volume that files in a folder go to; and the list of those that cannot go there, where it is so."""
        found, volume = self.findings, self._new.volume_of(folder)
        if volume is None or volume.mount is None or not self._is_here(volume.mount) or self._is_unmounted(folder):
            return "", found.no_volume
        if self._leads_out(folder):
            return "", found.leads_out
        return str(volume.anchor), None if self._is_writable(folder) else found.not_writable

    def _is_unmounted(self, folder: MachinePath) -> bool:
        """Whether a folder is where volumes are mounted, and none is there: its files would land on the system's."""
        mount = mount_point(folder, self._new)
        return mount is not None and self._finder.folder(mount).facts is None

    def _leads_out(self, folder: MachinePath) -> bool:
        """Whether a link on the way to a folder leads nowhere, or to a volume that is not here."""
        known = self._out.get(folder)
        if known is None:
            seen = self._finder.folder(folder)
            if seen.sight is Sight.ABSENT and folder.parts:
                known = self._leads_out(folder.parent)
            else:
                known = seen.sight is Sight.ASTRAY or (seen.sight is Sight.UNPLUGGED and seen.path != folder)
            self._out[folder] = known
        return known

    def _is_writable(self, folder: MachinePath) -> bool:
        """Whether files can be made in a folder, or in the first one above it that is there."""
        known = self._writable.get(folder)
        if known is None:
            seen = self._finder.folder(folder)
            if seen.facts is None and folder.parts:
                known = self._is_writable(folder.parent)
            else:
                known = seen.real is not None and self._disk.may_write(seen.real)
            self._writable[folder] = known
        return known

    def _was_merged(self, new: MachinePath, seen: Seen) -> bool:
        """Whether this move wrote the file there, and never placed it: it merged, and still stands beside what came."""
        if self._journal is None or seen.facts is None:
            return False
        history = self._journal.history_at(self._locations.at(self._finder, new, seen))
        return bool(history) and history[-1].kind is Kind.REPLACE and not any(each.source for each in history)

    def _was_placed(self, new: MachinePath, seen: Seen) -> bool:
        """Whether this very move put it there (a relinked catalog is then not what was carried, and rightly so)."""
        return self._journal is not None and self._journal.has_acted_at(self._locations.at(self._finder, new, seen))


def is_same(placement: Placement, seen: Seen, disk: Disk) -> bool:
    """Whether what is in a place is what would be placed there."""
    if seen.facts is None or seen.real is None:
        return False
    if placement.carried is None:
        return seen.facts.kind == "link" and seen.facts.target == placement.leads_to
    if not seen.facts.is_file or seen.facts.size_bytes != placement.carried.file.facts.size_bytes:
        return False
    return disk.digest(seen.real).sha512 == placement.carried.sha512


_MOVE_AWAY = "Move them elsewhere on the new computer, or change the route."
_SHORTER = "Place them in a folder nearer the top with a route."


def find_blockers(findings: Findings, names: Names, new: Computer, disk: Disk) -> list[Blocker]:
    """Everything on the new computer's disks that keeps the plan from running, each with what clears it."""
    bad_routes = [f"{route}: {fault}" for route, fault in names.bad_routes.items()]
    blockers = []
    for places, what, clear in (
        (findings.no_route, "Carried files without a route", "Add a [[route]] for them to the plan."),
        (
            findings.no_volume,
            "Files whose route leads to a volume that is not connected",
            "Connect it, or change the route.",
        ),
        (
            findings.leads_out,
            "Files that go through a link which leads to nothing on this computer's volumes",
            "Change the route, mend the link, or mount what it leads to and add it to the sheet.",
        ),
        (
            findings.not_writable,
            "Files that go into folders where this user may write nothing",
            "Give yourself the right to write there, or change the route.",
        ),
        (bad_routes, "Routes to impossible names", "Change those routes in the plan."),
        (names.too_long, "Paths that the new computer cannot open", _SHORTER),
        (names.collisions, "Files that two routes send to the same place", "Change one of the routes."),
        (findings.in_the_way, "Folders, links or other things in the place of files", _MOVE_AWAY),
    ):
        if places:
            blockers.append(Blocker("files", f"{what}: {len(places)}.", clear, tuple(places)))
    return blockers + _room_blockers(findings, new, disk)


def _room_blockers(findings: Findings, new: Computer, disk: Disk) -> list[Blocker]:
    blockers = []
    for volume in new.volumes:
        needed = findings.needed[str(volume.anchor)]
        if needed and volume.mount is not None:
            free = disk.free_bytes(volume.mount)
            if needed > free:
                what = f"{volume.anchor} has {readable_size(free)} free; {readable_size(needed)} are needed."
                blockers.append(Blocker("room", what, "Free some room there, or change a route to another volume."))
    return blockers
