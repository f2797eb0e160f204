"""Judge one entry on one computer: is its file where it says?"""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from ..catalogs import Entry, Known, Numbered
from ..guides import Holding, SiblingPart
from ..machines import Computer, Finder, Seen, Sight
from ..paths import MachinePath, PathError, read_path
from .listing import ODD, name_pattern
from .states import State

_SHOWN_NAMES = 3
_NO_FILE = "no file is there"


@dataclass(frozen=True, slots=True)
class Judgement:
    """What was found for an entry.

    ``seen`` is None when it names no path of this computer; ``files`` are all the files that it represents, where it
    represents several.
    """

    state: State
    why: str = ""
    path: MachinePath | None = None
    seen: Seen | None = None
    files: tuple[Seen, ...] = ()


class Judge:
    """Judges entries on one computer; ``gone`` is the state of an entry whose file is not there."""

    def __init__(
        self,
        computer: Computer,
        finder: Finder,
        holdings: Sequence[Holding],
        gone: State,
        followed: Collection[MachinePath] = (),
    ) -> None:
        """``followed`` are the folders outside all holdings to which links in one of them lead."""
        self._computer = computer
        self._finder = finder
        places = [h.at for h in holdings if h.at is not None and not h.has_several]
        self._owned = [computer.key(finder.folder(place).path) for place in places]
        self._owned += [computer.key(top) for top in followed]
        several = [h.at for h in holdings if h.at is not None and h.has_several]
        self._named = [
            (computer.key(finder.folder(at.parent).path) + "/", name_pattern(at.name, computer.rules_for(at).folding))
            for at in several
        ]
        self._with_folders = {h.guide.id for h in holdings if h.at is not None and not h.part.entries}
        self.gone = gone

    def judge(self, entry: Entry) -> Judgement:
        """The state of ``entry``, and why it is not simply found."""
        if entry.remote:
            return Judgement(State.REMOTE)
        try:
            path = self.locate(entry)
        except PathError as error:
            return Judgement(self.gone, error.message)
        return self.judge_at(path, entry.size_bytes, entry.known)

    def locate(self, entry: Entry) -> MachinePath:
        """The path that an entry names. Raises `PathError` when it names none."""
        computer = self._computer
        return read_path(entry.recorded, computer.system, entry.spelling, entry.base, computer.variables).path

    def judge_at(self, path: MachinePath, size_bytes: int | None, known: Known) -> Judgement:
        """The state of an entry whose path is known."""
        if known.numbered:
            return self._judge_numbered(path, known.numbered)
        seen = self._finder.follow(self._finder.find(path))
        if fault := self._fault(seen):
            return Judgement(*fault, path, seen)
        if seen.facts and seen.facts.kind == "other":
            return Judgement(State.UNCLEAR, ODD, path, seen)
        if seen.facts and seen.facts.kind == ("file" if known.folder else "folder"):
            expected = ("a folder", "a file") if known.folder else ("a file", "a folder")
            return Judgement(State.CHANGED, "expected {}, found {}".format(*expected), path, seen)
        if seen.facts and size_bytes is not None and not known.folder and seen.facts.size_bytes != size_bytes:
            why = f"it has {seen.facts.size_bytes} bytes; the catalog records {size_bytes}"
            return Judgement(State.CHANGED, why, path, seen)
        inside = list(self._finder.walk(path)) if known.folder else []
        fault = self._fault_among(inside)
        return Judgement(*(fault or self._place_of(seen)), path, seen, tuple(each for each in inside if _is_file(each)))

    def beforehand(self, folder: MachinePath) -> Callable[[str], Judgement | None]:
        """What tells of a name in a folder what it comes to, where that is sure without looking for it."""
        gone = Judgement(self.gone, _NO_FILE)
        seen = self._finder.folder(folder)
        if seen.sight is Sight.UNPLUGGED and not self._computer.mounts_in(folder):
            unplugged = Judgement(State.UNPLUGGED, self._not_connected(seen))
            return lambda _: unplugged
        lacks = self._finder.lacks(folder)
        return lambda name: gone if lacks(name) else None

    def says_outside(self, holding: str) -> bool:
        """Whether the guide of a holding says what is inside: only then can anything be outside."""
        return holding.partition("/")[0] in self._with_folders

    def owns(self, path: MachinePath) -> bool:
        """Whether ``path`` is in a holding."""
        key = self._computer.key(path)
        if any(key == owned or key.startswith(owned + "/") for owned in self._owned):
            return True
        # Of a folder in which names with wildcards are looked for, only what has such a name is the program's own.
        return any(
            key.startswith(folder) and pattern.match(key[len(folder) :].partition("/")[0])
            for folder, pattern in self._named
        )

    def _judge_numbered(self, path: MachinePath, numbered: Numbered) -> Judgement:
        """A sequence is found when each of its files is; one of no fixed numbers when there is any."""
        folder = self._finder.folder(path if numbered.in_folder else path.parent)
        if fault := self._fault(folder):
            return Judgement(*fault, path, folder)
        inside = list(self._finder.inside(folder.path))
        if fault := self._fault_among(inside):
            return Judgement(*fault, path, folder)
        there = {each.path.name: each for each in inside if _is_file(each)}
        if numbered.numbers is None:
            found = tuple(each for name, each in there.items() if numbered.has(name))
            lacking = [] if found else [numbered.name_of(1)]
            total = max(1, len(found))
        else:
            wanted = [numbered.name_of(number) for number in numbered.numbers]
            found = tuple(there[name] for name in wanted if name in there)
            lacking, total = [name for name in wanted if name not in there], len(wanted)
        if lacking:
            why = f"{len(lacking)} of {total} files are missing: {_few(lacking)}"
            return Judgement(self.gone, why, path, folder, found)
        return Judgement(*self._place_of(folder), path, folder, found)

    def _fault(self, seen: Seen) -> tuple[State, str] | None:
        if seen.sight is Sight.UNPLUGGED:
            return State.UNPLUGGED, self._not_connected(seen)
        if seen.sight is Sight.ASTRAY:
            return self.gone, seen.why
        if seen.sight is Sight.ABSENT or (seen.facts is None and seen.sight is Sight.THERE):
            return self.gone, _NO_FILE
        if seen.sight is Sight.DENIED:
            return State.UNCLEAR, f"it cannot be accessed: {seen.why}"
        if seen.sight is Sight.TWINS:
            return State.UNCLEAR, f"several names could be meant: {seen.why}"
        return None

    def _fault_among(self, several: Iterable[Seen]) -> tuple[State, str] | None:
        """Why an entry of several files is unclear: there may be more than could be looked at."""
        denied = next((each for each in several if each.sight is Sight.DENIED), None)
        return None if denied is None else self._fault(denied)

    def _not_connected(self, seen: Seen) -> str:
        return f"the volume {self._computer.anchor_of(seen.path)} is not connected"

    def _place_of(self, seen: Seen) -> tuple[State, str]:
        if self.owns(seen.path):
            return State.FOUND, ""
        return State.OUTSIDE, "it is outside all of the program's folders"


def beside_pattern(name: str, patterns: Sequence[SiblingPart]) -> re.Pattern[str]:
    """What the names of files are like that belong beside one of this ``name``."""
    wanted = [each.replace(r"\*", ".*") for each in _names_beside(name, patterns)]
    return re.compile("|".join(wanted) or "(?!)")


def _names_beside(name: str, patterns: Sequence[SiblingPart]) -> Iterator[str]:
    """The same, as expressions in which wildcards are still escaped."""
    told = {"name": name, "stem": name.rpartition(".")[0] or name}
    for each in patterns:
        if match := re.fullmatch(each.of, name):
            groups = {str(number): text or "" for number, text in enumerate(match.groups(), start=1)}
            yield _filled(each.name, told | groups)


def _filled(pattern: str, values: Mapping[str, str]) -> str:
    text = re.escape(pattern)
    for key, value in values.items():
        text = text.replace(rf"\{{{key}\}}", re.escape(value))
    return text


def beside(seen: Seen, patterns: Sequence[SiblingPart], finder: Finder) -> Iterator[Seen]:
    """The files beside one that belong to it, by patterns with ``{name}`` and ``{stem}``."""
    name, allowed = seen.path.name, beside_pattern(seen.path.name, patterns)
    for each in finder.inside(seen.path.parent) if patterns else ():
        if _is_file(each) and each.path.name != name and allowed.fullmatch(each.path.name):
            yield each


def _is_file(seen: Seen) -> bool:
    return seen.facts is not None and seen.facts.is_file


def _few(names: list[str]) -> str:
    shown = ", ".join(names[:_SHOWN_NAMES])
    return f"{shown} and {len(names) - _SHOWN_NAMES} more" if len(names) > _SHOWN_NAMES else shown
