"""What a catalog holds of a person's work, so that two of them can be weighed before one takes the other's place."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import closing
from dataclasses import dataclass, field

from ..catalogs import BriefCatalog, Catalog, Entry, syntax_of
from ..guides import FactoryPatterns, Holding
from ..machines import Computer, Disk, FileKeys, Seen, working_folder
from ..machines.texts import restored
from ..paths import MachinePath, PathError, read_path
from ..survey import Document, SurveyStore
from .move import Move


@dataclass(frozen=True, slots=True)
class Work:
    """How much is in a catalog."""

    entries: int
    groups: int
    annotations: int


@dataclass(slots=True)
class CatalogContent:
    """A catalog's content in a form in which two computers' can be compared: hashes, by the new computer's paths."""

    entries: set[int] = field(default_factory=set)
    members: set[int] = field(default_factory=set)  # with the names of groups, empty ones too
    annotations: set[int] = field(default_factory=set)
    groups: int = 0
    own_entries: int = 0  # those that are not of the program's own content

    @property
    def work(self) -> Work:
        """The numbers alone."""
        return Work(len(self.entries), self.groups, len(self.annotations))

    def holds_more_than(self, other: CatalogContent) -> bool:
        """Whether anything is in here that ``other`` lacks."""
        return bool(
            self.entries - other.entries or self.members - other.members or self.annotations - other.annotations
        )

    def add(self, entry: str, annotations: Iterable[tuple[str, str]], *, own: bool = True) -> int:
        """Add an entry, named so that both computers name it alike, with what a person wrote to it; its hash."""
        known = hash(entry)
        self.entries.add(known)
        self.own_entries += own
        for name, value in annotations:
            if value:
                self.annotations.add(hash((known, name, value)))
        return known

    def add_all(self, other: CatalogContent) -> None:
        """Add what another holding finds in the same catalog."""
        self.entries |= other.entries
        self.members |= other.members
        self.annotations |= other.annotations
        self.groups += other.groups
        self.own_entries += other.own_entries

    def add_group(self, name: str, members: Iterable[int]) -> None:
        """Add a group of entries, by their hashes. Another order of its members is no other work."""
        self.groups += 1
        self.members.add(hash(name))
        self.members.update(hash((name, member)) for member in members)


def carried_content(
    survey: SurveyStore,
    document: Document,
    old: Computer,
    place: Callable[[MachinePath], MachinePath | None],
    new: Computer,
) -> CatalogContent:
    """The content of a catalog as it was on the old computer, under the paths that it will have on the new one.

    ``place`` tells where a file of the old computer goes.
    """
    content = CatalogContent()
    mine, bindings = "holding = ? AND substr({}, 1, ?) = ?", (document.holding, len(document.prefix), document.prefix)
    annotations: dict[str, list[tuple[str, str]]] = {}
    database = survey.database
    for entry, name, value in database.execute(
        f"SELECT entry, name, value FROM annotation WHERE {mine.format('entry')}", bindings
    ):
        annotations.setdefault(entry, []).append((str(name), restored(value) if value is not None else ""))
    known: dict[str, int] = {}
    for key, recorded, path in database.execute(
        f"SELECT key, recorded, path FROM entry WHERE {mine.format('key')}", bindings
    ):
        there = place(old.parse(restored(path))) if path else None
        known[key] = content.add(new.key(there) if there else restored(recorded), annotations.get(key, ()))
    for key, name in list(database.execute(f"SELECT key, name FROM grp WHERE {mine.format('key')}", bindings)):
        query = "SELECT entry FROM member WHERE holding = ? AND grp = ? ORDER BY position"
        keys = (row[0] for row in database.execute(query, (document.holding, key)))
        content.add_group(restored(name), _members(keys, known, document.prefix))
    return content


def content_there(move: Move, holding: Holding, seen: Seen, disk: Disk) -> CatalogContent:
    """The content of a catalog that is on the new computer already. Raises `CatalogError` when it cannot be read."""
    new, content = move.new, CatalogContent()
    if seen.real is None:
        return content
    factory = _factory_of(move, holding)
    with (
        working_folder(disk, move.folder / "work") as work,
        closing(syntax_of(holding.part).open(seen.real, holding.part, seen.path, disk, work)) as catalog,
    ):
        known: dict[str, int] = {}
        for key, name, annotations, own in _entries_there(catalog, new, factory):
            known[key] = content.add(name, annotations, own=own)
        for group in catalog.groups():
            content.add_group(group.name, _members(group.members, known))
    return content


def _members(keys: Iterable[str], known: Mapping[str, int], prefix: str = "") -> Iterator[int]:
    """The hashes of entries by their keys; of those that are not there, that of what the group says."""
    return (known[key] if key in known else hash(key.removeprefix(prefix)) for key in keys)


def _entries_there(
    catalog: Catalog, new: Computer, factory: list[FactoryPatterns]
) -> Iterator[tuple[str, str, Iterable[tuple[str, str]], bool]]:
    """The key of each entry, what it is known by on either computer, what a person wrote to it, and whose it is.

    It is the person's own where it is not the program's.
    """
    keys = FileKeys(new)
    if factory or not isinstance(catalog, BriefCatalog):
        for entry in catalog.entries(placed=False):
            name, own = _name_of(entry, new, factory)
            yield entry.key, name, entry.annotations, own
        return
    for table in catalog.brief():
        for each in table.rows:
            if isinstance(each, Entry):
                yield each.key, _name_of(each, new, factory)[0], each.annotations, True
            else:
                key, recorded, _, annotations = each
                yield key, keys.key(recorded, table.spelling, table.base) or recorded, annotations, True


def _name_of(entry: Entry, new: Computer, factory: list[FactoryPatterns]) -> tuple[str, bool]:
    """What an entry is known by on either computer, and whether it is the person's own."""
    if entry.remote:
        return entry.recorded, True
    try:
        path = read_path(entry.recorded, new.system, entry.spelling, entry.base, new.variables).path
    except PathError:
        return entry.recorded, True
    return new.key(path), not any(each.holds(path) for each in factory)


def _factory_of(move: Move, holding: Holding) -> list[FactoryPatterns]:
    return [
        FactoryPatterns(each, each.at, move.new)
        for each in move.holdings_there()
        if each.guide.id == holding.guide.id and each.part.factory and each.at is not None
    ]
