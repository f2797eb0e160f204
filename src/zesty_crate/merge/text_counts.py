"""Numbers that a text keeps of itself: how many entries or groups it has, and which number comes next."""

from __future__ import annotations

from collections.abc import Sequence

from ..catalogs import CatalogError
from ..guides import CounterPart
from .model import MergedTable
from .text_work import TextWork, cell_of


def correct_counters(work: TextWork, counters: Sequence[CounterPart], tables: Sequence[MergedTable]) -> None:
    """Write what each counter has to hold now. Raises `CatalogError` for one that is no number, or has no place."""
    for part in counters:
        new = sum(each.new for each in tables if each.role == part.of)
        if not new:
            continue
        for record in work.there.records_of(part.each):
            cell, text = cell_of(record, part.at), record.record.text(part.at)
            if text is None:
                continue
            if cell is None or not text.strip().isdigit():
                raise CatalogError(
                    f"The counter {part.at} of {part.each} holds {text!r}; expected a number that can be written.",
                    next_step="Correct [[holding.counters]] in the guide.",
                )
            number = int(text) + new if part.holds == "count" else _beyond(work, part, int(text))
            work.write(cell, str(number))


def _beyond(work: TextWork, part: CounterPart, before: int) -> int:
    """The number that comes next, or the last one, now that carried records have theirs."""
    keys: dict[str, str] = work.keys.entries if part.of == "entries" else work.keys.groups
    numbers = [int(own) for key in keys.values() if (own := key.rpartition(":")[2]).isdigit()]
    return max(before, max(numbers, default=0) + (part.holds == "next"))
