"""Walk a computer once, and say of everything that is found which holding it belongs to.

Every folder is listed once, however many holdings and patterns look into it. What lies in the places of two holdings
belongs to the deeper one; of two at one place, to the first.
"""

from __future__ import annotations

import fnmatch
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import lru_cache

from ..guides import FactoryPatterns, Holding, is_pattern
from ..machines import Computer, DiskError, FileFacts, Finder, Seen, Sight
from ..paths import Folding, MachinePath, name_key
from .store import FileRow

_NO_FACTS = FileFacts("other", 0, 0, 0)


@dataclass(frozen=True, slots=True)
class Owner:
    """A holding to which what lies in a folder belongs."""

    holding: Holding
    factory: FactoryPatterns | None

    def role_of(self, path: MachinePath) -> str:
        """Whether something is the person's own, came with the program, or is made again by it."""
        if self.holding.part.is_regenerable:
            return "cache"
        return "factory" if self.factory is not None and self.factory.match(path) else "own"


@dataclass(slots=True)
class _Wanted:
    """What is looked for: by the key of its place, by names in one folder, and by names anywhere."""

    at: dict[str, Owner] = field(default_factory=dict)
    named: dict[str, list[tuple[re.Pattern[str], Owner]]] = field(default_factory=dict)
    anywhere: list[tuple[tuple[str, ...], Owner]] = field(default_factory=list)


class Walk:
    """One walk over a computer for a number of holdings.

    ``found`` is what each holding was found to be: the one thing at its place, or any number of them.
    """

    def __init__(self, computer: Computer, finder: Finder, holdings: Sequence[Holding]) -> None:
        self._computer = computer
        self._finder = finder
        self._wanted = _Wanted()
        self._tops: list[MachinePath] = []
        self.found: dict[str, list[Seen]] = {holding.id: [] for holding in holdings}
        if any(holding.part.sweep for holding in holdings):
            self._tops += self._swept_tops()
        for holding in holdings:
            self._want(holding)

    def rows(self) -> Iterator[FileRow]:
        """Everything that belongs to a holding, folders before what they hold."""
        for top in self._outermost():
            seen = self._finder.find(top)
            owner = self._wanted.at.get(self._computer.key(seen.path))
            if seen.sight is Sight.DENIED and owner is not None:
                self.found[owner.holding.id].append(seen)
                yield self._row(owner, seen.path, None, seen.why)
            elif seen.facts is not None:
                if owner is not None:
                    self.found[owner.holding.id].append(seen)
                    yield self._row(owner, seen.path, seen.facts)
                if seen.facts.kind == "folder":
                    yield from self._folder(seen, owner)

    def _swept_tops(self) -> list[MachinePath]:
        """The user's home, and every volume but the one with the home."""
        home = self._computer.place("home")
        system = self._computer.volume_of(home)
        others = [each.anchor for each in self._computer.volumes if each is not system and each.mount is not None]
        return [home, *sorted(others, key=str)]

    def _want(self, holding: Holding) -> None:
        if holding.part.sweep:
            self._wanted.anywhere.append((holding.part.sweep, Owner(holding, None)))
        if holding.at is None:
            return
        if is_pattern(holding.at.name):
            folder = self._finder.find(holding.at.parent).path
            folding = self._computer.rules_for(folder).folding
            pattern = _pattern((holding.at.name,), folding)
            owner = Owner(holding, None)
            self._wanted.named.setdefault(self._computer.key(folder), []).append((pattern, owner))
            self._tops.append(holding.at.parent)
        else:
            at = self._finder.find(holding.at).path
            factory = FactoryPatterns(holding, at, self._computer) if holding.part.factory else None
            self._wanted.at.setdefault(self._computer.key(at), Owner(holding, factory))
            self._tops.append(holding.at)

    def _outermost(self) -> list[MachinePath]:
        """The tops that are in no other one, those swept first."""
        keys = {self._computer.key(self._finder.find(top).path): top for top in reversed(self._tops)}
        return [
            top
            for key, top in reversed(keys.items())
            if not any(key != other and key.startswith(other + "/") for other in keys)
        ]

    def _folder(self, top: Seen, owner: Owner | None) -> Iterator[FileRow]:
        pending = [(top, owner)]
        while pending:
            folder, owner = pending.pop()
            try:
                contents = self._finder.contents(folder)
            except DiskError as error:
                if owner is not None:
                    yield self._row(owner, folder.path, None, str(error))
                continue
            listing = _Listing(self._computer, folder, list(contents), self._wanted, owner)
            deeper = []
            for name, facts in contents.items():
                mine = self._owner_of(listing, name, facts)
                if mine is not None:
                    yield listing.row(name, mine, facts)
                if isinstance(facts, FileFacts) and facts.kind == "folder":
                    deeper.append((listing.seen(name, facts), mine))
            pending.extend(reversed(deeper))

    def _owner_of(self, listing: _Listing, name: str, facts: FileFacts | DiskError) -> Owner | None:
        """To whom something in a folder belongs; what holdings are looking for is noted on the way."""
        if isinstance(facts, DiskError):
            return listing.special_owner(name) or listing.owner
        owner = listing.special_owner(name)
        if owner is not None:
            self.found[owner.holding.id].append(listing.seen(name, facts))
        owner = owner or listing.owner
        if not facts.is_file:
            return owner
        for swept in listing.sweepers(name):
            # A stray is what lies in nobody's place; a catalog is one wherever it lies.
            if owner is None or swept.holding.part.entries:
                self.found[swept.holding.id].append(listing.seen(name, facts))
                owner = owner or swept
        return owner

    def _row(self, owner: Owner, path: MachinePath, facts: FileFacts | None, fault: str = "") -> FileRow:
        return _row(owner, path, str(path), self._computer.key(path), facts, fault)


class _Listing:
    """One folder while it is gone through: what its names are compared by, and whose they are."""

    def __init__(
        self, computer: Computer, folder: Seen, names: list[str], wanted: _Wanted, owner: Owner | None
    ) -> None:
        self._folder = folder
        self._real = folder.real
        self._text = str(folder.path.below(""))
        self._key = computer.key(folder.path)
        self._wanted = wanted
        self._folding = computer.rules_for(folder.path).folding
        self._named = wanted.named.get(self._key, [])
        self._sweeps = [(_pattern(patterns, self._folding), sweeper) for patterns, sweeper in wanted.anywhere]
        self.owner = owner or self._whole_folder(names)

    def special_owner(self, name: str) -> Owner | None:
        """The holding whose very place this is."""
        key = name_key(name, self._folding)
        at = self._wanted.at.get(f"{self._key}/{key}")
        return at or next((owner for pattern, owner in self._named if pattern.match(key)), None)

    def sweepers(self, name: str) -> Iterator[Owner]:
        """The holdings that sweep for such a name."""
        key = name_key(name, self._folding)
        return (owner for pattern, owner in self._sweeps if pattern.match(key))

    def seen(self, name: str, facts: FileFacts) -> Seen:
        """Something in this folder."""
        return Seen(Sight.THERE, self._folder.path.below(name), self._real, facts)

    def row(self, name: str, owner: Owner, facts: FileFacts | DiskError) -> FileRow:
        """Something in this folder, as the survey keeps it."""
        key = f"{self._key}/{name_key(name, self._folding)}"
        fault = str(facts) if isinstance(facts, DiskError) else ""
        known = None if isinstance(facts, DiskError) else facts
        return _row(owner, self._folder.path.below(name), self._text + name, key, known, fault)

    def _whole_folder(self, names: list[str]) -> Owner | None:
        """The holding that takes with a swept file the whole folder in which it lies."""
        wholes = [(pattern, owner) for pattern, owner in self._sweeps if owner.holding.part.whole_folder]
        if not wholes:
            return None
        keys = [name_key(name, self._folding) for name in names]
        return next((owner for pattern, owner in wholes if any(map(pattern.match, keys))), None)


def _row(owner: Owner, path: MachinePath, text: str, key: str, facts: FileFacts | None, fault: str = "") -> FileRow:
    known = facts or _NO_FACTS
    if known.kind == "other" and not fault:
        fault = "it is neither a file, a folder nor a link"
    return FileRow(0, owner.holding.id, owner.role_of(path), known.kind, text, key, known, fault)


@lru_cache(maxsize=1024)
def _pattern(patterns: tuple[str, ...], folding: Folding) -> re.Pattern[str]:
    return re.compile("|".join(fnmatch.translate(name_key(each, folding)) for each in patterns))
