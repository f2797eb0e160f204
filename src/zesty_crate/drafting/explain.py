"""Which records of a document record paths: for each kind of record the fields, tried singly and put together."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

from ..paths import MachinePath, System
from .compose import compose, joined
from .documents import Kind
from .manners import FRAMES, Explained, Judge, Lead, Manner, Text
from .read_rows import as_values
from .sources import Source, chained_sources, compared, own_sources, reached_sources, sources_in
from .stores import stored
from .tables import Field, Located, Table

_SURE = 0.5
_OVERLAP = 0.5
_FEWEST_OF_EACH = 2  # files, and folders, to be told apart


@dataclass(slots=True)
class Entries:
    """Records that record paths: the pieces of these, as a guide says them, and what they explain.

    ``rows`` are the records that were looked at, with the path that each has; empty for none.
    """

    table: Table
    sources: tuple[Source, ...]
    explained: Explained
    rows: list[int]
    recorded: list[str]
    rivals: list[str] = field(default_factory=list)
    is_absent: bool = False
    frames: bool | None = None  # only sequences of files, or only what is none; None where no path is one
    fields: set[str] = field(default_factory=set)  # of the record, of which a path is made that it does not hold
    only: tuple[str, bool] | None = None  # only records with a value in this field, or only those without one

    @property
    def manner(self) -> Manner:
        """How its texts mean paths."""
        return self.explained.manner

    @property
    def carried(self) -> set[str]:
        """The pieces that earlier lines carry."""
        return {name for name in self.own if f"carry:{name}" in self.table.more}

    @property
    def own(self) -> set[str]:
        """The fields of the record itself that are pieces of its path."""
        own = (str(each.piece.get("column") or each.piece.get("at") or "") for each in self.sources if each.is_own)
        return {*own, *self.fields} - {""}

    @property
    def pieces(self) -> list[dict[str, object]]:
        """The pieces as a guide has them, outermost first."""
        return [{**each.piece, **(self.manner.piece if len(self.sources) == 1 else {})} for each in self.sources]

    @property
    def covered(self) -> set[tuple[MachinePath, str]]:
        """The paths with their documents, to see which explanations say the same."""
        pairs = zip(self.rows, self.recorded, strict=True)
        return {(self.table.at[row], self.manner.path_in(text)) for row, text in pairs if text}

    @property
    def cells(self) -> set[tuple[object, ...]]:
        """The places of its own pieces."""
        found = set[tuple[object, ...]]()
        for name in self.own & self.table.fields.keys():
            values = self.table.fields[name].values
            for row, text in zip(self.rows, self.recorded, strict=True):
                if text:
                    value = values[row]
                    found.add(value.cell if isinstance(value, Located) else (id(self.table), name, row))
        return found

    @property
    def parts(self) -> set[tuple[MachinePath, str]]:
        """The texts of its own pieces, which are no paths of other entries."""
        fields = [self.table.fields[name].values for name in self.own if name in self.table.fields]
        return {
            (self.table.at[row], values[row]) for values in fields for row in self.rows if isinstance(values[row], str)
        }

    @property
    def fullness(self) -> float:
        """In which part of the records there is a path."""
        return sum(map(bool, self.recorded)) / max(1, len(self.recorded))


def entries_of(kind: Kind, judge: Judge) -> list[Entries]:
    """All that records paths in documents of a kind, the most explaining first; each path once."""
    found = [each for table in kind.tables for each in _of_table(kind, table, judge)]
    shared = {
        (source.piece.get("table"), source.piece.get("column"))
        for each in found
        for source in each.sources
        if not source.is_own
    }
    alone = [e for e in found if not (len(e.sources) == 1 and (e.table.each, *e.own) in shared)]
    chosen = (part for each in _each_once(alone, kind) for part in split_by_frames(each))
    return [part for each in chosen for part in _split_by_target(each, kind, judge)]


def _of_table(kind: Kind, table: Table, judge: Judge) -> Iterator[Entries]:
    if "unwritable" in table.more:
        return
    if "values" in table.more:
        yield from _of_values(table, judge)
        return
    stores = [
        Entries(table, (Source({"made-of": made}, ()),), tried, list(range(len(table.at))), paths, fields=fields)
        for made, fields, tried, paths in stored(table, judge)
    ]
    yield from stores
    singles = [each for each in (_single(table, one, judge, kind) for one in table if not one.outside) if each]
    together = _together(kind, table, judge) if len(table.at) > 1 or kind.database is not None else None
    if together is None:
        yield from singles
        return
    part_of_it = [each for each in singles if each.own <= together.own]
    to_files = not together.explained.to_folders  # of which a folder alone says less
    alone = [each for each in part_of_it if not (to_files and each.explained.to_folders)]
    best = max(alone, key=lambda each: each.explained.found, default=None)
    is_simpler = best is not None and best.manner.base is None and best.explained.found >= together.explained.found
    if best is not None and (is_simpler or best.explained.found > together.explained.found * 1.05):
        best.rivals.append(_rival(together))
        yield from singles
        return
    if best is not None:
        together.rivals.append(_rival(best))
    yield together
    yield from (each for each in singles if each not in part_of_it)


def split_by_frames(entries: Entries) -> Iterator[Entries]:
    """Paths of sequences and paths of single files apart, since a guide describes them apart."""
    if not entries.explained.frames:
        yield entries
        return
    for frames in (True, False):
        texts = [text if bool(FRAMES.search(text)) is frames else "" for text in entries.recorded]
        if any(texts):
            is_mixed = any(text and not FRAMES.search(text) for text in entries.recorded)
            yield replace(entries, recorded=texts, frames=frames if frames or is_mixed else None)


def _split_by_target(entries: Entries, kind: Kind, judge: Judge) -> Iterator[Entries]:
    """Files and folders apart, where a field that only one of them has tells which records are which."""
    tried = entries.explained
    selectable = kind.database is not None or kind.is_xml or entries.table.each.endswith("[*]")
    if min(tried.files, tried.folders) < _FEWEST_OF_EACH or not selectable or entries.frames is not None:
        yield entries
        return
    leads = {row: judge.finder.find(path).facts for row, _, path in leads_of(entries, judge)}
    files = {row for row, facts in leads.items() if facts is not None and facts.is_file}
    folders = leads.keys() - files
    for each in entries.table:
        has_value = {row for row in leads if each.values[row] is not None}
        if each.selector in entries.own or each.outside or has_value not in (files, folders):
            continue
        for wanted in (True, False):
            told = ((each.values[row] is not None) is wanted for row in entries.rows)
            texts = [text if is_one else "" for text, is_one in zip(entries.recorded, told, strict=True)]
            pairs = zip(entries.rows, texts, strict=True)
            different = {Text(text, entries.table.at[row]) for row, text in pairs if text}
            explained = judge.try_on(sorted(different), entries.manner)
            yield replace(entries, recorded=texts, explained=explained, only=(each.selector, wanted))
        return
    yield entries


def _rival(entries: Entries) -> str:
    pieces = " then ".join(str(each.get("column") or each.get("at") or each.get("made-of")) for each in entries.pieces)
    return f"{pieces}, spelled {entries.manner.spelling}: {entries.explained.found:,} of {entries.explained.local:,}"


def _single(table: Table, one: Field, judge: Judge, kind: Kind) -> Entries | None:
    rows = list(range(len(table.at)))
    selector = {"column" if kind.database is not None else "at": one.selector}
    texts = [each if isinstance(each, str) else "" for each in one.values]
    source = Source(selector, ())
    if not any(texts):
        made = _of_other_values(one, rows, kind)
        if made is None:
            return None
        source, texts = made
    explained = judge.explain(Text(text, at) for text, at in zip(texts, table.at, strict=True) if text)
    if explained is None or not explained.found:
        absent = judge.explain_absent(Text(text, at) for text, at in zip(texts, table.at, strict=True) if text)
        return Entries(table, (source,), absent, rows, texts, is_absent=True) if absent else None
    if explained.share < _SURE and explained.found < 2:
        return None
    return Entries(table, (source,), explained, rows, texts)


def _of_other_values(one: Field, rows: Sequence[int], kind: Kind) -> tuple[Source, list[str]] | None:
    """Bytes, or lists of names."""
    for source in sources_in(one, rows, in_database=kind.database is not None):
        return source, [each or "" for each in source.values]
    return None


def _of_values(table: Table, judge: Judge) -> Iterator[Entries]:
    """Values of sections: those that look like paths, whatever their key."""
    is_windows = judge.computer.system is System.WINDOWS
    pattern = r"(?i)[a-z]:[\\/].*|\\\\.*|/.*" if is_windows else r"(?i)/.*|[a-z]:[\\/].*"
    for each in (pattern, r".+\.[A-Za-z0-9]{1,5}", r".*[\\/].*"):
        values = as_values(table, each)
        if len(values.at) > 1:
            found = _single(values, values.fields["value"], judge, Kind("", (), "", []))
            if found is not None and not found.is_absent and found.explained.share > _SURE:
                yield found
                return


def _together(kind: Kind, table: Table, judge: Judge) -> Entries | None:
    rows = compared(table)
    at = [table.at[row] for row in rows]
    database = kind.database
    own = list(own_sources(table, rows, judge, in_database=database is not None))
    reached = list(reached_sources(table, rows, database, judge)) if database is not None else []
    if len(own) + len(reached) < 2:
        return None
    more = (lambda source: list(chained_sources(source, database, judge))) if database is not None else (lambda _: [])
    found = compose(judge, at, own, reached, more)
    if found is None:
        return None
    recorded = joined(found.sources, judge.computer.system, found.explained.manner.spelling)
    return Entries(table, found.sources, found.explained, rows, recorded)


def _each_once(found: Sequence[Entries], kind: Kind) -> Iterator[Entries]:
    """Of explanations of the same paths the one whose records are right for it."""
    covered: set[tuple[object, ...]] = set()

    def rank(each: Entries) -> tuple[float, ...]:
        fields = sum(not one.outside for one in each.table)
        depth = len(each.table.path)
        several = len(each.table.at) > 1
        simple = -len(each.sources)
        tried = each.explained
        good = (tried.found or len(each.covered), round(tried.share, 1), len(each.covered), round(each.fullness, 1))
        return (*good, several, simple, fields if several else -depth, depth)

    for each in sorted(found, key=rank, reverse=True):
        mine = each.cells
        if len(mine - covered) > len(mine) * _OVERLAP or (kind.database is not None and mine):
            covered |= mine
            yield each


def leads_of(entries: Entries, judge: Judge) -> list[tuple[int, str, MachinePath]]:
    """The records that lead to a file or folder: number, recorded path, and where it leads."""
    found = []
    by_text = sorted(zip(entries.rows, entries.recorded, strict=True), key=lambda pair: pair[1])
    for row, text in by_text:  # so that each folder is listed once
        if text:
            lead, path = judge.lead(text, entries.manner, entries.table.at[row])
            if path is not None and lead in (Lead.FILE, Lead.FOLDER, Lead.FRAMES):
                found.append((row, text, path))
    return found
