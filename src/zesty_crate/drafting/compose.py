"""Paths put together of several texts: found backwards, from the files that exist and end in a record's name."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field

from ..paths import MachinePath, PathError, Spelling, System, join_pieces, read_path
from .manners import Explained, Judge, Manner, Text, is_remote
from .names import loosely
from .sources import Source

_DEEPEST = 4  # pieces around the name
_WIDEST = 4  # sources that are followed at each step
_MATCHED = 0.6  # of the records whose file is known, to be a piece
_IN_ONE_BASE = 0.9
_FEWEST = 2  # records in which a source matches
_MOST_TARGETS = 60
_UPWARDS = re.compile(r"\.\.[\\/]")
_SURE = 0.5
_MOST_ENDINGS = 40

Bases = list[MachinePath | None]  # the folders in which a record's names may be; None once nothing is left to explain
More = Callable[[Source], Iterable[Source]]


@dataclass(frozen=True, slots=True)
class Composition:
    """Sources of pieces, outermost first, with what they explain together."""

    sources: tuple[Source, ...]
    explained: Explained

    @property
    def rank(self) -> tuple[int, bool, int]:
        """What counts: how much is explained, whether by itself, then by how few pieces."""
        return self.explained.found, self.explained.manner.base is None, -len(self.sources)


@dataclass(slots=True)
class _Search:
    judge: Judge
    at: Sequence[MachinePath]
    sources: Sequence[Source]
    more: More
    found: list[Composition] = field(default_factory=list)

    def run(self, last: tuple[Source, ...]) -> None:
        names = _texts_of(last)
        bases = [self._targets(each) for each in names]
        known = sum(each is not None for each in bases)
        different = {each for each in names if each and not is_remote(each)}
        if known and len({n for n, b in zip(names, bases, strict=True) if b is not None}) >= max(
            2, _SURE * len(different)
        ):
            self._follow(last, bases, self.sources, 0)

    def _targets(self, text: str | None) -> Bases | None:
        if not text or len(text) > 1000:
            return None
        names = [each for each in re.split(r"[\\/]", text) if each]
        return [each.base for each in self.judge.names.ending_in(names)[:_MOST_TARGETS]] or None

    def _follow(
        self, chosen: tuple[Source, ...], bases: Sequence[Bases | None], sources: Sequence[Source], depth: int
    ) -> None:
        """Look for what explains the folders that are left."""
        left = [each for each in bases if each is not None]
        if not left:
            return
        done = sum(None in each for each in left)
        if done >= len(left) * _MATCHED:
            self._note(chosen, None)
            return
        if depth:
            self._note_in_one_base(chosen, left)
        if depth == _DEEPEST:
            return
        tried: list[tuple[int, int, Source, list[Bases | None]]] = []
        for source in sources:
            if source in chosen or _field_of(source) in map(_field_of, chosen):
                continue
            matched, new = self._match(source, bases)
            if matched and self._means_something(source):
                tried.append((matched, -len(tried), source, new))
        tried.sort(key=lambda each: each[:2], reverse=True)
        for _, _, source, new in tried[:_WIDEST]:
            self._follow((source, *chosen), new, [*sources, *self.more(source)], depth + 1)

    def _match(self, source: Source, bases: Sequence[Bases | None]) -> tuple[int, list[Bases | None]]:
        """In how many records a source ends the folders that are left, 0 for too few; and what is left then."""
        matched, tried, new = 0, 0, list[Bases | None]()
        for text, known, at in zip(source.values, bases, self.at, strict=True):
            if known is None or not text:
                new.append(known)
                continue
            tried += 1
            rest = [left for base in known if base is not None for left in self._without(base, text, at)]
            new.append(rest or None)
            matched += bool(rest)
        return (matched if matched >= max(_FEWEST, _MATCHED * tried) else 0), new

    def _without(self, base: MachinePath, text: str, at: MachinePath) -> Iterator[MachinePath | None]:
        """What is left of a folder before a text that is its end; None where the text is all of it."""
        computer = self.judge.computer
        whole = self._whole(text, at)
        if whole is not None:
            if computer.key(whole) == computer.key(base):
                yield None
            return
        volume = computer.volume_of(base)
        names = [loosely(each) for each in re.split(r"[\\/]", text) if each]
        above = len(base.parts) - len(names)
        if volume is not None and base == volume.anchor:
            if computer.variables.volume_called(text.strip("\\/")) is not None and self._is_of(text, base):
                yield None
        elif names and above >= 0 and [loosely(each) for each in base.parts[above:]] == names:
            yield base._replace(parts=base.parts[:above])

    def _is_of(self, name: str, anchor: MachinePath) -> bool:
        called = self.judge.computer.variables.volume_called(name.strip("\\/"))
        return called is not None and called.anchor == anchor

    def _whole(self, text: str, at: MachinePath | None = None) -> MachinePath | None:
        """The path that a text is by itself, from a root, the name of a volume, or upwards from its document."""
        if _UPWARDS.match(text):
            return self._upwards(text, at)
        computer = self.judge.computer
        system = computer.system
        is_rooted = (
            re.match(r"[A-Za-z]:(?:[\\/]|$)|\\\\[^\\]", text) if system is System.WINDOWS else text.startswith("/")
        )
        if is_rooted or text.startswith("file:"):
            try:
                spelling = Spelling.FILE_URL if text.startswith("file:") else Spelling.NATIVE
                return read_path(text, system, spelling).path
            except PathError:
                return None
        if re.search(r"[\\/]", text.strip("\\/")):
            try:
                return read_path(text, system, Spelling.FROM_VOLUME, None, computer.variables).path
            except PathError:
                return None
        return None

    def _upwards(self, text: str, at: MachinePath | None) -> MachinePath | None:
        if at is None:
            return None
        try:
            return read_path(text, self.judge.computer.system, Spelling.RELATIVE, at.parent).path
        except PathError:
            return None

    def _means_something(self, source: Source) -> bool:
        """Whether it is no accident that a text is in these folders: one short name that is always the same may be."""
        different = source.different
        text = next(iter(different))
        return (
            len(different) > 1
            or self._whole(text) is not None
            or not source.is_own
            or bool(re.search(r"[\\/]", text))
            or self.judge.computer.variables.volume_called(text) is not None
        )

    def _note_in_one_base(self, chosen: tuple[Source, ...], left: Sequence[Bases]) -> None:
        votes: Counter[MachinePath] = Counter()
        for each in left:
            votes.update({base for base in each if base is not None})
        if votes:
            base, number = min(votes.most_common(3), key=lambda vote: (-vote[1], -len(vote[0].parts)))
            if number >= len(left) * _IN_ONE_BASE:
                self._note(chosen, base)

    def _note(self, chosen: tuple[Source, ...], base: MachinePath | None) -> None:
        best: Explained | None = None
        for manner in self._manners(chosen, base):
            texts = [
                Text(text, at)
                for text, at in zip(joined(chosen, self.judge.computer.system, manner.spelling), self.at, strict=True)
                if text
            ]
            tried = self.judge.try_on(list(dict.fromkeys(texts)), manner)
            if best is None or tried.found > best.found:
                best = tried
        if best is not None and best.found >= 2 and best.share > _SURE:
            self.found.append(Composition(chosen, best))

    def _manners(self, chosen: tuple[Source, ...], base: MachinePath | None) -> Iterator[Manner]:
        system = self.judge.computer.system
        outermost = [each for each in chosen[0].values if each]
        whole = [each for source in chosen for each in source.values if each]
        slashes = system is System.WINDOWS and not any("\\" in each for each in whole)
        native = Spelling.SLASHES if slashes else Spelling.NATIVE
        if base is not None:
            beside = Counter(at.parent for at in self.at).most_common(1)[0][0]
            if base == beside:
                yield Manner(Spelling.RELATIVE)
            yield Manner(Spelling.RELATIVE, "base", base)
        elif any(map(_UPWARDS.match, outermost)):
            yield Manner(Spelling.RELATIVE)
        elif any(each.startswith("file:") for each in outermost):
            yield Manner(Spelling.FILE_URL)
        else:
            first = outermost[0]
            is_rooted = re.match(r"[A-Za-z]:|[\\/]", first)
            yield from (
                (Manner(native), Manner(Spelling.FROM_VOLUME))
                if is_rooted
                else (
                    Manner(Spelling.FROM_VOLUME),
                    Manner(native),
                )
            )


def _field_of(source: Source) -> tuple[object, ...]:
    return tuple(source.piece.get(each) for each in ("table", "column", "at"))  # in whatever form


def _texts_of(last: tuple[Source, ...]) -> list[str | None]:
    """The last names that one source holds, or a stem and an extension together."""
    if len(last) == 1:
        return list(last[0].values)
    stem, ending = last
    return [
        f"{one}.{other.removeprefix('.')}" if one and other else one
        for one, other in zip(stem.values, ending.values, strict=True)
    ]


def joined(chosen: Sequence[Source], system: System, spelling: Spelling) -> list[str]:
    """The whole path in each record, as the product puts pieces together; empty for none."""
    inner = chosen[:-1] if chosen[-1].piece.get("holds") == "extension" else chosen
    found = []
    for number in range(len(chosen[0].values)):
        texts = [text for each in inner if (text := each.values[number])]
        if len(inner) < len(chosen) and texts and (ending := chosen[-1].values[number]):
            texts[-1] = f"{texts[-1]}.{ending.removeprefix('.')}"
        has_name = bool(chosen[-1].values[number] if len(inner) == len(chosen) else chosen[-2].values[number])
        found.append(join_pieces(texts, system, spelling) if texts and has_name else "")
    return found


def compose(
    judge: Judge, at: Sequence[MachinePath], own: Sequence[Source], reached: Sequence[Source], more: More
) -> Composition | None:
    """The pieces that explain most paths, None where none explain enough. ``at`` are the documents of the records."""
    search = _Search(judge, at, [*own, *reached], more)
    for last in _last_pieces(own, judge):
        search.run(last)
    return max(search.found, key=lambda each: each.rank, default=None)


def _last_pieces(own: Sequence[Source], judge: Judge) -> Iterator[tuple[Source, ...]]:
    """Fields that hold the last names, or a stem and an extension."""
    stems = []
    for source in (each for each in own if not each.outside):
        texts = sorted(source.different)[:100]
        last = {re.split(r"[\\/]", each)[-1] for each in texts} - {""}
        known = judge.names.known(last, files_only=True)
        if last and len(known) * 2 >= len(last):
            yield (source,)
        elif last and "blob" not in source.piece and "match" not in source.piece:
            stems.append(source)
    endings = [each for each in own if not each.outside and _are_endings(each, judge)]
    for stem in stems:
        for ending in endings:
            if stem is not ending and "/" not in "".join(ending.different):
                yield (
                    Source({**stem.piece, "holds": "stem"}, stem.values),
                    Source({**ending.piece, "holds": "extension"}, ending.values),
                )


def _are_endings(source: Source, judge: Judge) -> bool:
    different = {each.removeprefix(".").lower() for each in source.different}
    return (
        0 < len(different) <= _MOST_ENDINGS
        and all(re.fullmatch(r"[a-z0-9]{1,10}", each) for each in different)
        and sum(each in judge.names.endings for each in different) * 2 >= len(different)
    )
