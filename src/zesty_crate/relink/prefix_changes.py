"""What a change list comes to, for people: which beginnings of paths become which, how often, each with an example."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

from ..catalogs import ChangeList

_SEPARATOR = re.compile(r"[\\/]")


@dataclass(frozen=True, slots=True)
class PrefixChange:
    """Texts that change alike: what comes before the names that stay was ``old`` and must be ``new``.

    ``where`` is the table and column, empty where there is none; ``example`` is one whole text, before and after.
    """

    where: str
    old: str
    new: str
    texts: int
    example: tuple[str, str]


def prefix_changes(changes: ChangeList) -> tuple[PrefixChange, ...]:
    """All that a change list holds, what is most frequent first."""
    counts: Counter[tuple[str, str, str]] = Counter()
    examples: dict[tuple[str, str, str], tuple[str, str]] = {}
    for where, old, new in changes.pairs():
        heads = (where, *_differing(old, new))
        counts[heads] += 1
        examples.setdefault(heads, (old, new))
    return tuple(PrefixChange(*heads, count, examples[heads]) for heads, count in counts.most_common())


def _differing(old: str, new: str) -> tuple[str, str]:
    """What is left of two paths without the last names that they share."""
    cut, new_cut = _last_separator(old), _last_separator(new)
    if cut and new_cut and old[cut:] == new[new_cut:]:
        return _without_shared(old[:cut], new[:new_cut])
    return old, new


def _last_separator(text: str) -> int:
    return max(text.rfind("/"), text.rfind("\\")) + 1


@lru_cache(maxsize=65536)
def _without_shared(old: str, new: str) -> tuple[str, str]:
    """The same for the texts of folders, which end with a separator; something of both always stays."""
    for mine, theirs in _starts(old, new):
        if _names(old[mine:]) == _names(new[theirs:]):
            return old[:mine], new[:theirs]
    return old, new


def _starts(old: str, new: str) -> Iterator[tuple[int, int]]:
    """Where names begin in both, counted from the end: the outermost pair first."""
    mine, theirs = ([match.end() for match in _SEPARATOR.finditer(text)] for text in (old, new))
    shared = min(len(mine), len(theirs))
    yield from zip(mine[len(mine) - shared :], theirs[len(theirs) - shared :], strict=True)


def _names(text: str) -> list[str]:
    return _SEPARATOR.split(text)
