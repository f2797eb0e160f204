"""One way to merge, whatever the syntax; nothing is handed over that was not proven."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from ..guides import HoldingPart
from ..machines import Disk
from .forms import in_other_form
from .model import KeyMap, MergeOptions, MergeReport, Rows
from .sides import Sides
from .sqlite_merge import merge_sqlite
from .sqlite_proof import prove_sqlite
from .text_merge import ENTRIES, merge_text
from .text_proof import prove_text

_CANNOT = ("turtle",)  # what a statement is about may be told in several places of it


@dataclass(frozen=True, slots=True)
class Merged:
    """What a merge came to, the keys that carried records have now, and ``compared``, how many the proof looked at."""

    report: MergeReport
    keys: KeyMap
    rows: Rows
    compared: int


def can_merge(part: HoldingPart) -> str:
    """Why catalogs of a holding cannot be merged; empty when they can."""
    return "" if part.syntax not in _CANNOT else f"catalogs in {part.syntax} cannot be merged by this version"


def merge_and_prove(sides: Sides, options: MergeOptions, disk: Disk, scratch: Path) -> Merged:
    """Merge what was carried into the target, and prove it. Raises `CatalogError`."""
    other = in_other_form(sides, disk, scratch)
    if other is not None:
        done = merge_and_prove(other.sides, options, disk, scratch)
        other.put(other.sides.target)
        return replace(done, report=replace(done.report, left_out=(*done.report.left_out, *other.left_out)))
    if sides.part.syntax == "sqlite":
        rows = merge_sqlite(sides, options, disk, scratch)
        return Merged(rows.report, rows.keys, rows.rows, prove_sqlite(sides, rows, disk, scratch))
    text = merge_text(sides, options, disk, scratch)
    entries: Rows = {ENTRIES: {(old,): (new,) for old, new in text.keys.entries.items()}}
    return Merged(text.report, text.keys, entries, prove_text(sides, text, disk, scratch))
