"""Syntaxes whose documents are texts: read by records, written by splicing, proven by reading both again."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from itertools import zip_longest
from operator import itemgetter
from pathlib import Path

from ..guides import HoldingPart
from ..machines import Disk
from ..paths import MachinePath, resolved
from .changes import ChangeList, SpanChange
from .model import Catalog, CatalogError, Proof
from .path_texts import SweptRecords
from .reading import UnreadRecord
from .records import IncludingRecords, Records, ValuedRecords, text_of_piece
from .text_catalog import RecordCatalog, records_of
from .text_file import TextFile, Value, prove_quoting, prove_splice, read_text_file, splice, spliced

_MOST_INCLUDED = 1000
_PAIR = itemgetter(3, 4)  # of a change: the old text and the new one
Reader = Callable[[TextFile, HoldingPart, str], Records]


class TextSyntax:
    """A syntax whose documents are texts, written by splicing."""

    def __init__(
        self,
        reader: Reader,
        values: Callable[[TextFile, str], Iterator[Value]] | None = None,
        *,
        reads_as_it_goes: bool = False,
    ) -> None:
        """``values`` are all of a document's in its order, where they can be had without holding it.

        A reader that ``reads_as_it_goes`` holds no more than the text.
        """
        self._reader = reader
        self._values = values
        self._reads_as_it_goes = reads_as_it_goes

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

    def rewrite(self, original: Path, target: Path, part: HoldingPart, changes: ChangeList, disk: Disk) -> None:
        """Splice the changes into a copy."""
        disk.write_bytes(target, splice(read_text_file(original, disk, part.encoding), changes.spans()))

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
            before = self._texts(old, part)
            if not self._reads_as_it_goes:
                before = iter(list(before))  # one document is let go of before the other is read
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
            prove_quoting(old, spans)
            try:
                self._require_read_back(before, replace(old, text=spliced(old, behind)), part, behind)
            except CatalogError:
                raise error from None

    def _require_read_back(
        self, before: Sequence[Value], new: TextFile, part: HoldingPart, spans: list[SpanChange]
    ) -> None:
        """Raise `CatalogError` unless only the listed texts read otherwise than ``before``, and as listed."""
        listed = Counter[tuple[str | None, str | None]]((each.old, each.new) for each in spans)
        read_back = Counter[tuple[str | None, str | None]]()
        for one, other in zip_longest(before, self._texts(new, part)):
            for pair in _differing(one, other) if one != other else ():
                read_back[pair] += 1
                if pair not in listed:
                    raise _reads_as(pair[1])
        for text, _ in listed - read_back:  # a text that several entries share is read back several times
            raise _reads_as(text)

    def _texts(self, file: TextFile, part: HoldingPart) -> Iterator[Value]:
        """Every text of a document where its syntax knows them all, else those that the guide selects as paths."""
        records = self._reader(file, part, "the rewritten catalog")
        if isinstance(records, ValuedRecords):
            yield from records.values()
            return
        for entries in part.entries:
            sooner = records.path_texts(entries) if entries.is_brief and isinstance(records, SweptRecords) else None
            if sooner is not None:
                yield from (told[0] if told else "" for told in sooner)
                continue
            for record in records_of(records, entries, told=True):
                for piece in entries.path:
                    try:
                        yield (text_of_piece(record, piece) if piece.at else "") or ""
                    except UnreadRecord:
                        yield ""


def _first_unlisted(
    before: Iterable[Value], after: Iterable[Value], changes: ChangeList
) -> tuple[str | None, str | None] | None:
    """The first text that reads otherwise than ``before`` and is not the next of the listed ones, or such a one."""
    listed = map(_PAIR, changes.spans())
    expected = next(listed, None)
    for one, other in zip_longest(before, after):
        if one == other:
            continue
        if expected is not None and _is_changed_by(expected, one, other):
            expected = next(listed, None)
            continue
        for pair in _differing(one, other):
            if pair != expected:
                return pair
            expected = next(listed, None)
    return expected


def _is_changed_by(pair: tuple[str, str], one: Value | None, other: Value | None) -> bool:
    """Whether it is seen at once that a text became the other, and nothing else did; so it is with most values."""
    if isinstance(one, str):
        return pair == (one, other)
    if isinstance(one, dict) and isinstance(other, dict) and [*one] == [*other]:
        one, other = [*one.values()], [*other.values()]
    if not isinstance(one, list) or pair[0] not in one:
        return False
    changed = one.copy()
    changed[one.index(pair[0])] = pair[1]
    return changed == other


def _differing(one: Value | None, other: Value | None) -> list[tuple[str | None, str | None]]:
    """The texts in two values that differ."""
    if isinstance(one, str) and isinstance(other, str):
        return [(one, other)]
    if isinstance(one, dict) and isinstance(other, dict) and list(one) == list(other):
        values = (pair for pair in zip(one.values(), other.values(), strict=True) if pair[0] != pair[1])
        pairs = ((_text(before), _text(after)) for before, after in values)
        return [pair for pair in pairs if pair[0] != pair[1]]  # not a number is unlike itself
    if isinstance(one, list) and isinstance(other, list) and len(one) == len(other):
        return [pair for pair in zip(one, other, strict=True) if pair[0] != pair[1]]
    return [pair for pair in zip_longest(_texts_in(one), _texts_in(other)) if pair[0] != pair[1]]


def _texts_in(value: Value | None) -> Sequence[str]:
    if isinstance(value, Mapping):
        return ["{", *value, *map(_text, value.values())]
    return (value,) if isinstance(value, str) else value or ()


def _text(value: object) -> str:
    return value if isinstance(value, str) else repr(value)


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
