"""Catalogs that are texts: one way to turn the records of any text syntax into entries, and to write them back."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from functools import partial
from itertools import zip_longest
from pathlib import Path

from ..guides import EntriesPart, GroupsPart, HoldingPart, MembersPart
from ..machines import Disk
from ..paths import MachinePath, join_pieces, resolved
from .changes import ChangeList, SpanChange
from .copies import note_besides
from .known import known_of
from .model import (
    Brief,
    BriefTable,
    Catalog,
    CatalogError,
    Change,
    Copied,
    Entry,
    Found,
    Group,
    NewText,
    Proof,
    base_of,
)
from .pieces import piece_of, whole_key, with_whole_name
from .reading import LONGEST_PATH, Reading, UnreadRecord, path_text
from .records import (
    IncludingRecords,
    NestedRecords,
    OuterRecord,
    PathRecords,
    Record,
    Records,
    ToldRecords,
    ValuedRecords,
    text_of_piece,
)
from .text_file import TextFile, Value, prove_splice, read_text_file, splice, spliced

_MOST_INCLUDED = 1000
Reader = Callable[[TextFile, HoldingPart, str], Records]


class RecordCatalog:
    """Entries from records. ``inner`` are the documents that it includes, each by its place."""

    def __init__(
        self, records: Records, part: HoldingPart, at: MachinePath, inner: Mapping[MachinePath, Records] | None = None
    ) -> None:
        self._records = records
        self._part = part
        self._at = at
        self._base = base_of(part, at)
        self._inner = inner or {}
        self.reading = Reading()

    def close(self) -> None:
        """Let go of the document, which may be large; whoever decided on its entries knows the catalog for longer."""
        del self._records
        self._inner = {}

    def included(self) -> Iterator[MachinePath]:
        """The documents that are read as part of this one."""
        return iter(self._inner)

    def groups(self) -> Iterator[Group]:
        """Every group, in the order of the document; one without a key is known by its number."""
        several = len(self._part.groups) > 1
        known = self._keys_of_several()
        for number, part in enumerate(self._part.groups, start=1):
            prefix = f"{number}:" if several else ""
            if part.whole:
                yield Group(f"{prefix}whole", self._at.name, "", tuple(entry.key for entry in self.entries()))
            elif part.members is not None and isinstance(self._records, NestedRecords):
                for position, record in enumerate(self._records.outer(part.each), start=1):
                    group = _group(part, part.members, record, prefix, position)
                    yield replace(group, members=tuple(known.get(each, each) for each in group.members))

    def _keys_of_several(self) -> dict[str, str]:
        """Where entries come by several selectors: their whole keys, by what members call them."""
        if len(self._part.entries) < 2 or all(part.whole for part in self._part.groups):
            return {}
        keys = [entry.key for entry in self.entries()]
        return {key.partition(":")[2]: key for key in reversed(keys)}

    def entries(self, *, placed: bool = True) -> Iterator[Entry]:  # noqa: ARG002  places cost nothing here
        """Every entry, in the order of the document; one without a key is known by its number."""
        several = len(self._part.entries) > 1
        self.reading = reading = self._begun()
        for number, part in enumerate(self._part.entries, start=1):
            prefix = f"{number}:" if several else ""
            for position, record in enumerate(self._all_records(part), start=1):
                entry = self._counted(reading, part, record, prefix, position)
                if entry is not None:
                    yield entry

    def brief(self) -> Iterator[BriefTable]:
        """Every entry; in fewer words where no more is known of it than its path."""
        several = len(self._part.entries) > 1
        self.reading = reading = self._begun()
        for number, part in enumerate(self._part.entries, start=1):
            rows = self._brief(part, f"{number}:" if several else "", reading)
            yield BriefTable(rows, part.spelling, self._base)

    def _brief(self, part: EntriesPart, prefix: str, reading: Reading) -> Iterator[Entry | Brief]:
        at = part.path[0].at
        for position, record in enumerate(self._all_records(part, told=part.is_brief), start=1):
            if not part.is_brief:
                entry = self._counted(reading, part, record, prefix, position)
                if entry is not None:
                    yield entry
                continue
            try:
                recorded = path_text(record.text(at) or "")
            except UnreadRecord as why:
                reading.skip(f"record {position}", str(why))
                continue
            if recorded:
                key = whole_key(part, record.text)
                size = record.text(part.size) if part.size else None
                told = ((name, record.text(name)) for name in part.annotations)
                annotations = tuple((name, text) for name, text in told if text is not None) if part.annotations else ()
                reading.entries += 1
                yield f"{prefix}{key or record.known_as or position}", recorded, _number(size), annotations
            else:
                _note_pathless(reading, part, record, position)

    def _begun(self) -> Reading:
        return Reading(is_empty=self._records.is_empty)

    def _counted(self, reading: Reading, part: EntriesPart, record: Record, prefix: str, position: int) -> Entry | None:
        """The entry of a record; None for one that has no path, or cannot be read, which is counted."""
        try:
            entry = self._entry(part, record, prefix, position)
        except UnreadRecord as why:
            reading.skip(f"record {position}", str(why))
            return None
        if entry is None:
            _note_pathless(reading, part, record, position)
        else:
            reading.entries += 1
            if part.besides:
                note_besides(reading, entry)
        return entry

    def sweep(self, changes: ChangeList, new_text: NewText) -> bool:
        """Ask for the new text of each path, where an entry is no more than that, and all are in this document."""
        if self._inner or len(self._part.entries) > 1 or not self._part.entries[0].is_brief:
            return False
        changes.add(self._renewed(self._part.entries[0], new_text))
        return True

    def _renewed(self, part: EntriesPart, new_text: NewText) -> Iterator[Change]:
        at, spelling = part.path[0].at, part.spelling
        records = self._records
        selected = records.select_paths(part) if isinstance(records, PathRecords) else records.select(part)
        for position, record in enumerate(selected, start=1):
            try:
                found = record.value(at)
            except UnreadRecord:
                continue
            if found is None or not found.text:
                continue
            text, cell = found
            if len(text) > LONGEST_PATH:
                continue
            entry = partial(self._entry, part, record, "", position)
            new = new_text(text if cell else "", spelling, entry)
            if new is not None and cell is not None:
                yield Change(cell, text, new)

    def _all_records(self, part: EntriesPart, *, told: bool = False) -> Iterator[Record]:
        for records in (self._records, *self._inner.values()):
            yield from _records_of(records, part, told=told)

    def _entry(self, part: EntriesPart, record: Record, prefix: str, position: int) -> Entry | None:
        pieces = with_whole_name(part, [piece_of(record, piece) for piece in part.path])
        if not any(pieces) and not (part.numbered and part.numbered.suffix):
            return None

        value = record.text
        key, size = whole_key(part, value), value(part.size) if part.size else None
        texts = [path_text(piece.text) for piece in pieces if piece]
        recorded = join_pieces(texts, self._at.system, part.spelling) or "."
        remote = bool(part.remote and record.value(part.remote))
        annotations = ((name, value(name)) for name in part.annotations)
        return Entry(
            key=prefix + (key or record.known_as or str(position)),
            pieces=pieces,
            recorded=recorded,
            spelling=part.spelling,
            remote=remote or bool(part.remote_like and re.search(part.remote_like, recorded)),
            size_bytes=_number(size),
            annotations=tuple((name, text) for name, text in annotations if text is not None),
            base=self._base,
            known=known_of(part, value, recorded),
            copies=tuple(
                Copied(found.cell, found.text, each)
                for each in part.copies
                if (found := record.value(each.at)) is not None and found.text
            ),
            pointers=tuple(
                found if each.empty else Found(found.text, None)
                for each in part.pointers
                if (found := record.value(each.at)) is not None and found.text
            ),
        )


def _group(part: GroupsPart, members: MembersPart, record: OuterRecord, prefix: str, position: int) -> Group:
    def value(selector: str | None) -> str:
        found = record.value(selector) if selector else None
        return found.text if found else ""

    keys = (member.value(members.entry) for member in record.inside(members.each))
    parent = value(part.parent)
    return Group(
        key=prefix + (value(part.key) or str(position)),
        name=value(part.name),
        parent=prefix + parent if parent else "",
        members=tuple(found.text for found in keys if found is not None),
    )


class TextSyntax:
    """A syntax whose documents are texts, written by splicing."""

    def __init__(self, reader: Reader, values: Callable[[TextFile, str], Iterator[Value]] | None = None) -> None:
        """``values`` are all of a document's in its order, where they can be had without holding it."""
        self._reader = reader
        self._values = values

    def companions(self, path: Path, disk: Disk) -> list[Path]:  # noqa: ARG002  texts have none
        """A text has no files beside it."""
        return []

    def open(self, path: Path, part: HoldingPart, at: MachinePath, disk: Disk, scratch: Path) -> Catalog:  # noqa: ARG002
        """Read the document."""
        records = self._reader(self._file(path, part, disk), part, str(path))
        inner = self._included(records, path, part, at, disk) if part.includes else None
        return RecordCatalog(records, part, at, inner)

    def _file(self, path: Path, part: HoldingPart, disk: Disk) -> TextFile:
        return read_text_file(path, disk, part.encoding)

    def _included(
        self, records: Records, path: Path, part: HoldingPart, at: MachinePath, disk: Disk
    ) -> dict[MachinePath, Records]:
        """All that a document includes, and what that includes in turn; each once, so that circles end.

        What is included is looked for beside the document that is at the beginning. Nothing in it can be written.
        """
        found: dict[MachinePath, Records] = {}
        pending = [records]
        while pending and len(found) < _MOST_INCLUDED:
            each = pending.pop()
            for inclusion in each.inclusions() if isinstance(each, IncludingRecords) else ():
                names = [name for name in re.split(r"[\\/]", inclusion.text) if name not in ("", ".")]
                place = MachinePath(at.system, at.root, resolved([*at.parent.parts, *names]))
                real = path.parent.joinpath(*names)
                facts = disk.facts(real) if names.count("..") < len(at.parts) else None
                if names and place not in found and place != at and facts is not None and facts.is_file:
                    inner = self._reader(read_text_file(real, disk, part.encoding), part, str(place))
                    if isinstance(inner, IncludingRecords):
                        found[place] = inner.included(inclusion.given)
                        pending.append(found[place])
        return found

    def copy_whole(self, path: Path, target: Path, disk: Disk) -> None:
        """Copy the document."""
        facts = disk.facts(path)
        if facts is None:
            raise CatalogError(
                f"The catalog {path} is not there.", next_step="Check its folder in the guide and the sheet."
            )
        disk.copy(path, target, facts, settled=False)  # whoever relies on it flushes it

    def rewrite(self, target: Path, part: HoldingPart, changes: ChangeList, disk: Disk) -> None:
        """Splice the changes into the working copy."""
        disk.write_bytes(target, splice(read_text_file(target, disk, part.encoding), changes.spans()))

    def prove(self, original: Path, rewritten: Path, part: HoldingPart, changes: ChangeList, disk: Disk) -> Proof:
        """Outside the listed spans every byte is the same; in them stand the listed texts, and read back as such.

        An expression that mentions a drive reads only paths on it. So a new path may also be read behind the old drive:
        that shows that it does not end too soon.
        """
        old, new = (read_text_file(path, disk, part.encoding) for path in (original, rewritten))
        proof = prove_splice(old, new, changes.spans())
        if self._values is not None:
            before, after = self._values(old, str(original)), self._values(new, str(rewritten))
            if (unlisted := _first_unlisted(before, after, changes)) is not None:
                raise _reads_as(unlisted[1])
        elif not self._is_read_in_order(old, new, part, changes):
            self._require_all_read(old, new, part, changes)
        return proof

    def _is_read_in_order(self, old: TextFile, new: TextFile, part: HoldingPart, changes: ChangeList) -> bool:
        """Whether only the listed texts read otherwise, one after the other, as they do in most documents."""
        try:
            before = list(self._texts(old, part))  # one document is let go of before the other is read
            return _first_unlisted(before, self._texts(new, part), changes) is None
        except CatalogError:
            return False

    def _require_all_read(self, old: TextFile, new: TextFile, part: HoldingPart, changes: ChangeList) -> None:
        """Raise `CatalogError` unless only the listed texts read otherwise, in whatever order."""
        spans = list(changes.spans())
        before = list(self._texts(old, part))  # one document is let go of before the other is read
        try:
            self._require_read_back(before, new, part, spans)
        except CatalogError as error:
            behind = [each._replace(new=_behind_old_drive(each.old, each.new)) for each in spans]
            if behind == spans:
                raise
            try:
                self._require_read_back(before, replace(old, text=spliced(old, behind)), part, behind)
            except CatalogError:
                raise error from None

    def _require_read_back(
        self, before: Sequence[str], new: TextFile, part: HoldingPart, spans: list[SpanChange]
    ) -> None:
        """Raise `CatalogError` unless only the listed texts read otherwise than ``before``, and as listed."""
        listed = Counter[tuple[str | None, str | None]]((each.old, each.new) for each in spans)
        read_back = Counter[tuple[str | None, str | None]]()
        for pair in zip_longest(before, self._texts(new, part)):
            if pair[0] != pair[1]:
                read_back[pair] += 1
                if pair not in listed:
                    raise _reads_as(pair[1])
        for text, _ in listed - read_back:  # a text that several entries share is read back several times
            raise _reads_as(text)

    def _texts(self, file: TextFile, part: HoldingPart) -> Iterator[str]:
        """Every text of a document where its syntax knows them all, else those that the guide selects as paths."""
        records = self._reader(file, part, "the rewritten catalog")
        if isinstance(records, ValuedRecords):
            yield from records.values()
            return
        for entries in part.entries:
            for record in _records_of(records, entries, told=True):
                for piece in entries.path:
                    try:
                        yield (text_of_piece(record, piece) if piece.at else "") or ""
                    except UnreadRecord:
                        yield ""


def _note_pathless(reading: Reading, part: EntriesPart, record: Record, position: int) -> None:
    """Count a record without a path, and as one that was not read when there is something in place of the path."""
    if why := next((why for piece in part.path if piece.at and (why := record.why_not(piece.at))), ""):
        reading.skip(f"record {position}", why)
    else:
        reading.without_path += 1


def _first_unlisted(
    before: Iterable[Value], after: Iterable[Value], changes: ChangeList
) -> tuple[str | None, str | None] | None:
    """The first text that reads otherwise than ``before`` and is not the next of the listed ones, or such a one."""
    listed = changes.spans()
    for one, other in zip_longest(before, after):
        for pair in _differing(one, other) if one != other else ():
            wanted = next(listed, None)
            if wanted is None or pair != wanted[3:]:
                return pair
    return next((each[3:] for each in listed), None)


def _differing(one: Value | None, other: Value | None) -> Iterator[tuple[str | None, str | None]]:
    """The texts in two values that differ."""
    texts, now = (((each,) if isinstance(each, str) else each or ()) for each in (one, other))
    return (pair for pair in zip_longest(texts, now) if pair[0] != pair[1])


def _behind_old_drive(old: str, new: str) -> str:
    """A new path as it would be on the drive, or in the outermost folder, of the old one."""
    beginning = re.match(r"[A-Za-z]:|/[^/]+", old)
    return f"{beginning[0]}{re.sub('^[A-Za-z]:', '', new)}" if beginning else new


def _reads_as(text: str | None) -> CatalogError:
    return CatalogError(
        f"A new path would be read back as {text!r} and cannot be written here."
        if text
        else "The guide's expression does not match the new paths, so they could not be read back.",
        next_step="The catalog was not changed. Place these files elsewhere with a route.",
    )


def _records_of(records: Records, part: EntriesPart, *, told: bool) -> Iterator[Record]:
    """Records of a document, of which only texts will be asked if they are ``told``."""
    return records.told(part) if told and isinstance(records, ToldRecords) else records.select(part)


def _number(text: str | None) -> int | None:
    return int(text) if text and text.isascii() and text.isdigit() else None
