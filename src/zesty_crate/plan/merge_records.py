"""What a merge keeps for those that come after it: the merged catalog as it was left, and where its rows came from."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..errors import ZestyError
from ..journal import Action
from ..machines import make_folders
from ..merge import KeyMap, Rows
from ..paths import MachinePath
from .move import Move


@dataclass(frozen=True, slots=True)
class MergeRecord:
    """A catalog as merging left it, with its digest; the ``keys`` and ``rows`` there for those that were carried."""

    left: Path
    sha512: str
    keys: KeyMap
    rows: Rows
    before: int  # entries that were there before
    is_written: bool  # else all that was carried was there already


def write_record(move: Move, place: MachinePath, record: MergeRecord, merged: Path) -> None:
    """Keep a record of a merge that is about to take its place, with a copy of what it comes to."""
    disk, (left, told) = move.outside.disk, _files(move, place)
    make_folders(disk, left.parent)
    facts = disk.facts(merged)
    beside = left.with_name(f"{left.name}.part")
    disk.remove(beside)
    if facts is not None:
        disk.copy(merged, beside, facts)
    disk.rename(beside, left)
    document = {
        "sha512": record.sha512,
        "entries": record.keys.entries,
        "groups": record.keys.groups,
        "stays": sorted(map(list, record.keys.stays)),
        "new": sorted(record.keys.new),
        "rows": {table: [[*map(list, pair)] for pair in pairs.items()] for table, pairs in record.rows.items()},
        "before": record.before,
        "written": record.is_written,
    }
    disk.write_text(told, json.dumps(document, ensure_ascii=True))


def read_record(move: Move, place: MachinePath) -> MergeRecord | None:
    """The record of the merge at a place; None when there is none, or it cannot be read."""
    disk, (left, told) = move.outside.disk, _files(move, place)
    if disk.facts(told) is None or disk.facts(left) is None:
        return None
    try:
        document: Mapping[str, Any] = json.loads(disk.read_text(told))
        stays = {(str(entry), str(name)) for entry, name in document["stays"]}
        keys = KeyMap(dict(document["entries"]), dict(document["groups"]), stays, set(document["new"]))
        rows = {
            table: {tuple(old): tuple(new) for old, new in pairs} for table, pairs in dict(document["rows"]).items()
        }
        is_written = bool(document["written"])
        return MergeRecord(left, str(document["sha512"]), keys, rows, int(document["before"]), is_written)
    except (ValueError, KeyError, TypeError, ZestyError):
        return None


def standing_record(move: Move, place: MachinePath, last: Action | None) -> MergeRecord | None:
    """The record of the merge at a place, where nothing of this move came after it; ``last`` is what it did there."""
    record = read_record(move, place)
    if record is None:
        return None
    is_last = last is not None and last.sha512 == record.sha512
    return record if is_last or (last is None and not record.is_written) else None


def _files(move: Move, place: MachinePath) -> tuple[Path, Path]:
    name = hashlib.sha256(move.new.key(place).encode("utf-8", "surrogateescape")).hexdigest()[:24]
    folder = move.folder / "merged"
    return folder / f"{name}.catalog", folder / f"{name}.json"
