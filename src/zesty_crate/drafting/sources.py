"""Where a piece of a path may come from: a field of its record, a row of another table, a tree of them, a chain."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from ..paths import System
from .manners import SEGMENTS, Judge, segment_pattern
from .read_sqlite import Database, Way
from .tables import MOST_COMPARED, Field, Table, evenly

_MOST_JUDGED = 60
_MOST_SEGMENTS = 8
_PATHISH = 0.3  # of the texts of a source, to end in a name that something has
_ENCODINGS = ("utf-8", "utf-16-le", "utf-16-be")


@dataclass(frozen=True, slots=True)
class Source:
    """A text that may be a piece of a path: what a guide says of it, and the text in each record that is compared.

    From another table, ``keys`` are those of the rows there by which ``way`` leads to them.
    """

    piece: Mapping[str, object]
    values: tuple[str | None, ...]
    way: Way | None = None
    keys: tuple[Any, ...] = ()
    parent: str = ""  # in a tree, the column that names the row around
    outside: bool = False  # of a field that is around the record

    @property
    def is_own(self) -> bool:
        """Whether it stands in the record itself."""
        return self.way is None

    @property
    def different(self) -> set[str]:
        """Its texts, each once."""
        return {each for each in self.values if each}


def compared(table: Table) -> list[int]:
    """The numbers of the records on which compositions are tried."""
    return evenly(len(table.at), MOST_COMPARED)


def own_sources(table: Table, rows: Sequence[int], judge: Judge, *, in_database: bool) -> Iterator[Source]:
    """The fields of a record that may be pieces."""
    for each in table:
        for source in sources_in(each, rows, in_database=in_database):
            source = replace(source, outside=each.outside)
            if is_pathish(source, judge) or _may_be_part_of_name(source):
                yield source
        yield from formed_sources(each, rows, judge, in_database=in_database)


def sources_in(field: Field, rows: Sequence[int], *, in_database: bool) -> Iterator[Source]:
    """A field as a text; as a path of names; as bytes that are a text."""
    values = [field.values[number] for number in rows]
    selector = {"column" if in_database else "at": field.selector}
    if any(isinstance(each, str) for each in values):
        yield Source(selector, tuple(each if isinstance(each, str) and each else None for each in values))
    if any(isinstance(each, list) for each in values):
        joined = tuple("/".join(each) if isinstance(each, list) else None for each in values)
        yield Source({**selector, "holds": "names"}, joined)
    blobs = [each for each in values if isinstance(each, bytes) and each]
    if in_database and len(blobs) * 2 > len([each for each in values if each is not None]):
        for encoding in _ENCODINGS:
            texts = tuple(blob_text(each, encoding) if isinstance(each, bytes) else None for each in values)
            if sum(each is not None for each in texts) * 10 >= len(blobs) * 9:
                yield Source({**selector, "blob": encoding}, texts)
                return


def blob_text(content: bytes, encoding: str) -> str | None:
    """Bytes as a text, without zeros at the end; None for what is none."""
    try:
        text = content.decode(encoding).rstrip("\0")
    except UnicodeDecodeError:
        return None
    return text if text and text.isprintable() and len(text) * 2 >= len(content.rstrip(b"\0")) // 2 else None


def is_pathish(source: Source, judge: Judge) -> bool:
    """Whether enough of its texts end in a name that something on the computer has, or name a volume."""
    texts = sorted(source.different)[:_MOST_JUDGED]
    if not texts:
        return False
    volumes = {str(each.anchor).rstrip("\\/") for each in judge.computer.volumes}
    variables = judge.computer.variables
    number = 0
    last = {text: re.split(r"[\\/]", text.rstrip("\\/"))[-1] for text in texts}
    known = judge.names.known(each for each in last.values() if each)
    for text, name in last.items():
        is_volume = text.rstrip("\\/") in volumes or variables.volume_called(text.strip("\\/")) is not None
        number += name in known or is_volume or text in ("/", "\\")
    return number >= max(1, len(texts) * _PATHISH)


def formed_sources(field: Field, rows: Sequence[int], judge: Judge, *, in_database: bool) -> Iterator[Source]:
    """A field whose texts hold the name of a file among more: the part between two marks."""
    for source in sources_in(field, rows, in_database=in_database):
        texts = source.different
        for mark in SEGMENTS if texts and "holds" not in source.piece else "":
            split = {text: text.split(mark) for text in sorted(texts)[:_MOST_JUDGED]}
            if sum(len(each) > 1 for each in split.values()) * 5 < len(split) * 4:
                continue
            for number in range(min(_MOST_SEGMENTS, max(map(len, split.values())))):
                names = {re.split(r"[\\/]", each[number])[-1] for each in split.values() if len(each) > number}
                known = judge.names.known(names - {""}, files_only=True)
                if known and len(known) * 2 >= len(split):
                    piece = {**source.piece, "match": segment_pattern(mark, number)}
                    found = (text.split(mark) if text else [] for text in source.values)
                    values = tuple(each[number] if len(each) > number and each[number] else None for each in found)
                    yield Source(piece, values, outside=field.outside)


def _may_be_part_of_name(source: Source) -> bool:
    """Whether its texts could be stems or extensions of names."""
    texts = list(source.different)[:_MOST_JUDGED]
    return bool(texts) and all(len(each) < 200 and not re.search(r"[\\/:\r\n]", each) for each in texts)


def reached_sources(table: Table, rows: Sequence[int], database: Database, judge: Judge) -> Iterator[Source]:
    """What rows of other tables say, to which a record points; of a tree, the whole branch."""
    for way in database.ways_from(table.each):
        keys = [table.fields[way.via].values[number] for number in rows]
        yield from _at_the_end(way, way.via, keys, database, judge)


def chained_sources(source: Source, database: Database, judge: Judge) -> Iterator[Source]:
    """What rows say to which the row of another source points."""
    if source.way is None:
        return
    for way in database.ways_from(source.way.to):
        if way.to == source.way.to or way.via == source.parent:
            continue
        if source.parent:
            branches = database.branches(source.way, source.keys, source.parent, way.via)
            keys = [next((each for each in branch if each is not None), None) for branch in branches]
        else:
            keys = database.through(source.way, source.keys, way.via)
        for each in _at_the_end(way, f"{source.way.to}.{way.via}", keys, database, judge):
            if "parent" not in each.piece:
                yield each


def _at_the_end(way: Way, via: str, keys: Sequence[Any], database: Database, judge: Judge) -> Iterator[Source]:
    """The texts in the rows to which a way leads."""
    other = database.tables[way.to]
    for column in other:
        if not column.texts or (column.selector == way.via and way.to == way.table):
            continue
        plain = Source({"table": way.to, "via": via, "column": column.selector}, (), way, tuple(keys))
        for parent in database.parents_in(way.to):
            if parent == column.selector:
                continue
            branches = database.branches(way, keys, parent, column.selector)
            texts = tuple(_branch_text(each, judge.computer.system) for each in branches)
            tree = replace(plain, piece={**plain.piece, "parent": parent}, values=texts, parent=parent)
            if any(len(each) > 1 for each in branches) and is_pathish(tree, judge):
                yield tree
        texts = tuple(
            each if isinstance(each, str) and each else None for each in database.through(way, keys, column.selector)
        )
        straight = replace(plain, values=texts)
        if is_pathish(straight, judge):
            yield straight


def _branch_text(names: Sequence[Any], system: System) -> str | None:
    texts = [each for each in names if isinstance(each, str) and each]
    if not texts:
        return None
    first, *rest = texts
    slash = "/" if "/" in first or system is not System.WINDOWS else "\\"
    return slash.join(
        [first.rstrip("\\/") if rest and first.strip("\\/") else first.rstrip("/") if rest else first, *rest]
    )
