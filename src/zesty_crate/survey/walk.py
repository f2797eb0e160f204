"""Walk a computer once, and decide for everything found which holding it belongs to.

Every folder is listed once, however many holdings and patterns look into it. What is in the places of two holdings
belongs to the deeper one; of two at one place, to the first.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from pathlib import Path

from ..guides import FactoryPatterns, Holding, is_pattern
from ..machines import Computer, DiskError, FileFacts, Finder, Seen, Sight, said_of
from ..paths import Folding, MachinePath
from .borders import Borders, borders_of
from .coverage import Coverage
from .followed_links import FollowedLinks
from .listing import NO_FACTS, ODD, Listing, Owner, Sought, Sweeps, name_pattern
from .rows import NewFile, new_file
from .told_by import is_told


class Walk:
    """One walk over a computer for a number of holdings.

    ``found`` is what each holding was found to be: the one thing at its place, or any number of them. ``borders`` are
    where it did not go, ``denied`` where it could not look, with the reasons. ``unseen`` says why it is not known of a
    holding whether it is there; ``away`` are those whose volumes are not connected.
    """

    def __init__(
        self,
        computer: Computer,
        finder: Finder,
        holdings: Sequence[Holding],
        coverage: Coverage | None = None,
        mounts: Collection[Path] = (),
    ) -> None:
        """``coverage`` counts what is in nobody's place, for which all volumes are gone through.

        Other file systems are mounted at ``mounts``; the walk does not go into them from above.
        """
        self._computer = computer
        self._finder = finder
        self._coverage = coverage
        self._wanted = Sought()
        self._tops: list[MachinePath] = []
        self.borders = Borders()
        self.links = FollowedLinks(computer, finder)
        self._sweeps: dict[Folding, Sweeps] = {}
        self._within: dict[str, list[str]] = {}  # the folders, by their keys, that a holding is swept for in
        self._at_one_place: list[tuple[str, str]] = []  # a holding, and the first one at its place
        self._holdings = holdings
        self.found: dict[str, list[Seen]] = {holding.id: [] for holding in holdings}
        self.denied: dict[str, str] = {}
        self.unseen: dict[str, str] = {}
        self.away: dict[str, str] = {}
        goes_everywhere = coverage is not None or any(holding.part.sweep for holding in holdings)
        if goes_everywhere:
            self._tops += self._volumes()
        for holding in holdings:
            self._want(holding)
        if goes_everywhere:
            self.borders = borders_of(computer, finder, self._wanted, mounts)

    def rows(self) -> Iterator[list[NewFile]]:
        """Everything that belongs to a holding, folder by folder, outer ones before what they hold."""
        for top in self._outermost():
            yield from self._below(self._finder.folder(top))
        for owner, target in self.links.to_follow(self._wanted.at):
            if self._coverage is not None:
                self._coverage.leave_out(target.path)
            if target.facts is not None:
                yield [self._row(owner, target.path, target.facts)]
            yield from self._folder(target, owner)
        for other, first in self._at_one_place:
            self.found[other] += self.found[first]
        for holding in self._holdings:
            if self.found[holding.id]:
                self.unseen.pop(holding.id, None)  # others of its names could be looked at
            elif holding.at is not None and holding.id not in self.unseen:
                yield from self._look_again(holding, holding.at)

    def _look_again(self, holding: Holding, at: MachinePath) -> Iterator[list[NewFile]]:
        """Of a holding that was not found: whether its place could be looked at."""
        place = at.parent if is_pattern(at.name) else at
        seen = self._finder.folder(place)
        first = next(iter(self._finder.inside(place)), seen)  # which tells of the folder itself if it may not be read
        if seen.sight is Sight.UNPLUGGED:
            if self._computer.volume_of(place) is not None:  # else no such volume belongs to the computer
                self.away[holding.id] = f"the volume {self._computer.anchor_of(place)} is not connected"
        elif first.sight is Sight.DENIED and (seen.sight is Sight.DENIED or first.path == seen.path):
            self.unseen[holding.id] = first.why
            yield [self._row(Owner.of(holding), place, None, first.why)]

    def _below(self, seen: Seen) -> Iterator[list[NewFile]]:
        """What is at one of the tops, and below it."""
        owner = self._wanted.at.get(self._computer.key(seen.path))
        if seen.sight is Sight.DENIED and owner is None:
            self._deny(seen.path, seen.why)
        elif seen.facts is not None:
            if owner is not None:
                self.found[owner.holding.id].append(seen)
                yield [self._row(owner, seen.path, seen.facts)]
            if seen.facts.kind == "folder":
                yield from self._folder(seen, owner)

    def _deny(self, folder: MachinePath, why: str) -> None:
        """Take notice of a folder in nobody's place that cannot be looked into."""
        self.denied[str(folder)] = why
        if self._coverage is not None:
            self._coverage.note_faulty(folder, why)

    def _volumes(self) -> list[MachinePath]:
        """Every volume that is here, the one with the home first."""
        home = self._computer.volume_of(self._computer.place("home"))
        here = [each for each in self._computer.volumes if each.mount is not None]
        return [each.anchor for each in sorted(here, key=lambda each: (each is not home, str(each.anchor)))]

    def _want(self, holding: Holding) -> None:
        if holding.part.sweep:
            owner = Owner.of(holding)
            self._wanted.anywhere += [(pattern, owner) for pattern in holding.part.sweep]
            folders = (self._finder.folder(each).path for each in holding.within)
            self._within[holding.id] = [f"{self._computer.key(each)}/" for each in folders]
        if holding.at is None:
            return
        self.links.note_on_the_way(holding.at.parent if is_pattern(holding.at.name) else holding.at)
        if is_pattern(holding.at.name):
            folder = self._finder.folder(holding.at.parent).path
            folding = self._computer.rules_for(folder).folding
            pattern = name_pattern(holding.at.name, folding)
            owner = Owner.of(holding)
            self._wanted.named.setdefault(self._computer.key(folder), []).append((pattern, owner))
            self._tops.append(holding.at.parent)
        else:
            at = self._finder.folder(holding.at).path
            factory = FactoryPatterns(holding, at, self._computer) if holding.part.factory else None
            key = self._computer.key(at)
            first = self._wanted.at.setdefault(key, Owner.of(holding, factory)).holding
            if first is not holding:
                self._at_one_place.append((holding.id, first.id))
            self._wanted.around.add(key.rpartition("/")[0])
            self._tops.append(holding.at)

    def _outermost(self) -> list[MachinePath]:
        """The tops to which no other one leads."""
        keys = {self._computer.key(self._finder.folder(top).path): top for top in reversed(self._tops)}
        return [top for key, top in reversed(keys.items()) if not any(self.borders.leads(other, key) for other in keys)]

    def _folder(self, top: Seen, owner: Owner | None) -> Iterator[list[NewFile]]:
        pending = [(top, owner)]
        for contents in self._finder.contents_below(top, self.borders.folders):  # which goes the same way
            folder, owner = pending.pop()
            if isinstance(contents, DiskError):
                why = said_of(contents, folder.path)
                if owner is not None:
                    yield [self._row(owner, folder.path, None, why)]
                    self.denied[str(folder.path)] = why
                else:
                    self._deny(folder.path, why)
                continue
            self._finder.note_listed(folder, contents)
            sweeps = self._sweeps_for(self._computer.rules_for(folder.path).folding)
            listing = Listing(self._computer, folder, contents, self._wanted, sweeps, owner)
            owners = [listing.owner] * len(contents)
            if listing.has_special or sweeps.may_want(listing.keys):  # seldom; most folders are of no special interest
                everything = zip(contents.items(), listing.keys, strict=True)
                owners = [self._owner_of(listing, sweeps, name, key, facts) for (name, facts), key in everything]
            if rows := listing.rows(owners):
                yield rows
            for link, whose in listing.links(owners):
                self.links.note(whose, link)
            if self._coverage is not None and listing.owner is None:
                placed = any(each is not None and not each.holding.part.sweep for each in owners)
                self._coverage.note(folder.path, contents, [each is not None for each in owners], is_split=placed)
            inner = listing.folders(owners)
            if listing.key in self.borders.around:
                inner = [each for each in inner if str(each[0].real) not in self.borders.folders]
            pending.extend(reversed(inner))

    def _owner_of(
        self, listing: Listing, sweeps: Sweeps, name: str, key: str, facts: FileFacts | DiskError
    ) -> Owner | None:
        """To whom something in a folder belongs; what holdings are looking for is noted on the way."""
        owner = listing.owner
        if listing.has_special and (special := listing.special_owner(key)):
            owner = special
            if isinstance(facts, FileFacts):
                self.found[owner.holding.id].append(listing.seen(name, facts))
            else:
                self.unseen[owner.holding.id] = said_of(facts, listing.path_of(name))
        if not isinstance(facts, FileFacts) or facts.kind != "file":
            return owner
        for swept in sweeps.of(key):
            # A stray is what is in nobody's place; a catalog is one wherever it is.
            if (owner is None or swept.holding.part.entries) and self._may_be_in(swept.holding, listing.key):
                seen, told_by = listing.seen(name, facts), swept.holding.part.told_by
                if told_by is None or (seen.real is not None and is_told(told_by, seen.real)):
                    self.found[swept.holding.id].append(seen)
                    owner = owner or swept
        return owner

    def _may_be_in(self, holding: Holding, folder: str) -> bool:
        within = self._within[holding.id]
        return not within or any(f"{folder}/".startswith(each) for each in within)

    def _sweeps_for(self, folding: Folding) -> Sweeps:
        if folding not in self._sweeps:
            self._sweeps[folding] = Sweeps(self._wanted.anywhere, folding)
        return self._sweeps[folding]

    def _row(self, owner: Owner, path: MachinePath, facts: FileFacts | None, fault: str = "") -> NewFile:
        known = facts or NO_FACTS
        fault = fault or (ODD if known.kind == "other" else "")
        key = self._computer.key(path)
        return new_file(owner.holding.id, owner.role_of(path), str(path), key, known, fault)
