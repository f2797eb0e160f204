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
from .rows import FileRow

_NO_FACTS = FileFacts("other", 0, 0, 0)
_ODD = "it is neither a file, a folder nor a link"


@dataclass(frozen=True, slots=True)
class Owner:
    """A holding to which what lies in a folder belongs."""

    holding: Holding
    factory: FactoryPatterns | None
    role: str = ""  # the same for all of it, where no pattern tells factory content

    @classmethod
    def of(cls, holding: Holding, factory: FactoryPatterns | None = None) -> Owner:
        """The owner for a holding."""
        role = "cache" if holding.part.is_regenerable else "" if factory else "own"
        return cls(holding, factory, role)

    def role_of(self, path: MachinePath) -> str:
        """Whether something is the person's own, came with the program, or is made again by it."""
        if self.role:
            return self.role
        return "factory" if self.factory is not None and self.factory.match(path) else "own"


@dataclass(slots=True)
class _Wanted:
    """What is looked for: by the key of its place, by names in one folder, and by names anywhere."""

    at: dict[str, Owner] = field(default_factory=dict)
    around: set[str] = field(default_factory=set)  # the folders that such places are in
    named: dict[str, list[tuple[re.Pattern[str], Owner]]] = field(default_factory=dict)
    anywhere: list[tuple[str, Owner]] = field(default_factory=list)


class Walk:
    """One walk over a computer for a number of holdings.

    ``found`` is what each holding was found to be: the one thing at its place, or any number of them.
    """

    def __init__(self, computer: Computer, finder: Finder, holdings: Sequence[Holding]) -> None:
        self._computer = computer
        self._finder = finder
        self._wanted = _Wanted()
        self._tops: list[MachinePath] = []
        self._sweeps: dict[Folding, _Sweeps] = {}
        self.found: dict[str, list[Seen]] = {holding.id: [] for holding in holdings}
        if any(holding.part.sweep for holding in holdings):
            self._tops += self._swept_tops()
        for holding in holdings:
            self._want(holding)

    def rows(self) -> Iterator[list[FileRow]]:
        """Everything that belongs to a holding, folder by folder, outer ones before what they hold."""
        for top in self._outermost():
            seen = self._finder.find(top)
            owner = self._wanted.at.get(self._computer.key(seen.path))
            if seen.sight is Sight.DENIED and owner is not None:
                self.found[owner.holding.id].append(seen)
                yield [self._row(owner, seen.path, None, seen.why)]
            elif seen.facts is not None:
                if owner is not None:
                    self.found[owner.holding.id].append(seen)
                    yield [self._row(owner, seen.path, seen.facts)]
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
            owner = Owner.of(holding)
            self._wanted.anywhere += [(pattern, owner) for pattern in holding.part.sweep]
        if holding.at is None:
            return
        if is_pattern(holding.at.name):
            folder = self._finder.find(holding.at.parent).path
            folding = self._computer.rules_for(folder).folding
            pattern = _pattern(holding.at.name, folding)
            owner = Owner.of(holding)
            self._wanted.named.setdefault(self._computer.key(folder), []).append((pattern, owner))
            self._tops.append(holding.at.parent)
        else:
            at = self._finder.find(holding.at).path
            factory = FactoryPatterns(holding, at, self._computer) if holding.part.factory else None
            key = self._computer.key(at)
            self._wanted.at.setdefault(key, Owner.of(holding, factory))
            self._wanted.around.add(key.rpartition("/")[0])
            self._tops.append(holding.at)

    def _outermost(self) -> list[MachinePath]:
        """The tops that are in no other one, those swept first."""
        keys = {self._computer.key(self._finder.find(top).path): top for top in reversed(self._tops)}
        return [
            top
            for key, top in reversed(keys.items())
            if not any(key != other and key.startswith(other + "/") for other in keys)
        ]

    def _folder(self, top: Seen, owner: Owner | None) -> Iterator[list[FileRow]]:
        pending = [(top, owner)]
        while pending:
            folder, owner = pending.pop()
            try:
                contents = self._finder.contents(folder)
            except DiskError as error:
                if owner is not None:
                    yield [self._row(owner, folder.path, None, str(error))]
                continue
            sweeps = self._sweeps_for(self._computer.rules_for(folder.path).folding)
            listing = _Listing(self._computer, folder, list(contents), self._wanted, sweeps, owner)
            rows, deeper = [], []
            for name, facts in contents.items():
                key = name_key(name, listing.folding)
                mine = listing.owner
                if listing.has_special or sweeps.may_want(key):  # seldom; most files are of no special interest
                    mine = self._owner_of(listing, name, key, facts)
                if mine is not None:
                    rows.append(listing.row(name, key, mine, facts))
                if facts.__class__ is FileFacts and facts.kind == "folder":
                    deeper.append((listing.seen(name, facts), mine))
            if rows:
                yield rows
            pending.extend(reversed(deeper))

    def _owner_of(self, listing: _Listing, name: str, key: str, facts: FileFacts | DiskError) -> Owner | None:
        """To whom something in a folder belongs; what holdings are looking for is noted on the way."""
        owner = listing.owner
        if listing.has_special and (special := listing.special_owner(key)):
            owner = special
            if isinstance(facts, FileFacts):
                self.found[owner.holding.id].append(listing.seen(name, facts))
        if not isinstance(facts, FileFacts) or facts.kind != "file":
            return owner
        for swept in listing.sweeps.of(key):
            # A stray is what lies in nobody's place; a catalog is one wherever it lies.
            if owner is None or swept.holding.part.entries:
                self.found[swept.holding.id].append(listing.seen(name, facts))
                owner = owner or swept
        return owner

    def _sweeps_for(self, folding: Folding) -> _Sweeps:
        if folding not in self._sweeps:
            self._sweeps[folding] = _Sweeps(self._wanted.anywhere, folding)
        return self._sweeps[folding]

    def _row(self, owner: Owner, path: MachinePath, facts: FileFacts | None, fault: str = "") -> FileRow:
        known = facts or _NO_FACTS
        fault = fault or (_ODD if known.kind == "other" else "")
        key = self._computer.key(path)
        return FileRow.of(owner.holding.id, owner.role_of(path), str(path), key, known, fault)


class _Sweeps:
    """Who sweeps for a name: asked of every file there is, so the usual patterns are looked up and not tried."""

    def __init__(self, wanted: Sequence[tuple[str, Owner]], folding: Folding) -> None:
        self._endings: dict[str, list[Owner]] = {}
        self._names: dict[str, list[Owner]] = {}
        self._others: list[tuple[re.Pattern[str], Owner]] = []
        self.takes_folders = any(owner.holding.part.whole_folder for _, owner in wanted)
        for pattern, owner in wanted:
            key = name_key(pattern, folding)
            if not is_pattern(pattern):
                self._names.setdefault(key, []).append(owner)
            elif re.fullmatch(r"\*\.[^.*?\[]+", pattern):
                self._endings.setdefault(key[2:], []).append(owner)
            else:
                self._others.append((_pattern(pattern, folding), owner))

    def may_want(self, key: str) -> bool:
        """Whether to ask at all."""
        return key[key.rfind(".") + 1 :] in self._endings or key in self._names or bool(self._others)

    def of(self, key: str) -> Sequence[Owner]:
        """The owners of the patterns that a name's key fits, without repeating one."""
        by_ending = self._endings.get(key.rpartition(".")[2], ()) if "." in key else ()
        by_name = self._names.get(key, ())
        if not self._others and not by_name:
            return by_ending
        others = (owner for pattern, owner in self._others if pattern.match(key))
        return list({id(owner): owner for owner in (*by_ending, *by_name, *others)}.values())


class _Listing:
    """One folder while it is gone through: what its names are compared by, and whose they are."""

    def __init__(
        self, computer: Computer, folder: Seen, names: list[str], wanted: _Wanted, sweeps: _Sweeps, owner: Owner | None
    ) -> None:
        self._folder = folder
        self._real = folder.real
        self._text = str(folder.path.below(""))
        self._key = computer.key(folder.path)
        self._wanted = wanted
        self.folding = computer.rules_for(folder.path).folding
        self.sweeps = sweeps
        self._named = wanted.named.get(self._key, [])
        self.has_special = bool(self._named) or self._key in wanted.around
        self.owner = owner or self._whole_folder(names)

    def special_owner(self, key: str) -> Owner | None:
        """The holding whose very place this is."""
        at = self._wanted.at.get(f"{self._key}/{key}")
        return at or next((owner for pattern, owner in self._named if pattern.match(key)), None)

    def seen(self, name: str, facts: FileFacts) -> Seen:
        """Something in this folder."""
        return Seen(Sight.THERE, self._folder.path.below(name), self._real, facts)

    def row(self, name: str, key: str, owner: Owner, facts: FileFacts | DiskError) -> FileRow:
        """Something in this folder, as the survey keeps it."""
        role = owner.role or owner.role_of(self._folder.path.below(name))
        text, key = self._text + name, f"{self._key}/{key}"
        if isinstance(facts, DiskError):
            return FileRow.of(owner.holding.id, role, text, key, _NO_FACTS, str(facts))
        kind, size, modified_ns, mode, target = facts
        fault = _ODD if kind == "other" else ""
        return FileRow(0, owner.holding.id, role, kind, text, key, size, modified_ns, mode, target, fault)

    def _whole_folder(self, names: list[str]) -> Owner | None:
        """The holding that takes with a swept file the whole folder in which it lies."""
        if not self.sweeps.takes_folders:
            return None
        owners = (owner for name in names for owner in self.sweeps.of(name_key(name, self.folding)))
        return next((owner for owner in owners if owner.holding.part.whole_folder), None)


@lru_cache(maxsize=1024)
def _pattern(pattern: str, folding: Folding) -> re.Pattern[str]:
    return re.compile(fnmatch.translate(name_key(pattern, folding)))
