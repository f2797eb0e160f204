"""The documents in a place: told by their content, and brought together by their kind."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from contextlib import ExitStack
from dataclasses import dataclass, field
from pathlib import Path

import apsw

from ..catalogs import CatalogError
from ..machines import Disk, DiskError
from ..paths import MachinePath
from ..progress import Progress, Tell, silent
from .names import ending_of
from .read_rows import read_delimited, read_lines, read_sections
from .read_sqlite import Database, open_database
from .read_trees import read_tree
from .read_turtle import read_turtle
from .read_xml import read_elements
from .recognize import LARGEST_BYTES, Recognized, decoded, is_database, is_media, recognize
from .tables import Table, evenly, merged, new_identity

_HEAD = 4096
_MOST_OF_ENDING = 60  # files of one ending that are read
_ALIKE = 0.3
_TREES = ("json", "json-lines", "yaml", "toml", "plist")


@dataclass(frozen=True, slots=True)
class Place:
    """A file of the computer, and where it is from here."""

    path: MachinePath
    real: Path


@dataclass(slots=True)
class Kind:
    """Documents of one kind: how a guide reads them, and what they hold. Of many files some were read.

    ``inside`` are layers as a guide has them: texts, or tables that select values of another document. Of databases
    with one schema, the largest stands for all, and ``another`` is the next.
    """

    syntax: str
    inside: tuple[object, ...]
    encoding: str
    files: list[Place]
    tables: list[Table] = field(default_factory=list)
    database: Database | None = None
    number: int = 0  # of all files of this kind
    fault: str = ""
    branch: str = ""  # of the registry, where it is in one
    another: Database | None = None

    @property
    def is_xml(self) -> bool:
        """Whether its records are elements."""
        return self.syntax in ("xml", "html", "tagged")


@dataclass(slots=True)
class Collected:
    """What is in a place: kinds of documents, media, and files that are neither."""

    kinds: list[Kind] = field(default_factory=list)
    opaque: list[Place] = field(default_factory=list)
    media: list[Place] = field(default_factory=list)
    faults: list[tuple[Place, str]] = field(default_factory=list)


def collect(files: Sequence[Place], disk: Disk, scratch: Path, stack: ExitStack, tell: Tell = silent) -> Collected:
    """Tell what files are, and read documents of each kind. Databases stay open as long as the ``stack``."""
    found = Collected()
    by_ending: defaultdict[str, list[Place]] = defaultdict(list)
    for each in files:
        if not each.path.name.endswith(("-wal", "-shm", "-journal")):
            by_ending[ending_of(each.path.name)].append(each)
    seen = 0
    for some in by_ending.values():
        kinds: dict[tuple[object, ...], Kind] = {}
        for number in evenly(len(some), _MOST_OF_ENDING):
            seen += 1
            tell(Progress("reading documents", seen))
            _note(some[number], kinds, found, disk, scratch, stack)
        made = _with_one_schema(kinds.values(), some)
        for kind in made:
            kind.number = max(len(kind.files), len(some) if len(made) == 1 else 0)
            found.kinds += _told_apart(kind)
    return found


def _with_one_schema(kinds: Iterable[Kind], of_ending: Sequence[Place]) -> list[Kind]:
    """The same kinds; databases with one schema are one, where no other document has their ending."""
    found = list(kinds)
    databases = [each.database for each in found if each.database is not None]
    schemas = {tuple((name, *table.fields) for name, table in sorted(each.tables.items())) for each in databases}
    if len(databases) < len(found) or len(databases) < min(len(of_ending), _MOST_OF_ENDING) or len(schemas) != 1:
        return found
    largest, *rest = sorted(found, key=lambda kind: sum(table.count for table in kind.tables), reverse=True)
    largest.files += [place for each in rest for place in each.files]
    largest.another = rest[0].database if rest else None
    for each in rest[1:]:
        each.tables.clear()
    return [largest]


def _note(
    place: Place, kinds: dict[tuple[object, ...], Kind], found: Collected, disk: Disk, scratch: Path, stack: ExitStack
) -> None:
    try:
        head = disk.read_start(place.real, _HEAD)
        if is_database(head):
            database = open_database(place.real, place.path, disk, scratch)
            stack.callback(database.close)
            kind = Kind("sqlite", (), "", [place], list(database.tables.values()), database, 1)
            kinds[("sqlite", place.path)] = kind
            return
        if is_media(head):
            found.media.append(place)
            return
        facts = disk.facts(place.real)
        if facts is None or facts.size_bytes > LARGEST_BYTES:
            found.faults.append((place, "it has more than 256 MiB, and is no database"))
            return
        content = disk.read_bytes(place.real)
    except (CatalogError, DiskError, apsw.Error, UnicodeDecodeError) as error:
        found.faults.append((place, str(error)))
        return
    documents = list(recognize(content))
    if not documents:
        found.opaque.append(place)
    for document in documents:
        key = (document.syntax, *map(_without_numbers, document.inside))
        kind = kinds.setdefault(key, Kind(document.syntax, document.inside, document.encoding, []))
        _read_into(kind, document, place, disk, scratch, stack)


def _without_numbers(layer: str) -> str:
    return re.sub(r"\d+", "*", layer)


def _read_into(kind: Kind, document: Recognized, place: Place, disk: Disk, scratch: Path, stack: ExitStack) -> None:
    if document.inside != kind.inside:
        pairs = zip(document.inside, kind.inside, strict=True)
        kind.inside = tuple(one if one == other else _wider(one, str(other)) for one, other in pairs)
    kind.encoding = kind.encoding or document.encoding
    kind.files.append(place)
    try:
        if document.syntax == "sqlite":
            kind.database = opened_copy(document.content, place.path, disk, scratch, stack)
            kind.tables += kind.database.tables.values()
        else:
            kind.tables += read_tables(document, place.path)
    except (ValueError, CatalogError, apsw.Error, RecursionError) as error:
        kind.fault = str(error)


def opened_copy(content: bytes, at: MachinePath, disk: Disk, scratch: Path, stack: ExitStack) -> Database:
    """A database that is inside something, as a file of its own as long as the ``stack``."""
    copy = scratch / f"inside-{new_identity()}.db"
    disk.write_bytes(copy, content)
    stack.callback(disk.remove, copy)
    database = open_database(copy, at, disk, scratch)
    stack.callback(database.close)
    return database


def _wider(one: str, other: str) -> str:
    """A layer for two members of different names."""
    kind = one.partition(":")[0]
    folder = one.partition(":")[2].rpartition("/")[0]
    ending = ending_of(one)
    wide = f"{folder}/*" if folder and folder == other.partition(":")[2].rpartition("/")[0] else "**"
    return f"{kind}:{wide}{'.' + ending if ending and ending == ending_of(other) else ''}"


def read_tables(document: Recognized, at: MachinePath) -> list[Table]:
    """The tables of a document that is no database. Raises `ValueError` and `CatalogError`."""
    text = "" if document.syntax in ("plist", "tagged") else decoded(document.content)[0] or ""
    if document.syntax in _TREES:
        return read_tree(document.syntax, document.content, text, at)
    if document.syntax in ("xml", "html"):
        return read_elements(document.syntax, document.content, text, "", at)
    if document.syntax == "tagged":
        return read_elements("tagged", document.content, "", document.encoding, at)
    if document.syntax == "turtle":
        return read_turtle(text, at)
    if document.syntax in ("ini", "properties", "reg"):
        return read_sections(document.syntax, text, at)
    if document.syntax == "delimited":
        return read_delimited(text, at)
    return read_lines(text, at) if document.syntax == "lines" else []


def read_otherwise(kind: Kind) -> Kind | None:
    """The same documents in another reading, where there is one: as plain lines, or with texts of another encoding."""
    if kind.inside or kind.branch:
        return None
    if kind.syntax in ("delimited", "yaml", "properties"):  # which lines may seem to be
        made = Kind("lines", (), kind.encoding, kind.files, [], None, kind.number)
    elif kind.syntax == "tagged" and not kind.encoding:
        made = Kind("tagged", (), "utf-16-le", kind.files, [], None, kind.number)
    else:
        return None
    by_each: defaultdict[str, list[Table]] = defaultdict(list)
    for place in kind.files:
        for table in read_tables(Recognized(made.syntax, place.real.read_bytes(), (), made.encoding), place.path):
            by_each[table.each].append(table)
    made.tables = [merged(each) for each in by_each.values()]
    return made


def _told_apart(kind: Kind) -> Iterator[Kind]:
    """Documents of one ending and syntax that have nothing in common are of different kinds."""
    if kind.database is not None or len(kind.files) < 2:
        kind.tables = [merged([each]) if kind.database is None else each for each in kind.tables]
        yield kind
        return
    by_file: defaultdict[MachinePath, list[Table]] = defaultdict(list)
    for table in kind.tables:
        for at in table.at[:1]:
            by_file[at].append(table)
    clusters: list[tuple[set[tuple[str, str]], list[Place]]] = []
    for place in kind.files:
        shape = {(table.each, each.selector) for table in by_file[place.path] for each in table}
        near = max(clusters, key=lambda cluster: _likeness(cluster[0], shape), default=None)
        if near is not None and _likeness(near[0], shape) >= _ALIKE:
            near[0].update(shape)
            near[1].append(place)
        else:
            clusters.append((shape, [place]))
    for _, places in clusters:
        by_each: defaultdict[str, list[Table]] = defaultdict(list)
        for path in dict.fromkeys(each.path for each in places):
            for table in by_file[path]:
                by_each[_kind_of_table(table)].append(table)
        tables = [merged(each) for each in by_each.values()]
        number = kind.number if len(clusters) == 1 else len(places)
        files = list({each.path: each for each in places}.values())
        yield Kind(kind.syntax, kind.inside, kind.encoding, files, tables, None, number, kind.fault)


def _kind_of_table(table: Table) -> str:
    return f"{table.each}\0{'values' in table.more}"


def _likeness(one: set[tuple[str, str]], other: set[tuple[str, str]]) -> float:
    return len(one & other) / max(1, min(len(one), len(other)))
