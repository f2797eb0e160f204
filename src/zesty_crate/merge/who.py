"""Who is who: which entries of two catalogs of one computer are one and the same. What is not sure is not guessed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import NamedTuple

from ..catalogs import BriefCatalog, Catalog, Entry
from ..machines import Computer
from ..paths import MachinePath, PathError, Spelling, read_path

_REMEMBERED_FOLDERS = 50_000


class Known(NamedTuple):
    """What an entry is known by: its key, the file that it means, and what its guide says it is known by."""

    key: str
    file: str
    identity: str
    recorded: str
    changed_ns: int | None


@dataclass(frozen=True, slots=True)
class Pairs:
    """Carried entries by their keys, each with the key of the one there that is the same; and those of doubt."""

    one: Mapping[str, str]
    unsure: tuple[str, ...]


def pair(carried: Catalog, there: Catalog, computer: Computer, origin: Mapping[str, str]) -> Pairs:
    """Find the entries that both catalogs have. Both name files of the same ``computer``.

    By the keys that both had when they were one (``origin``, as keys carried and there), by the program's own identity,
    and by the file that is meant. Where several on either side are alike in it, none is taken for another.
    """
    mine = list(known_entries(carried, computer))
    theirs = list(known_entries(there, computer))
    keys_there = {each.key for each in theirs}
    one = {each.key: origin[each.key] for each in mine if origin.get(each.key) in keys_there}
    unsure: list[str] = []
    for named in ("identity", "file"):
        taken = set(one.values())
        left = _by(named, (each for each in mine if each.key not in one))
        right = _by(named, (each for each in theirs if each.key not in taken))
        for value, ours in left.items():
            others = right.get(value, [])
            if len(ours) == len(others) == 1:
                if _may_be_one(ours[0], others[0]):
                    one[ours[0].key] = others[0].key
            elif others and named == "file":
                unsure += [each.recorded for each in ours]
    return Pairs(one, tuple(unsure))


def _may_be_one(one: Known, other: Known) -> bool:
    """Two of one file are not one where the program itself knows them apart."""
    return not (one.identity and other.identity) or one.identity == other.identity


def _by(name: str, entries: Iterator[Known]) -> dict[str, list[Known]]:
    found: defaultdict[str, list[Known]] = defaultdict(list)
    for each in entries:
        if value := getattr(each, name):
            found[value].append(each)
    return found


def known_entries(catalog: Catalog, computer: Computer) -> Iterator[Known]:
    """What each entry of a catalog is known by."""
    files = _Files(computer)
    if not isinstance(catalog, BriefCatalog):
        yield from (files.of_entry(entry) for entry in catalog.entries(placed=False))
        return
    for table in catalog.brief():
        for each in table.rows:
            if isinstance(each, Entry):
                yield files.of_entry(each)
            else:
                yield Known(each[0], files.key(each[1], table.spelling, table.base), "", each[1], None)


class _Files:
    """Tells which file a recorded path means; entries come by folders, and each is understood once."""

    def __init__(self, computer: Computer) -> None:
        self._computer = computer
        self._folders: dict[tuple[str, Spelling], MachinePath] = {}

    def of_entry(self, entry: Entry) -> Known:
        known = entry.known
        file = f"\0{entry.recorded}" if entry.remote else self.key(entry.recorded, entry.spelling, entry.base)
        if known.numbered is not None and known.numbered.in_folder:
            file += f"\0{known.numbered.prefix}\0{known.numbered.suffix}"
        return Known(entry.key, file, known.identity, entry.recorded, known.changed_ns)

    def key(self, recorded: str, spelling: Spelling, base: MachinePath | None) -> str:
        """The key of a file; for what is no path, the text itself, which is alike on either side, too."""
        computer = self._computer
        try:
            folder, cut, name = recorded.rpartition(computer.system.separator)
            is_odd = not cut or name in ("", ".", "..") or "/" in name or "%" in recorded or "$" in recorded
            if is_odd or spelling is not Spelling.NATIVE:
                return computer.key(read_path(recorded, computer.system, spelling, base, computer.variables).path)
            known = self._folders.get((folder, spelling))
            if known is None:
                if len(self._folders) >= _REMEMBERED_FOLDERS:
                    self._folders.clear()
                path = read_path(folder + cut, computer.system, spelling, base, computer.variables).path
                known = self._folders[folder, spelling] = path
            return computer.key(known.below(name))
        except PathError:
            return f"\0{recorded}" if recorded else ""
