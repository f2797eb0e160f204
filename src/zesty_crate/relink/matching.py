"""Match one by one what no route explains: lost entries with files, each with a confidence that means something.

The confidence is the probability that a file is the one that was lost, by the clues for it, against all other files
that could be it and against its being none of them (a conditional logit). Where several lost entries want one file, the
assignment is made that is likeliest as a whole.
"""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

from ..paths import MachinePath
from .clues import (
    TOGETHER,
    Clue,
    ContentOf,
    Here,
    Lost,
    MediaOf,
    are_alike,
    clues_of,
    folded_name,
    plain_stem,
    score,
)

ACCEPTED = 0.98  # of 10,000 generated cases none was matched wrongly from here on
_SHOWN = 0.01
_MOST_OF_A_KIND = 64
_MOST_SHOWN = 3
_SHORTEST_WORD = 4


@dataclass(frozen=True, slots=True)
class Candidate:
    """A file that may be the one that was lost, and why. ``confidence`` is in [0, 1].

    It has ``twins`` where other candidates are known to have the same content; all of them share one confidence.
    """

    path: MachinePath
    confidence: float
    clues: frozenset[Clue]
    twins: int = 0

    @property
    def is_backed(self) -> bool:
        """Whether more than its size supports it: with another name and no date, a size can agree by chance."""
        alone = Clue.NAME_OTHER in self.clues and not self.clues & {Clue.DATE_SAME, Clue.DATE_SHIFTED}
        return Clue.CONTENT_SAME in self.clues or not alone

    @property
    def why(self) -> str:
        """The clues as people read them."""
        said = [clue for clue in Clue if clue in self.clues and clue not in TOGETHER]
        return ", ".join([*said, *[f"one of {self.twins + 1} files with one content"] * bool(self.twins)])


@dataclass(frozen=True, slots=True)
class Matched:
    """A lost entry's file: the ``choice`` that is sure enough, or None; ``candidates`` are the likeliest first."""

    lost: Lost
    choice: Candidate | None
    candidates: tuple[Candidate, ...]


@dataclass(slots=True)
class _Option:
    """A file that may be a lost one, while all are weighed."""

    here: Here
    clues: frozenset[Clue]
    score: float

    @property
    def is_sure(self) -> bool:
        return Clue.CONTENT_SAME in self.clues


class Matcher:
    """Collects the files that may be what was lost, and matches them."""

    def __init__(self, lost: Iterable[Lost]) -> None:
        self._lost = list(lost)
        self._sizes = {each.size_bytes for each in self._lost if each.size_bytes}
        self._stems = {plain_stem(folded_name(each.path.name)[0]) for each in self._lost}
        self._words = {_longest_word(stem) for stem in self._stems} - {""}
        self._seen: list[Here] = []
        self._by_chance = _Sizes()
        self._by_size: defaultdict[int, list[int]] = defaultdict(list)
        self._by_stem: defaultdict[str, list[int]] = defaultdict(list)
        self._by_word: defaultdict[str, list[int]] = defaultdict(list)
        self._by_content: dict[tuple[int, str], dict[str, list[int]]] = {}

    def see(self, path: MachinePath, size_bytes: int, modified_ns: int) -> None:
        """Take notice of a file."""
        self._by_chance.add(size_bytes)
        stem = plain_stem(folded_name(path.name)[0])
        word = _longest_word(stem)
        if not (size_bytes in self._sizes or stem in self._stems or word in self._words):
            return
        number = len(self._seen)
        self._seen.append(Here(path, size_bytes, modified_ns))
        self._by_size[size_bytes].append(number)
        self._by_stem[stem].append(number)
        if word:
            self._by_word[word].append(number)

    def match(self, content_of: ContentOf, media_of: MediaOf, accepted: float = ACCEPTED) -> list[Matched]:
        """Match every lost entry; those whose confidence is below ``accepted`` get no choice."""
        options = [self._options(each, content_of, media_of) for each in self._lost]
        chosen = _assigned(options)
        matched = []
        for lost, found, number in zip(self._lost, options, chosen, strict=True):
            candidates = _weighed(found, content_of)
            best = None if number is None else next(c for c in candidates if c.path == found[number].here.path)
            sure = best is not None and best.confidence >= accepted and (best.is_backed or not accepted)
            # Of equal copies, none of which has a better place, any would be a guess.
            sure = sure and number is not None and not _is_rivalled(found, number)
            shown = tuple(each for each in candidates if each.confidence >= _SHOWN)[:_MOST_SHOWN]
            matched.append(Matched(lost, best if sure else None, shown))
        return matched

    def _options(self, lost: Lost, content_of: ContentOf, media_of: MediaOf) -> list[_Option]:
        options = []
        for here in self._possible(lost, content_of):
            clues = clues_of(lost, here, content_of, media_of)
            options.append(_Option(here, clues, score(clues)))
        return sorted(options, key=lambda each: (-each.score, str(each.here.path)))

    def _of_content(self, lost: Lost, same_size: Sequence[int], content_of: ContentOf) -> Sequence[int]:
        """Of many files of one size, those with the content that the catalog knows: each is read once."""
        if not lost.content or len(same_size) <= _MOST_OF_A_KIND or lost.size_bytes is None:
            return ()
        method = lost.content.partition(":")[0]
        by_content = self._by_content.get((lost.size_bytes, method))
        if by_content is None:
            by_content = self._by_content[lost.size_bytes, method] = {}
            for number in same_size:
                by_content.setdefault(content_of(self._seen[number].path, method), []).append(number)
        return by_content.get(lost.content, ())[:_MOST_OF_A_KIND]

    def _possible(self, lost: Lost, content_of: ContentOf) -> Iterator[Here]:
        """Files that agree in size, or in the name or much of it; a kind that too many are of tells nothing.

        A known content is looked for among all files of its size, however many.
        """
        stem = plain_stem(folded_name(lost.path.name)[0])
        same_size = self._by_size.get(lost.size_bytes, []) if lost.size_bytes else []
        same_name = self._by_stem.get(stem, [])
        numbers = set(same_size if len(same_size) <= _MOST_OF_A_KIND else set(same_size) & set(same_name))
        numbers.update(self._of_content(lost, same_size, content_of))
        numbers.update(same_name[:_MOST_OF_A_KIND])
        akin = self._by_word.get(_longest_word(stem), [])
        for number in akin if len(akin) <= _MOST_OF_A_KIND * 4 else ():
            if are_alike(stem, folded_name(self._seen[number].path.name)[0]):
                numbers.add(number)
        for number in sorted(numbers):
            here = self._seen[number]
            others = len(self._by_size[here.size_bytes]) - 1
            yield replace(here, by_chance=max(others, self._by_chance.expected(here.size_bytes)))


class _Sizes:
    """How many files there are of about each size: of small ones, many have the same by chance."""

    def __init__(self) -> None:
        self._counts: defaultdict[int, int] = defaultdict(int)

    def add(self, size_bytes: int) -> None:
        """Count a file."""
        self._counts[_step(size_bytes)] += 1

    def expected(self, size_bytes: int) -> float:
        """The number of files expected at one size."""
        width = max(1, 1 << max(0, size_bytes.bit_length() - 3))
        return self._counts[_step(size_bytes)] / width


def _step(size_bytes: int) -> int:
    """Which of the steps a size is in; each is a quarter of an octave."""
    shift = max(0, size_bytes.bit_length() - 3)
    return (shift << 3) + (size_bytes >> shift)


def _assigned(options: list[list[_Option]]) -> list[int | None]:
    """For each lost entry which of its options it gets, in the assignment that is likeliest as a whole.

    A file goes to one entry only, but for those whose content is known to be the same: they share it.
    """
    chosen: list[int | None] = [0 if found and found[0].is_sure else None for found in options]
    wanting = [row for row, found in enumerate(options) if found and chosen[row] is None]
    claims = Counter(option.here.path for row in wanting for option in options[row])
    contested = []
    for row in wanting:
        best = options[row][0]
        if claims[best.here.path] > 1:
            contested.append(row)
        elif best.score > 0:  # nobody else wants what it wants most, so the rest is settled without it
            chosen[row] = 0
    return _settled(options, chosen, contested)


def _settled(options: list[list[_Option]], chosen: list[int | None], wanting: list[int]) -> list[int | None]:
    """The same for those entries whose likeliest file others want, too."""
    columns = {
        path: number for number, path in enumerate(sorted({o.here.path for r in wanting for o in options[r]}, key=str))
    }
    if not wanting:
        return chosen
    import numpy as np
    from scipy.sparse import csr_array
    from scipy.sparse.csgraph import min_weight_full_bipartite_matching

    rows, places, costs = [], [], []
    highest = max(option.score for row in wanting for option in options[row]) + 1
    for at, row in enumerate(wanting):
        rows.append(at)
        places.append(len(columns) + at)  # none of them
        costs.append(max(highest, 1.0))
        for option in options[row]:
            rows.append(at)
            places.append(columns[option.here.path])
            costs.append(max(highest, 1.0) - option.score)
    graph = csr_array((np.array(costs), (rows, places)), shape=(len(wanting), len(columns) + len(wanting)))
    matched_rows, matched_columns = min_weight_full_bipartite_matching(graph)
    names = list(columns)
    for at, column in zip(matched_rows.tolist(), matched_columns.tolist(), strict=True):
        if column < len(names):
            row = wanting[at]
            chosen[row] = next(n for n, option in enumerate(options[row]) if option.here.path == names[column])
    return chosen


def _weighed(options: list[_Option], content_of: ContentOf) -> list[Candidate]:
    """Each option with its confidence; options of the same content count as one, so that they are no rivals."""
    if not options:
        return []
    top = max(0.0, options[0].score)
    kinds = _kinds(options, content_of)
    best: dict[str, float] = {}
    for option, kind in zip(options, kinds, strict=True):
        best[kind] = max(best.get(kind, -math.inf), option.score)
    whole = math.exp(-top) + sum(math.exp(each - top) for each in best.values())
    several = Counter(kinds)
    return [
        Candidate(option.here.path, math.exp(best[kind] - top) / whole, option.clues, several[kind] - 1)
        for option, kind in zip(options, kinds, strict=True)
    ]


def _is_rivalled(options: list[_Option], number: int) -> bool:
    """Whether another file is just as likely as this one, or likelier."""
    return any(at != number and option.score >= options[number].score for at, option in enumerate(options))


def _kinds(options: list[_Option], content_of: ContentOf) -> list[str]:
    """What each option is by its content. Only files of one size that are all likely are read."""
    top = options[0]
    rivals = [o for o in options if o.here.size_bytes == top.here.size_bytes and top.score - o.score < 5]
    if len(rivals) < 2 or len(rivals) > 8:
        return [str(number) for number in range(len(options))]
    read = {o.here.path: content_of(o.here.path, "sha512") for o in rivals}
    return [read.get(o.here.path) or str(number) for number, o in enumerate(options)]


def _longest_word(stem: str) -> str:
    word = max(stem.split(" "), key=len, default="")
    return word if len(word) >= _SHORTEST_WORD else ""
