"""What supports or contradicts a file being the one that an entry lost, each clue with its weight.

Weights are log-odds, fitted by ``benchmarks/matching.py`` on generated cases, so that a confidence means what it says.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

from rapidfuzz import fuzz

from ..machines.moments import SAME_MOMENT_NS
from ..media import NOTHING_TOLD, MediaFacts
from ..paths import Folding, MachinePath, name_key

_ALIKE = 82.0  # of 100, by which two names are taken for variants of one
_RARE = 0.002
_HOUR_NS = 3600 * 10**9
_ZONES = 26  # two zones can be so many hours apart
_SAME_DURATION_S = 1.0  # some catalogs know whole seconds
_COPY_MARK = re.compile(r"(?:[ _-]+(?:copy|kopie|copie|copia)(?:[ _]\d+)?| \(\d+\)|~\d+)$", re.IGNORECASE)
_NUMBER = re.compile(r"\d+")


@dataclass(frozen=True, slots=True)
class Lost:
    """An entry's file that is not there, with what its catalog knows of it. See `Known` for the units."""

    path: MachinePath
    size_bytes: int | None = None
    content: str = ""
    modified_ns: int | None = None
    media: MediaFacts = NOTHING_TOLD


@dataclass(frozen=True, slots=True)
class Here:
    """A file that is there. ``by_chance`` is how many other files of just its size are expected by chance."""

    path: MachinePath
    size_bytes: int
    modified_ns: int
    by_chance: float = 0.0


class Clue(StrEnum):
    """One thing in which a file agrees or disagrees with what is known; the text is what people read."""

    CONTENT_SAME = "the same content"
    CONTENT_OTHER = "other content"
    SIZE_SAME = "the same size"
    SIZE_COMMON = "the same size, which others have too"
    SIZE_OTHER = "another size"
    DATE_SAME = "the same date"
    DATE_SHIFTED = "the same date in another time zone"
    DATE_OTHER = "another date"
    MEDIA_SAME = "the same length or dimensions"
    MEDIA_OTHER = "another length or other dimensions"
    NAME_SAME = "the same name"
    NAME_COPY = "the name of a copy"
    NAME_ALIKE = "a similar name"
    NAME_NUMBERED = "the same name except for its number"
    NAME_OTHER = "another name"
    ENDING_OTHER = "another ending"
    PLACE_ONE = "a folder of the same name"
    PLACE_MORE = "folders of the same names"
    SIZE_AND_DATE = "size and date together"
    SIZE_AND_NAME = "size and name together"
    COMMON_SIZE_AND_NAME = "a common size and name together"


# What two clues say together is not the sum of what each says; people read the two alone.
TOGETHER = {
    Clue.SIZE_AND_DATE: ({Clue.SIZE_SAME, Clue.SIZE_COMMON}, {Clue.DATE_SAME, Clue.DATE_SHIFTED}),
    Clue.SIZE_AND_NAME: ({Clue.SIZE_SAME}, {Clue.NAME_SAME}),
    Clue.COMMON_SIZE_AND_NAME: ({Clue.SIZE_COMMON}, {Clue.NAME_SAME}),
}


# The log-odds of each clue; see the docstring of the module.
WEIGHTS: dict[Clue, float] = {
    Clue.CONTENT_SAME: 6.18,
    Clue.CONTENT_OTHER: -7.08,
    Clue.SIZE_SAME: 5.33,
    Clue.SIZE_COMMON: 2.62,
    Clue.SIZE_OTHER: -8.71,
    Clue.DATE_SAME: 2.43,
    Clue.DATE_SHIFTED: 2.08,
    Clue.DATE_OTHER: -8.13,
    Clue.MEDIA_SAME: 0.46,
    Clue.MEDIA_OTHER: -5.65,
    Clue.NAME_SAME: 2.52,
    Clue.NAME_COPY: 0.26,
    Clue.NAME_ALIKE: 0.15,
    Clue.NAME_NUMBERED: -5.74,
    Clue.NAME_OTHER: 0.1,
    Clue.ENDING_OTHER: -6.92,
    Clue.PLACE_ONE: 0.98,
    Clue.PLACE_MORE: 1.32,
    Clue.SIZE_AND_DATE: 4.35,
    Clue.SIZE_AND_NAME: -3.33,
    Clue.COMMON_SIZE_AND_NAME: -0.57,
}
NOTHING_SAID = -2.7

ContentOf = Callable[[MachinePath, str], str]
MediaOf = Callable[[MachinePath], MediaFacts]


def clues_of(lost: Lost, here: Here, content_of: ContentOf, media_of: MediaOf) -> frozenset[Clue]:
    """Everything in which a file and what is known of a lost one agree or disagree."""
    clues = {_size(lost, here), _date(lost, here), *_name(lost.path.name, here.path.name), _place(lost.path, here.path)}
    if lost.content and (lost.size_bytes in (None, here.size_bytes)):
        same = content_of(here.path, lost.content.partition(":")[0]) == lost.content
        clues.add(Clue.CONTENT_SAME if same else Clue.CONTENT_OTHER)
    elif lost.media != NOTHING_TOLD:
        clues.add(_media(lost.media, media_of(here.path)))
    clues.update(clue for clue, (one, other) in TOGETHER.items() if clues & one and clues & other)
    return frozenset(each for each in clues if each is not None)


def score(clues: frozenset[Clue]) -> float:
    """The log-odds of all clues together, against the file being none of those that were seen."""
    return NOTHING_SAID + sum(WEIGHTS[clue] for clue in clues)


def _size(lost: Lost, here: Here) -> Clue | None:
    if lost.size_bytes is None:
        return None
    if lost.size_bytes != here.size_bytes:
        return Clue.SIZE_OTHER
    return Clue.SIZE_SAME if here.by_chance < _RARE else Clue.SIZE_COMMON


def _date(lost: Lost, here: Here) -> Clue | None:
    if lost.modified_ns is None:
        return None
    apart = abs(lost.modified_ns - here.modified_ns)
    if apart <= SAME_MOMENT_NS:
        return Clue.DATE_SAME
    hours = round(apart / _HOUR_NS)
    shifted = 0 < hours <= _ZONES and abs(apart - hours * _HOUR_NS) <= SAME_MOMENT_NS
    return Clue.DATE_SHIFTED if shifted else Clue.DATE_OTHER


def _media(lost: MediaFacts, here: MediaFacts) -> Clue | None:
    if lost.dimensions is not None and here.dimensions is not None:
        return Clue.MEDIA_SAME if lost.dimensions == here.dimensions else Clue.MEDIA_OTHER
    if lost.duration_s is None or here.duration_s is None:
        return None
    same = abs(lost.duration_s - here.duration_s) <= _SAME_DURATION_S
    return Clue.MEDIA_SAME if same else Clue.MEDIA_OTHER


def _name(one: str, other: str) -> set[Clue]:
    (stem, ending), (other_stem, other_ending) = folded_name(one), folded_name(other)
    clues = {Clue.ENDING_OTHER} if ending != other_ending else set()
    if stem == other_stem:
        return {Clue.NAME_SAME, *clues}
    if plain_stem(stem) == plain_stem(other_stem):
        return {Clue.NAME_COPY, *clues}
    if _NUMBER.sub("0", stem) == _NUMBER.sub("0", other_stem):
        return {Clue.NAME_NUMBERED, *clues}
    alike = are_alike(stem, other_stem) and _NUMBER.findall(stem) == _NUMBER.findall(other_stem)
    return {Clue.NAME_ALIKE if alike else Clue.NAME_OTHER, *clues}


def _place(one: MachinePath, other: MachinePath) -> Clue | None:
    shared = 0
    for mine, theirs in zip(reversed(one.parts[:-1]), reversed(other.parts[:-1]), strict=False):
        if folded(mine) != folded(theirs):
            break
        shared += 1
    return None if shared == 0 else Clue.PLACE_ONE if shared == 1 else Clue.PLACE_MORE


def folded(name: str) -> str:
    """A name without its case and Unicode form."""
    return name_key(name, Folding.CANONICAL_CASELESS)


def are_alike(stem: str, other: str) -> bool:
    """Whether two folded stems are variants of one: nearly the same letters, or all words of one in the other."""
    if fuzz.ratio(stem, other) >= _ALIKE:
        return True
    fewer, more = sorted((set(stem.split()), set(other.split())), key=len)
    return len(fewer) > 1 and fewer <= more


@lru_cache(maxsize=65536)
def folded_name(name: str) -> tuple[str, str]:
    """A name in two halves, folded, with every run of what separates words as one space: its stem and its ending."""
    stem, dot, ending = folded(unicodedata.normalize("NFKC", name)).rpartition(".")
    if not dot or not stem:
        stem, ending = stem + ending, ""
    return re.sub(r"[ _.\-]+", " ", stem).strip(), ending


@lru_cache(maxsize=65536)
def plain_stem(stem: str) -> str:
    """A stem without what copying adds to it."""
    return _COPY_MARK.sub("", stem)
