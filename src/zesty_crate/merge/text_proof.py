"""Prove a merge of two texts: the bytes that were there stand in their order, and all of both sides is read from it."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import closing
from pathlib import Path

from ..catalogs import Catalog, CatalogError, Entry, syntax_of, text_file_of, text_records
from ..machines import Disk
from .sides import Sides
from .text_attached import lost_attached
from .text_merge import TextMerged
from .who import known_entries


def prove_text(sides: Sides, done: TextMerged, disk: Disk, scratch: Path) -> int:
    """Compare the merged ``target`` with what was ``there``, and with what was carried; how many entries were read.

    Raises `CatalogError` for the first thing that is not as it must be.
    """
    _bytes_stay(sides, done, disk)
    syntax, part = syntax_of(sides.part), sides.part

    def opened(path: Path) -> closing[Catalog]:
        return closing(syntax.open(path, part, sides.at, disk, scratch))

    with opened(sides.there) as was, opened(sides.carried) as carried, opened(sides.target) as now:
        entries = {each.key: each for each in now.entries()}
        files = {each.key: each.file for each in known_entries(now, sides.computer)}
        new = len(done.keys.new)
        if len(entries) != done.entries_before + new or len(set(done.keys.entries.values())) < len(done.keys.entries):
            raise _differs(f"{done.entries_before} entries were in it, {new} came, and {len(entries)} are read now")
        written = set(done.keys.entries.values()) - {done.keys.entries[key] for key in done.keys.new}
        for each in was.entries():
            _require_same(each, entries, annotations=each.key not in written)
        came = {each.key: each.file for each in known_entries(carried, sides.computer)}
        for each in carried.entries():
            key = done.keys.entries.get(each.key)
            if key is None and sides.scope is not None:
                continue
            if key is None or (each.key in done.keys.new and files.get(key) != came[each.key]):
                raise _differs(f"the carried entry {each.recorded} is not in it")
            _require_annotations(each, dict(entries[key].annotations), done)
        _groups_are_there(sides, done, was, carried, now)
        if sides.part.attached:
            lost = lost_attached(sides, done.work, text_records(sides.target, part, sides.at, disk))
            if lost:
                raise _differs(lost)
        return done.entries_before + len(came)


def _bytes_stay(sides: Sides, done: TextMerged, disk: Disk) -> None:
    """Outside the splices every character is what it was."""
    old, new = (text_file_of(path, sides.part, disk) for path in (sides.there, sides.target))
    at, moved = 0, 0
    for start, end, text in done.splices:
        if start < at or old.text[at:start] != new.text[at + moved : start + moved]:
            raise _differs(f"its text differs before character {start}")
        if new.text[start + moved : start + moved + len(text)] != text:
            raise _differs(f"what was to come at character {start} is not there")
        moved += len(text) - (end - start)
        at = end
    if old.text[at:] != new.text[at + moved :] or (old.encoding, old.mark) != (new.encoding, new.mark):
        raise _differs(f"its text differs behind character {at}")


def _require_same(entry: Entry, now: Mapping[str, Entry], *, annotations: bool) -> None:
    found = now.get(entry.key)
    if found is None or found.recorded != entry.recorded:
        raise _differs(f"its entry {entry.recorded} is not what it was")
    if annotations and found.annotations != entry.annotations:
        raise _differs(f"the annotations of its entry {entry.recorded} are not what they were")


def _require_annotations(entry: Entry, now: Mapping[str, str], done: TextMerged) -> None:
    for name, value in entry.annotations:
        if value and now.get(name) != value and (entry.key, name) not in done.keys.stays:
            raise _differs(f"{name} of the carried entry {entry.recorded} is not in it")


def _groups_are_there(sides: Sides, done: TextMerged, was: Catalog, carried: Catalog, now: Catalog) -> None:
    if not sides.part.groups or any(each.whole for each in sides.part.groups):
        return
    groups = {each.key: each for each in now.groups()}
    for group in was.groups():
        rest = iter(groups[group.key].members if group.key in groups else ())
        if not all(any(each == other for other in rest) for each in group.members):
            raise _differs(f"the group {group.name} has lost members, or their order")
    for group in carried.groups():
        there = groups.get(done.keys.groups.get(group.key, ""))
        wanted = {done.keys.entries[key] for key in group.members if key in done.keys.entries}
        if (there is None and sides.scope is None) or (there is not None and not wanted <= set(there.members)):
            raise _differs(f"the carried group {group.name} is not in it whole")


def _differs(what: str) -> CatalogError:
    return CatalogError(
        f"The merged catalog is not as it must be: {what}. It was discarded.",
        next_step="The catalog was not changed. Please report this fault to the makers of Zesty Crate.",
    )
