"""What tells an entry apart on every computer, by entries that two catalogs of one program have in common."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from .documents import Kind
from .explain import Entries

_FEWEST = 3  # entries that both have


def identity_met(kind: Kind, entries: Entries, keys: set[str]) -> tuple[str, str] | None:
    """The column that says the same of each file in two databases, where their ``keys`` do not; and the evidence.

    Files are the same when their names are, and no other of either has that name.
    """
    other = kind.another.tables.get(entries.table.each) if kind.another is not None else None
    own = sorted(entries.own)
    if other is None or len(own) != 1 or own[0] not in other.fields:
        return None
    names, others = (_rows_by_name(table.fields[own[0]].values) for table in (entries.table, other))
    pairs = [(row, others[name]) for name, row in names.items() if name in others]
    mine, theirs = entries.table.fields, other.fields
    differ = any(_says(mine, key, row) != _says(theirs, key, met) for key in keys for row, met in pairs)
    if len(pairs) < _FEWEST or not differ:  # else one is a copy of the other, which says nothing
        return None
    for each in entries.table:
        if each.selector in keys | entries.own or each.selector not in other.fields:
            continue
        said = [(each.values[row], other.fields[each.selector].values[met]) for row, met in pairs]
        if all(a == b and a not in (None, "") for a, b in said) and len({a for a, _ in said}) == len(said):
            return each.selector, f"the same in two databases for {len(pairs):,} files that both have; keys differ"
    return None


def _rows_by_name(texts: list[Any]) -> dict[str, int]:
    """The rows of those names that only one row has."""
    found: dict[str, int] = {}
    several = set[str]()
    for row, text in enumerate(texts):
        name = re.split(r"[\\/]", text)[-1] if isinstance(text, str) else ""
        if name and name in found:
            several.add(name)
        elif name:
            found[name] = row
    return {name: row for name, row in found.items() if name not in several}


def _says(fields: Mapping[str, Any], key: str, row: int) -> Any:
    return fields[key].values[row] if key in fields else row
