"""Disks that seem to be others: what catalogs expect on one volume is on another one, at the same places there.

So it is where the letters of a disk on the bench were guessed, or where a drive has come back under another name.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import islice

from ..machines import Computer, Finder, Volume
from ..machines.texts import restored
from ..paths import MachinePath
from .states import State
from .store import SurveyStore

_FEWEST = 3  # entries, to be more than chance
_MOST = 20_000  # that are looked up, evenly from all
_SHARE = 0.5  # of those looked up, to say so

_ABSENT = f"state IN ('{State.UNPLUGGED}', '{State.MISSING_BEFORE}') AND path <> ''"


@dataclass(frozen=True, slots=True)
class Lookalike:
    """``entries`` are on ``volume``, and their files are not; of those ``looked_up``, ``found`` are on ``other``."""

    volume: str
    is_here: bool
    entries: int
    looked_up: int
    other: str
    found: int


def find_lookalikes(store: SurveyStore, computer: Computer, finder: Finder) -> list[Lookalike]:
    """Where most of what is absent from one volume is on another one that is connected."""
    rows = store.database.execute(f"SELECT path, count(*) FROM entry WHERE {_ABSENT} GROUP BY path")
    absent = _by_anchor(((restored(path), number) for path, number in rows), computer)
    found = (_best(anchor, texts, computer, finder) for anchor, texts in absent.items() if len(texts) >= _FEWEST)
    return [each for each in found if each is not None]


def _by_anchor(rows: Iterable[tuple[str, int]], computer: Computer) -> dict[str, dict[str, int]]:
    """The paths on each volume, with their entries. What is in one folder is on one volume."""
    anchors: dict[str, str] = {}
    found: dict[str, dict[str, int]] = {}
    for text, number in rows:
        folder = text[: max(text.rfind("/"), text.rfind("\\")) + 1]
        if folder not in anchors:
            anchors[folder] = computer.anchor_of(computer.parse(text).parent)
        found.setdefault(anchors[folder], {})[text] = number
    return found


def _best(anchor: str, texts: dict[str, int], computer: Computer, finder: Finder) -> Lookalike | None:
    """The other volume that has most of what is absent; None where none has half of it."""
    sample = dict(islice(texts.items(), 0, None, len(texts) // _MOST + 1))
    some = dict(zip(computer.parse_all(sample), sample.values(), strict=True))
    own = computer.volume_of(next(iter(some)))
    depth = 0 if own is None else len(own.anchor.parts)
    others = [each for each in computer.volumes if each is not own and each.mount is not None]
    found = [(sum(some[each] for each in _there(volume, some, depth, finder)), volume) for volume in others]
    number, best = max(found, key=lambda pair: pair[0], default=(0, None))
    looked_up = sum(some.values())
    if best is None or number < max(_FEWEST, _SHARE * looked_up):
        return None
    is_here = own is not None and own.mount is not None
    return Lookalike(anchor, is_here, sum(texts.values()), looked_up, computer.anchor_of(best.anchor), number)


def _there(volume: Volume, places: Iterable[MachinePath], depth: int, finder: Finder) -> Iterator[MachinePath]:
    """Those places whose files are there from the anchor of another volume."""
    for place in places:
        seen = finder.find(volume.anchor.below(*place.parts[depth:]))
        if seen.facts is not None and seen.facts.is_file:
            yield place
