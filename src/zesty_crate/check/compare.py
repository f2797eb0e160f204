"""Compare what two computers hold: what is only here, only there, or differs, and which side is newer."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from itertools import tee
from typing import Any, NamedTuple

import apsw

from ..guides import Guide, is_pattern
from ..machines import Computer, Disk, DiskError, Finder, Sheet
from ..machines.moments import same_moment
from ..machines.texts import restored, stored
from ..paths import MachinePath, RouteMap
from ..plan import CatalogContent, carried_content, propose_routes
from ..progress import Progress, Tell, silent
from ..survey import ODD, WERE_READ, Document, NotLookedAt, SurveyStore, Totals, no_totals, not_looked_at_in

_TELL_EVERY = 1_000
_SCHEMA = """
CREATE TABLE side (key PRIMARY KEY, holding TEXT, path, size INTEGER, modified_ns INTEGER, sha512 TEXT);
CREATE TABLE other (key PRIMARY KEY, holding TEXT, path, size INTEGER, modified_ns INTEGER, sha512 TEXT);
"""
_FILES = """
SELECT f.key, f.holding, f.path, f.size, f.modified_ns, coalesce(c.sha512, '') FROM file AS f
LEFT JOIN carried AS c ON c.file = f.id WHERE f.kind = 'file' AND f.role IN ('own', 'outside') ORDER BY f.path
"""
_WORDS = ("same", "only-here", "only-there", "differs", "newer-here", "newer-there", "unclear")
_INSERT = "INSERT OR IGNORE INTO {} VALUES (?, ?, ?, ?, ?, ?)"
_ENTRIES = "SELECT holding, count(*) FROM entry GROUP BY holding"
_PAIRS = """
SELECT a.holding, a.key, a.path, a.size, a.modified_ns, a.sha512, b.path, b.size, b.modified_ns, b.sha512
FROM side AS a LEFT JOIN other AS b ON b.key = a.key UNION ALL
SELECT b.holding, b.key, NULL, NULL, NULL, NULL, b.path, b.size, b.modified_ns, b.sha512
FROM other AS b WHERE b.key NOT IN (SELECT key FROM side) ORDER BY 1, 3, 7
"""
_FAULTY = "SELECT path, fault FROM file WHERE fault NOT IN ('', ?) ORDER BY path"
_NOT_READ = f"SELECT DISTINCT holding FROM document WHERE NOT ({WERE_READ})"


@dataclass(frozen=True, slots=True)
class Side:
    """One of two computers: its survey, and what it was made with. ``name`` is for people."""

    name: str
    survey: SurveyStore
    computer: Computer
    sheet: Sheet
    guides: tuple[Guide, ...]


@dataclass(frozen=True, slots=True)
class FileDifference:
    """A file that is not the same on both sides.

    ``state`` is only-here, only-there, differs, or unclear where the other side could not be looked at; ``newer`` is
    here, there, or empty when neither is. Sizes in bytes, None on the side where the file is not, or not known to be.
    """

    holding: str
    state: str
    here: str
    there: str
    newer: str
    here_bytes: int | None
    there_bytes: int | None
    why: str


@dataclass(frozen=True, slots=True)
class ComparedHolding:
    """One holding on both sides: numbers of files, and of catalog entries.

    ``is_partly_unread`` where a side may have more entries than could be read, so that they are not compared.
    """

    id: str
    title: str
    kind: str
    same: int
    only_here: int
    only_there: int
    differs: int
    newer_here: int
    newer_there: int
    unclear: int
    entries_here: int
    entries_there: int
    entries_only_here: int
    entries_only_there: int
    is_partly_unread: bool


@dataclass(frozen=True, slots=True)
class CompareReport:
    """The result of comparing. Files that correspond are those that a move would put in one place.

    What could not be looked at on a side may be there or not.
    """

    here: str
    there: str
    states_here: Totals
    states_there: Totals
    holdings: tuple[ComparedHolding, ...]
    differences: tuple[FileDifference, ...]
    not_looked_at_here: tuple[NotLookedAt, ...]
    not_looked_at_there: tuple[NotLookedAt, ...]

    @property
    def is_whole(self) -> bool:
        """Whether all was compared; what is only on volumes that are away on both sides is nobody's difference."""
        unseen = (*self.not_looked_at_here, *self.not_looked_at_there)
        open_ends = (each.unclear or each.is_partly_unread for each in self.holdings)
        return not any(open_ends) and all(each.is_away for each in unseen)


class _File(NamedTuple):
    path: str
    size_bytes: int
    modified_ns: int
    sha512: str


def compare(here: Side, there: Side, disk: Disk, tell: Tell = silent) -> CompareReport:
    """Compare two sides. Contents are read only where sizes agree, dates do not, and no digests are known."""
    comparer = _Comparer(here, there, disk)
    counts: Counter[tuple[str, str]] = Counter()
    differences = []
    for number, (holding, key, mine, theirs) in enumerate(comparer.pairs(), start=1):
        found = comparer.difference(holding, key, mine, theirs)
        if found is None:
            counts[holding, "same"] += 1
        else:
            differences.append(found)
            counts[holding, found.state] += 1
            counts[holding, f"newer-{found.newer}"] += 1
        if number % _TELL_EVERY == 0:
            tell(Progress("comparing", number))
    return CompareReport(
        here.name,
        there.name,
        _states(here),
        _states(there),
        tuple(_holdings(here, there, comparer, counts)),
        tuple(differences),
        not_looked_at(here),
        not_looked_at(there),
    )


def not_looked_at(side: Side) -> tuple[NotLookedAt, ...]:
    """What a side may have or not: what could not be looked at there, and whole volumes that were not connected."""
    known = not_looked_at_in(side.survey)
    told = {each.at for each in known}
    faulty = side.survey.database.execute(_FAULTY, (ODD,))
    files = (NotLookedAt(at, restored(fault)) for path, fault in faulty if (at := restored(path)) not in told)
    away = (each["anchor"] for each in side.survey.about("volumes") if not each["here"])
    volumes = (NotLookedAt(anchor, "the volume is not connected", is_away=True) for anchor in away)
    return (*known, *files, *volumes)


def _states(side: Side) -> Totals:
    """The states of one side's catalog entries."""
    totals = no_totals()
    for state, number in side.survey.database.execute("SELECT state, count(*) FROM entry GROUP BY state"):
        totals[state] = number
        totals["entries"] += number
    return totals


class _Comparer:
    """Pairs the files of both sides by where a move would put them, and compares each pair."""

    def __init__(self, here: Side, there: Side, disk: Disk) -> None:
        self._here = here
        self._there = there
        self._disk = disk
        routes = propose_routes(here.guides, here.computer, here.sheet, there.computer, there.sheet)
        self.routes = RouteMap(routes, here.computer.rules_for)
        self._here_documents, self._there_documents = _documents(here), _documents(there)
        self._find_here, self._find_there = (Finder(side.computer, disk) for side in (here, there))
        moved = (self.routes.translate(path) for path in _places(here))
        self._unseen_here = _Unseen(there.computer.key(path) for path in moved if path is not None)
        self._unseen_there = _Unseen(map(there.computer.key, _places(there)))

    def pairs(self) -> Iterator[tuple[str, str, _File | None, _File | None]]:
        """The file on either side, the holding it belongs to, and the key of its place there."""
        database = apsw.Connection("")  # in a file of its own that goes away: a million files are too many to hold
        database.execute(_SCHEMA)
        database.executemany(_INSERT.format("side"), self._moved())
        database.executemany(_INSERT.format("other"), self._there.survey.database.execute(_FILES))
        for holding, key, *columns in database.execute(_PAIRS):
            yield holding, restored(key), _file(columns[:4]), _file(columns[4:])

    def _moved(self) -> Iterator[tuple[object, ...]]:
        """The files here by the keys of the places where a move would put them. Folders come one after the other."""
        files, told = tee(self._here.survey.database.execute(_FILES))
        paths = self._here.computer.parse_all(restored(path) for _, _, path, *_ in told)
        folder: MachinePath | None = None
        new: MachinePath | None = None
        for number, ((key, *file), path) in enumerate(zip(files, paths, strict=True)):
            if self.routes.starts_at(restored(key)) is not None or not path.parts:
                target = self.routes.translate(path)
            else:
                if path.parent != folder:
                    folder, new = path.parent, self.routes.translate(path.parent)
                target = None if new is None else new.below(path.name)
            # What a move would put nowhere corresponds to nothing on the other side.
            found = f"nowhere {number}" if target is None else self._there.computer.key(target)
            yield (stored(found), *file)

    def difference(self, holding: str, key: str, mine: _File | None, theirs: _File | None) -> FileDifference | None:
        """How a pair differs; None when it does not."""
        if mine is None or theirs is None:
            unseen = self._unseen_here if mine is None else self._unseen_there
            state, why, newer = "only-there" if mine is None else "only-here", "", ""
            state = "unclear" if key in unseen else state
        else:
            state, why, newer = "differs", self._why_different(mine, theirs), _newer(mine, theirs)
            if not why:
                return None
            if self._is_same_work(mine, theirs):
                why, newer = "the same entries, groups and annotations; other texts differ, such as paths", ""
        return FileDifference(
            holding,
            state,
            mine.path if mine else "",
            theirs.path if theirs else "",
            newer,
            mine.size_bytes if mine else None,
            theirs.size_bytes if theirs else None,
            why,
        )

    def not_all_read(self) -> set[str]:
        """The holdings of which a side may have more entries than could be read."""
        sides = self._here, self._there
        found = {holding for side in sides for (holding,) in side.survey.database.execute(_NOT_READ)}
        documents = self._here_documents if self._unseen_there else {}
        places = ((self.routes.translate(self._here.computer.parse(path)), path) for path in documents)
        moved = ((place, path) for place, path in places if place is not None)
        mine = (path for place, path in moved if self._there.computer.key(place) in self._unseen_there)
        parse, key = self._there.computer.parse, self._there.computer.key
        theirs = (path for path in self._there_documents if key(parse(path)) in self._unseen_here)
        unseen = (*(self._here_documents[path] for path in mine), *(self._there_documents[path] for path in theirs))
        return found | {each.holding for some in unseen for each in some}

    def _why_different(self, mine: _File, theirs: _File) -> str:
        if mine.size_bytes != theirs.size_bytes:
            return f"{mine.size_bytes:,} bytes here, {theirs.size_bytes:,} there"
        if same_moment(mine.modified_ns, theirs.modified_ns) and not (mine.sha512 and theirs.sha512):
            return ""
        digests = self._digest(self._find_here, mine), self._digest(self._find_there, theirs)
        if not all(digests):
            return "different dates, and one of them cannot be read here"
        return "" if digests[0] == digests[1] else "different content"

    def _is_same_work(self, mine: _File, theirs: _File) -> bool:
        """Whether two documents hold the same by what their guides read, each under the paths of the other side."""
        here, there = self._here_documents.get(mine.path), self._there_documents.get(theirs.path)
        if not here or not there or [each.holding for each in here] != [each.holding for each in there]:
            return False
        content, other = CatalogContent(), CatalogContent()
        new = self._there.computer
        for one, two in zip(here, there, strict=True):
            content.add_all(carried_content(self._here.survey, one, self._here.computer, self.routes.translate, new))
            other.add_all(carried_content(self._there.survey, two, new, lambda path: path, new))
        return not content.holds_more_than(other) and not other.holds_more_than(content)

    def _digest(self, finder: Finder, file: _File) -> str:
        """The digest that is known, or that of the file itself, if it is here; else empty."""
        if file.sha512:
            return file.sha512
        seen = finder.find(finder.computer.parse(file.path))
        if seen.real is None or seen.facts is None or not seen.facts.is_file:
            return ""
        try:
            return self._disk.digest(seen.real).sha512
        except DiskError:
            return ""


def _places(side: Side) -> Iterator[MachinePath]:
    """Where nobody could look on a side; of names with wildcards the folder in which they are."""
    for each in not_looked_at(side):
        path = side.computer.parse(each.at)
        yield path.parent if is_pattern(path.name) and each.holding else path


class _Unseen:
    """The places of which nobody knows what is in them, by their keys."""

    def __init__(self, keys: Iterable[str]) -> None:
        self._keys = {key.rstrip("/") for key in keys}

    def __len__(self) -> int:
        return len(self._keys)

    def __contains__(self, key: str) -> bool:
        while key not in self._keys:
            key, slash, _ = key.rpartition("/")
            if not slash:
                return False
        return True


def _documents(side: Side) -> dict[str, list[Document]]:
    """The documents of a side that were read, by their paths."""
    found: dict[str, list[Document]] = {}
    for each in side.survey.documents(f"NOT registry AND {WERE_READ}"):
        found.setdefault(each.path, []).append(each)
    return found


def _newer(mine: _File, theirs: _File) -> str:
    if same_moment(mine.modified_ns, theirs.modified_ns):
        return ""
    return "here" if mine.modified_ns > theirs.modified_ns else "there"


def _file(columns: list[Any]) -> _File | None:
    path, size, modified_ns, sha512 = columns
    return None if path is None else _File(restored(path), size, modified_ns, sha512)


def _holdings(
    here: Side, there: Side, comparer: _Comparer, counts: Counter[tuple[str, str]]
) -> Iterator[ComparedHolding]:
    """Every holding that either side has."""
    rows = {row.id: row for side in (there, here) for row in side.survey.holdings() if row.present}
    mine, theirs = (Counter(dict(side.survey.database.execute(_ENTRIES))) for side in (here, there))
    keys = _entry_keys(here, comparer.routes.translate), _entry_keys(there, lambda path: path)
    only = _only(*keys), _only(*reversed(keys))
    not_read = comparer.not_all_read()
    for row in rows.values():
        here_only, there_only = (0 if row.id in not_read else only[side][row.id] for side in (0, 1))
        compared = ComparedHolding(
            row.id,
            row.title,
            row.kind,
            **{word.replace("-", "_"): counts[row.id, word] for word in _WORDS},
            entries_here=mine[row.id],
            entries_there=theirs[row.id],
            entries_only_here=here_only,
            entries_only_there=there_only,
            is_partly_unread=row.id in not_read,
        )
        if any(counts[row.id, word] for word in _WORDS) or mine[row.id] or theirs[row.id]:
            yield compared


def _only(side: dict[str, set[int]], other: dict[str, set[int]]) -> Counter[str]:
    """How many entries of each holding the other side does not have."""
    return Counter({holding: len(keys - other.get(holding, set())) for holding, keys in side.items()})


def _entry_keys(side: Side, place: Callable[[MachinePath], MachinePath | None]) -> dict[str, set[int]]:
    """The entries of each holding by their catalogs' own keys; of several catalogs, by those and where each would be.

    A hash represents a key, so that a million take little room.
    """
    in_registry = side.survey.documents("prefix <> '' AND registry")
    names = {(each.holding, each.prefix): each.path for each in in_registry}
    for each in side.survey.documents("prefix <> '' AND NOT registry"):
        names[each.holding, each.prefix] = str(place(side.computer.parse(each.path)) or each.path)
    keys: dict[str, set[int]] = {}
    for holding, key in side.survey.database.execute("SELECT holding, key FROM entry"):
        number, colon, own = key.partition(":")
        name = names.get((holding, number + colon))
        keys.setdefault(holding, set()).add(hash(key if name is None else (name, own)))
    return keys
