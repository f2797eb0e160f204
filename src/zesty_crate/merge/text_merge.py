"""Merge the records of one text into another: carried records are spliced in as they were written.

They come after the last record of their kind, with the keys of those that are taken given anew. Of what was there not
a byte changes, but for values that were decided.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from ..catalogs import Catalog, CatalogError, PlacedRecord, Splice, TextRecords, text_records
from ..guides import EntriesPart
from ..machines import Disk
from .model import KeyMap, MergedTable, MergeOptions, MergeReport
from .sides import Sides
from .text_attached import merge_attached
from .text_counts import correct_counters
from .text_entries import EntriesMerge
from .text_groups import GroupsMerge
from .text_outside import left_outside
from .text_work import TextWork
from .values import Values
from .who import Pairs, light, pair, pairs_of_origin

ENTRIES = "entries"  # the one table of a text in what a merge keeps
_EXAMPLES = 8


@dataclass(slots=True)
class TextMerged:
    """What was done: the report, the keys, and every splice."""

    report: MergeReport
    work: TextWork
    entries_before: int

    @property
    def keys(self) -> KeyMap:
        """The keys that carried records have now."""
        return self.work.keys

    @property
    def splices(self) -> list[Splice]:
        """All that was written."""
        return self.work.splices


def merge_text(sides: Sides, options: MergeOptions, disk: Disk, scratch: Path) -> TextMerged:
    """Merge. Raises `CatalogError` for what cannot be put into the text that is there."""
    return _TextMerge(sides, options, disk, scratch).run()


class _TextMerge:
    def __init__(self, sides: Sides, options: MergeOptions, disk: Disk, scratch: Path) -> None:
        self._sides = sides
        self._part = sides.part
        self._disk = disk
        there, carried = (text_records(path, sides.part, sides.at, disk) for path in (sides.there, sides.carried))
        self._work = TextWork(sides, there, carried, Values(options))
        self._were: dict[str, dict[str, PlacedRecord]] = {"carried": {}, "left": {}}
        self._require_one_head()
        self._pairs = self._paired(scratch)

    def _require_one_head(self) -> None:
        """Rows with other columns cannot stand below the head that is there."""
        heads = [each.file.text.partition("\n")[0].strip() for each in (self._work.there, self._work.carried)]
        if self._part.syntax == "delimited" and heads[0] != heads[1]:
            raise CatalogError(
                f"The catalogs have other columns: {heads[0]} there, and {heads[1]} carried.",
                next_step="Have both programs at one version, or choose keep or both.",
            )

    def run(self) -> TextMerged:
        """Everything, written into the target."""
        work, several = self._work, len(self._part.entries) > 1
        entries = EntriesMerge(work, self._pairs, self._were["carried"], self._were["left"])
        tables = [
            entries.merge(part, f"{number}:" if several else "")
            for number, part in enumerate(self._part.entries, start=1)
        ]
        groups, several = GroupsMerge(work), len(self._part.groups) > 1
        for number, group in enumerate(self._part.groups, start=1):
            if not group.whole:
                tables.append(groups.merge(group, f"{number}:" if several else ""))
        tables += [merge_attached(work, part) for part in self._part.attached]
        correct_counters(work, self._part.counters, tables)
        self._disk.write_bytes(self._sides.target, self._encoded(work.spliced()))
        return TextMerged(self._report(tables, groups), work, self._pairs.there)

    def _encoded(self, text: str) -> bytes:
        file = self._work.there.file
        try:
            return file.encoded(text)
        except UnicodeEncodeError as error:
            raise CatalogError(
                f"It is in {file.encoding}, which lacks {error.object[error.start : error.end]!r} of the carried one.",
                next_step="Save it in UTF-8 with its program first, or choose keep, bring-in or both.",
            ) from error

    def _paired(self, scratch: Path) -> Pairs:
        """Which entries are one; where documents know no keys, as many of a file as both have."""
        syntax, part = self._work.there.syntax, light(self._part)
        has_keys = all(each.key or self._all_are_known(each) for each in self._part.entries)
        with (
            closing(syntax.open(self._work.sides.carried, part, self._work.sides.at, self._disk, scratch)) as carried,
            closing(syntax.open(self._work.sides.there, part, self._work.sides.at, self._disk, scratch)) as there,
        ):
            by_origin = self._by_origin(carried, there) if has_keys else {}
            return pair(carried, there, self._work.sides.computer, by_origin, in_order=not has_keys)

    def _all_are_known(self, part: EntriesPart) -> bool:
        """Whether every record is known by itself, without a key that the guide names."""
        return all(
            each.record.known_as for side in (self._work.there, self._work.carried) for each in side.entries(part, "")
        )

    def _by_origin(self, carried: Catalog, there: Catalog) -> dict[str, str]:
        """Keys of entries that were one at the origin, and still show it."""
        origin, syntax, part = self._work.sides.origin, self._work.there.syntax, light(self._part)
        if origin is None:
            return {}
        keys = None
        if origin.rows is not None:
            keys = {str(old): str(new) for (old,), (new,) in origin.rows.get(ENTRIES, {}).items()}
        with (
            closing(syntax.open(origin.carried, part, self._work.sides.at, self._disk, Path())) as before,
            closing(syntax.open(origin.left, part, self._work.sides.at, self._disk, Path())) as left,
        ):
            found = pairs_of_origin(before, left, carried, there, self._work.sides.computer, keys)
        for name, path, wanted in (
            ("carried", origin.carried, set(found)),
            ("left", origin.left, set(found.values())),
        ):
            records = text_records(path, self._part, self._work.sides.at, self._disk)
            self._were[name] = {each.key: each for each in self._all_of(records) if each.key in wanted}
        return found

    def _all_of(self, records: TextRecords) -> Iterator[PlacedRecord]:
        for number, part in enumerate(self._part.entries, start=1):
            yield from records.entries(part, f"{number}:" if len(self._part.entries) > 1 else "")

    def _report(self, tables: Iterable[MergedTable], groups: GroupsMerge) -> MergeReport:
        told, values = tuple(tables), self._work.values
        entries = [each for each in told if each.role == "entries"]
        fresh = [each.recorded for each in self._pairs.carried if each.key in self._work.keys.new]
        return MergeReport(
            tables=told,
            new=sum(each.new for each in entries),
            same=sum(each.same for each in entries),
            only_there=values.only_there,
            only_carried=values.only_carried,
            facts=values.facts,
            conflicts=tuple(values.conflicts),
            groups_new=tuple(groups.new),
            groups_grown=tuple(groups.grown),
            examples=tuple(fresh[:_EXAMPLES]),
            unsure=self._pairs.unsure,
            left_out=left_outside(self._work),
            three_sides=self._work.sides.origin is not None,
        )
