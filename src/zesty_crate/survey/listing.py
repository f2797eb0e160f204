"""One folder while it is gone through: what its names are compared by, and whose they are."""

from __future__ import annotations

import fnmatch
import re
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import cast

from ..guides import FactoryPatterns, Holding, is_pattern
from ..machines import Computer, Contents, DiskError, FileFacts, Seen, Sight, said_of
from ..paths import Folding, MachinePath, name_key
from ..systems.worker_program import Facts
from .rows import NewFile, new_file

NO_FACTS = FileFacts("other", 0, 0, 0)
ODD = "it is neither a file, a folder nor a link"


@dataclass(frozen=True, slots=True)
class Owner:
    """A holding to which what is in a folder belongs."""

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
class Sought:
    """What is looked for: by the key of its place, by names in one folder, and by names anywhere."""

    at: dict[str, Owner] = field(default_factory=dict)
    around: set[str] = field(default_factory=set)  # the folders that such places are in
    named: dict[str, list[tuple[re.Pattern[str], Owner]]] = field(default_factory=dict)
    anywhere: list[tuple[str, Owner]] = field(default_factory=list)


class Sweeps:
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
                self._others.append((name_pattern(pattern, folding), owner))

    def may_want(self, keys: Collection[str]) -> bool:
        """Whether to ask at all about what is in a folder, by its keys."""
        if self._others or not self._names.keys().isdisjoint(keys):
            return bool(keys)
        return bool(self._endings) and not self._endings.keys().isdisjoint({key[key.rfind(".") + 1 :] for key in keys})

    def of(self, key: str) -> Sequence[Owner]:
        """The owners of the patterns that a name's key fits, without repeating one."""
        by_ending = self._endings.get(key.rpartition(".")[2], ()) if "." in key else ()
        by_name = self._names.get(key, ())
        if not self._others and not by_name:
            return by_ending
        others = (owner for pattern, owner in self._others if pattern.match(key))
        return list({id(owner): owner for owner in (*by_ending, *by_name, *others)}.values())


class Listing:
    """A folder's names, keys and facts, each in the same order."""

    def __init__(
        self, computer: Computer, folder: Seen, contents: Contents, wanted: Sought, sweeps: Sweeps, owner: Owner | None
    ) -> None:
        folding = computer.rules_for(folder.path).folding
        self._folder = folder
        self._real = folder.real
        self._text = str(folder.path.below(""))
        self.key = computer.key(folder.path)
        self._wanted = wanted
        self._sweeps = sweeps
        self._named = wanted.named.get(self.key, [])
        self._kinds = contents.kinds()
        self._is_plain = sum(map(self._kinds.count, ("file", "folder", "link"))) == len(contents)
        self.contents = contents
        names = contents.names
        self.keys: Sequence[str] = names if folding is Folding.EXACT else [name_key(name, folding) for name in names]
        self.has_special = bool(self._named) or self.key in wanted.around
        self.owner = owner or self._whole_folder()

    def special_owner(self, key: str) -> Owner | None:
        """The holding whose very place this is."""
        at = self._wanted.at.get(f"{self.key}/{key}")
        return at or next((owner for pattern, owner in self._named if pattern.match(key)), None)

    def seen(self, name: str, facts: FileFacts) -> Seen:
        """Something in this folder."""
        return Seen(Sight.THERE, self.path_of(name), self._real, facts)

    def path_of(self, name: str) -> MachinePath:
        """The path of something in this folder."""
        return self._folder.path.below(name)

    def folders(self, owners: Sequence[Owner | None]) -> list[tuple[Seen, Owner | None]]:
        """The folders in this one, with whose they are."""
        return self._of_kind("folder", owners)

    def links(self, owners: Sequence[Owner | None]) -> list[tuple[Seen, Owner]]:
        """The links in this folder that are somebody's."""
        return [(link, owner) for link, owner in self._of_kind("link", owners) if owner is not None]

    def _of_kind(self, kind: str, owners: Sequence[Owner | None]) -> list[tuple[Seen, Owner | None]]:
        if kind not in self._kinds:
            return []
        everything = zip(self.contents.items(), owners, strict=True)
        return [
            (self.seen(name, facts), owner)
            for (name, facts), owner in everything
            if isinstance(facts, FileFacts) and facts.kind == kind
        ]

    def rows(self, owners: Sequence[Owner | None]) -> list[NewFile]:
        """What is somebody's in this folder, as the survey keeps it."""
        if self._is_plain and owners and owners[0] and owners[0].role and owners.count(owners[0]) == len(owners):
            return self._plain_rows(owners[0])
        everything = zip(self.contents.items(), self.keys, owners, strict=True)
        return [self._row(name, key, owner, facts) for (name, facts), key, owner in everything if owner is not None]

    def _plain_rows(self, owner: Owner) -> list[NewFile]:
        """The rows of a folder in which all is one owner's: by far the most, so everything that can be is done once."""
        holding, role, text, above, contents = owner.holding.id, owner.role, self._text, self.key + "/", self.contents
        facts = cast("Iterable[Facts]", contents.told)  # there is no fault among them
        return [
            (holding, role, kind, text + name, above + key, size, modified_ns, mode, target, "")
            for name, key, (kind, size, modified_ns, mode, target) in zip(contents.names, self.keys, facts, strict=True)
        ]

    def _row(self, name: str, key: str, owner: Owner, facts: FileFacts | DiskError) -> NewFile:
        role = owner.role or owner.role_of(self.path_of(name))
        text, key = self._text + name, f"{self.key}/{key}"
        if isinstance(facts, DiskError):
            return new_file(owner.holding.id, role, text, key, NO_FACTS, said_of(facts, self.path_of(name)))
        return new_file(owner.holding.id, role, text, key, facts, ODD if facts.kind == "other" else "")

    def _whole_folder(self) -> Owner | None:
        """The holding that takes with a swept file the whole folder that it is in."""
        if not self._sweeps.takes_folders:
            return None
        owners = (owner for key in self.keys for owner in self._sweeps.of(key))
        return next((owner for owner in owners if owner.holding.part.whole_folder), None)


@lru_cache(maxsize=1024)
def name_pattern(pattern: str, folding: Folding) -> re.Pattern[str]:
    """A pattern of names as a volume compares them."""
    return re.compile(fnmatch.translate(name_key(pattern, folding)))
