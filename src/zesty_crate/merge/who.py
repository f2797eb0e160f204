"""Who is who: which entries of two catalogs of one computer are one and the same. What is not sure is not guessed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence, Set
from dataclasses import dataclass
from typing import NamedTuple

from ..catalogs import BriefCatalog, Catalog, Entry
from ..guides import HoldingPart
from ..machines import Computer, FileKeys
from ..paths import MachinePath, Spelling

_END = 12  # characters
_SHORT = 40  # of a path that is shorter, the end may reach into how it begins, which many write in their own way


class Known(NamedTuple):
    """What an entry is known by: its key, the file that it means, and what its guide says it is known by."""

    key: str
    file: str
    identity: str
    recorded: str


@dataclass(frozen=True, slots=True)
class Pairs:
    """Carried entries by their keys, each with the key of the one there that is the same; and those of doubt.

    ``carried`` are all that came, and ``there`` is how many entries the other catalog has.
    """

    one: Mapping[str, str]
    unsure: tuple[str, ...]
    carried: tuple[Known, ...]
    there: int


def pair(
    carried: Catalog, there: Catalog, computer: Computer, origin: Mapping[str, str], *, in_order: bool = False
) -> Pairs:
    """Find the entries that both catalogs have. Both name files of the same ``computer``.

    By the keys that both had when they were one (``origin``, as keys carried and there), by the program's own identity,
    and by the file that is meant. Where several are alike in it, none is taken for another; but ``in_order``
    the first for the first, and so on, as in documents that know no keys.
    """
    mine = tuple(known_entries(carried, computer))
    theirs, number = _alike(there, computer, mine, set(origin.values()))
    keys_there = {each.key for each in theirs}
    one = {each.key: origin[each.key] for each in mine if origin.get(each.key) in keys_there}
    unsure: list[str] = []
    for named in ("identity", "file"):
        taken = set(one.values())
        left = _by(named, (each for each in mine if each.key not in one))
        right = _by(named, (each for each in theirs if each.key not in taken))
        for value, ours in left.items():
            others = right.get(value, [])
            if in_order:
                one |= {each.key: other.key for each, other in zip(ours, others, strict=False)}
            elif len(ours) == len(others) == 1:
                if _may_be_one(ours[0], others[0]):
                    one[ours[0].key] = others[0].key
            elif others and named == "file":
                unsure += [each.recorded for each in ours]
    return Pairs(one, tuple(unsure), mine, number)


def pairs_of_origin(
    before: Catalog,
    left: Catalog,
    carried: Catalog,
    there: Catalog,
    computer: Computer,
    keys: Mapping[str, str] | None,
) -> dict[str, str]:
    """Keys of entries that were one at their origin, and still mean the same file, or are known by the same.

    The catalogs are the carried one as it was then, the one there as it was then, and both as they are now. ``keys``
    are those there for the carried ones; None where they were the same. A key may have been given to another entry
    since, so it is taken for the same only if that shows.
    """
    was = {each.key: each for each in known_entries(left, computer)}
    now = (each for each in known_entries(there, computer) if each.key in was)
    same = {each.key for each in now if _shows_the_same(each, was[each.key])}
    names = {each.key: _last_name(each) for each in known_entries(before, computer)}
    alike = (each.key for each in known_entries(carried, computer) if names.get(each.key) == _last_name(each))
    pairs = ((key, key if keys is None else keys.get(key, "")) for key in alike)
    return {key: other for key, other in pairs if other in same}


def _shows_the_same(one: Known, other: Known) -> bool:
    return one.file == other.file or (bool(one.identity) and one.identity == other.identity)


def _last_name(known: Known) -> str:
    return known.recorded.replace("\\", "/").rpartition("/")[2]


def _alike(there: Catalog, computer: Computer, mine: Sequence[Known], keys: Set[str]) -> tuple[list[Known], int]:
    """Of the entries there, those that may be one with any of ``mine``, or have one of these ``keys``; and how many."""
    identities = {each.identity for each in mine} - {""}
    files = {each.file for each in mine} - {""}
    found, number, ends = [], 0, Ends(files)
    for number, each in enumerate(known_entries(there, computer, ends=ends), start=1):  # noqa: B007  counted for the end
        if each.file in files or each.identity in identities or each.key in keys:
            found.append(each)
    return found, number


def _may_be_one(one: Known, other: Known) -> bool:
    """Two of one file are not one where the program itself knows them apart."""
    return not (one.identity and other.identity) or one.identity == other.identity


def _by(name: str, entries: Iterator[Known]) -> dict[str, list[Known]]:
    found: defaultdict[str, list[Known]] = defaultdict(list)
    for each in entries:
        if value := getattr(each, name):
            found[value].append(each)
    return found


def light(part: HoldingPart) -> HoldingPart:
    """A guide of a catalog that tells no more of its entries than what they are known by: a million are soon read."""
    dropped = {
        "annotations": (), "size": None, "name": None, "content": None, "modified": None, "duration": None,
        "dimensions": None, "changed": None, "beside": (),
    }  # fmt: skip
    return part.model_copy(update={"entries": tuple(each.model_copy(update=dropped) for each in part.entries)})


def known_entries(
    catalog: Catalog, computer: Computer, wanted: Set[str] | None = None, ends: Ends | None = None
) -> Iterator[Known]:
    """What each entry of a catalog is known by.

    Of those that are not ``wanted``, or with ``ends`` are none of some files, no more than the key.
    """
    files = _Files(computer)
    if not isinstance(catalog, BriefCatalog):
        yield from (files.of_entry(entry) for entry in catalog.entries(placed=False))
        return
    for table in catalog.brief():
        may_be = None if ends is None or table.spelling is not Spelling.NATIVE else ends.may_be
        for each in table.rows:
            if isinstance(each, Entry):
                yield files.of_entry(each)
            elif (wanted is not None and each[0] not in wanted) or (may_be is not None and not may_be(each[1])):
                yield Known(each[0], "", "", "")
            else:
                yield Known(each[0], files.key(each[1], table.spelling, table.base), "", each[1])


class Ends:
    """Whether a native path may mean one of some files: most of a million end otherwise, and are not taken apart."""

    def __init__(self, files: Iterable[str]) -> None:
        """``files`` are what `Known` has."""
        self._ends = {_end_of(each) for each in files}

    def may_be(self, recorded: str) -> bool:
        """Whether it ends as one of the files does, or may be written otherwise than they are."""
        end = _end_of(recorded)
        if len(recorded) < _SHORT or not end.isascii() or end in self._ends:
            return True
        return end[-1:] == "/" or "/." in end or "//" in end or "%" in end or "$" in end


def _end_of(text: str) -> str:
    return text[-_END:].lower().replace("\\", "/")


class _Files:
    """Tells which file a recorded path means; for what is no path, the text itself, which is alike on either side."""

    def __init__(self, computer: Computer) -> None:
        self._keys = FileKeys(computer)

    def of_entry(self, entry: Entry) -> Known:
        known = entry.known
        file = f"\0{entry.recorded}" if entry.remote else self.key(entry.recorded, entry.spelling, entry.base)
        if known.numbered is not None and known.numbered.in_folder:
            file += f"\0{known.numbered.prefix}\0{known.numbered.suffix}"
        return Known(entry.key, file, known.identity, entry.recorded)

    def key(self, recorded: str, spelling: Spelling, base: MachinePath | None) -> str:
        return self._keys.key(recorded, spelling, base) or (f"\0{recorded}" if recorded else "")
