"""Look at the new computer before anything happens: what is in the way, what cannot be, what there is no room for."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field

from ..crate import readable_size
from ..journal import Journal, Spots
from ..machines import Computer, Disk, Finder, Seen
from ..paths import MachinePath, name_fault
from .document import Blocker
from .placements import Placement, Placements


@dataclass(slots=True)
class Findings:
    """What a look at the new computer came to. Sizes in bytes, by volume anchor."""

    files: int = 0
    size_bytes: int = 0
    already_there: int = 0
    by_route: Counter[str] = field(default_factory=Counter)
    needed: Counter[str] = field(default_factory=Counter)
    no_route: list[str] = field(default_factory=list)
    no_volume: list[str] = field(default_factory=list)
    bad_names: list[str] = field(default_factory=list)
    in_the_way: list[str] = field(default_factory=list)
    collisions: list[str] = field(default_factory=list)


class Inspector:
    """Looks at each placement on the new computer and changes nothing."""

    def __init__(self, new: Computer, disk: Disk, journal: Journal | None) -> None:
        self._new = new
        self._disk = disk
        self._finder = Finder(new, disk)
        self._journal = journal
        self._spots = Spots(new)
        self._targets: dict[int, str] = {}
        self.findings = Findings()

    def look(self, placements: Placements) -> Findings:
        """Inspect everything that would be placed."""
        for placement in placements.files():
            self.findings.files += 1
            self.findings.size_bytes += placement.carried.file.facts.size_bytes if placement.carried else 0
            self._look_at(placement)
        for placement in placements.links():
            self._look_at(placement)
        return self.findings

    def _look_at(self, placement: Placement) -> None:
        found, new = self.findings, placement.new
        if new is None or placement.route is None:
            found.no_route.append(str(placement.old))
            return
        found.by_route[str(placement.route.old)] += 1
        rules = self._new.rules_for(new)
        faults = (f"{name!r}: {fault}" for name in new.parts if (fault := name_fault(name, rules)))
        if fault := next(faults, ""):
            found.bad_names.append(f"{placement.old}: {fault}")
            return
        key = self._new.key(new)
        if self._targets.setdefault(hash(key), str(placement.old)) != str(placement.old):
            found.collisions.append(f"{placement.old} and {self._targets[hash(key)]}")
        self._look_at_target(placement, new)

    def _look_at_target(self, placement: Placement, new: MachinePath) -> None:
        found = self.findings
        volume = self._new.volume_of(new)
        seen = self._finder.find(new)
        if volume is None or volume.mount is None or self._disk.facts(volume.mount) is None:
            found.no_volume.append(str(new))
        elif self._was_placed(new) or self._is_same(placement, seen):
            found.already_there += 1
        elif seen.facts is not None:
            found.in_the_way.append(f"{seen.path} ({readable_size(seen.facts.size_bytes)})")
        else:
            found.needed[str(volume.anchor)] += placement.row.facts.size_bytes

    def _was_placed(self, new: MachinePath) -> bool:
        """Whether this very move put it there (a relinked catalog is then not what was carried, and rightly so)."""
        return self._journal is not None and self._journal.last_at(self._spots.at(self._finder, new)) is not None

    def _is_same(self, placement: Placement, seen: Seen) -> bool:
        if seen.facts is None or seen.real is None:
            return False
        if placement.carried is None:
            return seen.facts.kind == "link" and seen.facts.target == placement.row.facts.target
        if not seen.facts.is_file or seen.facts.size_bytes != placement.carried.file.facts.size_bytes:
            return False
        return self._disk.digest(seen.real).sha512 == placement.carried.sha512


_RENAME = "Rename them on the old computer, and make a new crate."
_MOVE_AWAY = "Move those away on the new computer, or change the route."


def find_blockers(findings: Findings, new: Computer, disk: Disk) -> list[Blocker]:
    """Everything on the new computer's disks that keeps the plan from running, each with what clears it."""
    blockers = []
    for places, what, clear in (
        (findings.no_route, "Carried files without a route", "Add a [[route]] for them to the plan."),
        (findings.no_volume, "Files that would go to a volume that is not here", "Plug it in, or change the route."),
        (findings.bad_names, "Names that cannot be written on the new computer", _RENAME),
        (findings.collisions, "Pairs of files that would get one name", "Send one of each elsewhere with a route."),
        (findings.in_the_way, "Files in the way, where something carried is to go", _MOVE_AWAY),
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
                what = f"{volume.anchor} has {readable_size(free)} free, and {readable_size(needed)} are needed."
                blockers.append(Blocker("room", what, "Make room there, or change a route to another volume."))
    return blockers
