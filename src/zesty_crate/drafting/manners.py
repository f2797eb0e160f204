"""How texts mean paths: by which spelling, from where, in which form most of them lead to something that exists."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from enum import IntEnum
from typing import NamedTuple

from ..catalogs.forms import read_form
from ..catalogs.reading import UnreadRecord
from ..guides import PiecePart
from ..machines import Computer, Finder, Sight
from ..paths import MachinePath, PathError, Spelling, System, read_path
from .names import Names

_MOST_TRIED = 160  # texts on which a manner is tried
_LONGEST = 2_000
_FEWEST_ABSENT = 3  # paths that lead to nothing, to be taken for paths all the same
_ENOUGH = 0.5  # of all texts, to be a manner at all
_AGAIN = 1.5  # times that texts come, to be names of several files
_OF_A_BASE = 0.6  # of the names that exist somewhere, to be in one folder
_ABSOLUTE = re.compile(r"[A-Za-z]:[\\/]|file:/|\\\\[^\\?]+\\[^\\]|/[^/]")
_BETWEEN = re.compile(r"[^\w\s.()&'+,\-\[\]]{1,3}")
FRAMES = re.compile(r"%0?\d*d|#+|\[\d+-\d+\]|\*")
SEGMENTS = '|;\t?=#,":'


class Lead(IntEnum):
    """What a text leads to, in the manner that is tried."""

    NO_PATH = 0
    NOTHING = 1
    NOT_HERE = 2  # on a volume that is not here
    FOLDER = 3
    FRAMES = 4  # a sequence of files whose names differ by a number
    FILE = 5


@dataclass(frozen=True, slots=True)
class Manner:
    """A spelling; where relative paths ``start`` (``folder``, ``document``, at a ``base``); and the form of a value."""

    spelling: Spelling = Spelling.NATIVE
    start: str = "folder"
    base: MachinePath | None = None
    match: str = ""
    separator: str = ""

    @property
    def piece(self) -> dict[str, object]:
        """What a guide says of such a piece."""
        told: dict[str, object] = {"match": self.match} if self.match else {}
        return told | ({"separator": self.separator} if self.separator else {})

    def path_in(self, value: str) -> str:
        """The path in a value of this form; the value itself where it has another one."""
        if self.is_plain:
            return value
        try:
            return read_form(PiecePart.model_validate({"at": "value", **self.piece}), value)[0]
        except UnreadRecord:
            return value

    @property
    def is_plain(self) -> bool:
        """Whether a value is nothing but its path."""
        return not self.match and not self.separator


class Text(NamedTuple):
    """A text of a field, and the document that it is in."""

    text: str
    at: MachinePath


@dataclass(frozen=True, slots=True)
class Explained:
    """A manner with what it explains, of texts that differ: how many lead to files, to folders, to nothing."""

    manner: Manner
    texts: int
    files: int = 0
    folders: int = 0
    nothing: int = 0
    not_here: int = 0
    remote: int = 0
    frames: int = 0  # to sequences of files

    @property
    def found(self) -> int:
        """How many lead to something that exists."""
        return self.files + self.folders + self.frames

    @property
    def local(self) -> int:
        """How many are not plainly the address of something elsewhere."""
        return self.texts - self.remote

    @property
    def share(self) -> float:
        """The part that exists of what could."""
        return self.found / self.local if self.local else 0.0

    @property
    def to_folders(self) -> bool:
        """Whether these are folders rather than files."""
        return self.folders > self.files


def is_remote(text: str) -> bool:
    """Whether a text is the address of something elsewhere, and no file of a computer."""
    return (
        bool(re.match(r"[A-Za-z][A-Za-z0-9+.-]+:", text))
        and not re.match(r"(?i)file:|[A-Za-z]:[\\/]", text)
        and ("\\" not in text)
    )


class Judge:
    """Knows one computer, and tries manners on texts."""

    def __init__(self, computer: Computer, finder: Finder, names: Names) -> None:
        self.computer = computer
        self.finder = finder
        self.names = names

    def lead(self, text: str, manner: Manner, at: MachinePath) -> tuple[Lead, MachinePath | None]:
        """What a text of a document leads to."""
        try:
            if not manner.is_plain:
                text, _ = read_form(PiecePart.model_validate({"at": "value", **manner.piece}), text)
            base = manner.base or (at if manner.start == "document" else at.parent)
            path = read_path(text, self.computer.system, manner.spelling, base, self.computer.variables).path
        except (PathError, UnreadRecord):
            return Lead.NO_PATH, None
        seen = self.finder.follow(self.finder.find(path))
        if seen.facts is not None and seen.sight is Sight.THERE:
            return (Lead.FILE if seen.facts.is_file else Lead.FOLDER), seen.path
        if FRAMES.search(path.name) and self._has_frames(path):
            return Lead.FRAMES, path
        return (Lead.NOT_HERE if seen.sight is Sight.UNPLUGGED else Lead.NOTHING), path

    def _has_frames(self, path: MachinePath) -> bool:
        """Whether any file is named as a sequence says."""
        pieces = map(re.escape, FRAMES.split(path.name))
        pattern = re.compile(r"\d+".join(pieces), re.IGNORECASE)
        return any(pattern.fullmatch(each.path.name) for each in self.finder.inside(path.parent))

    def try_on(self, texts: Sequence[Text], manner: Manner) -> Explained:
        """What a manner explains of some texts."""
        counted: Counter[Lead] = Counter()
        remote = 0
        for each in sorted(texts):  # so that each folder is listed once
            lead, _ = self.lead(each.text, manner, each.at)
            if lead in (Lead.NO_PATH, Lead.NOTHING) and is_remote(each.text):
                remote += 1
            else:
                counted[lead] += 1
        return Explained(
            manner,
            len(texts),
            files=counted[Lead.FILE],
            folders=counted[Lead.FOLDER],
            nothing=counted[Lead.NOTHING],
            not_here=counted[Lead.NOT_HERE],
            remote=remote,
            frames=counted[Lead.FRAMES],
        )

    def explain(self, texts: Iterable[Text]) -> Explained | None:
        """The manner that explains most of some texts, the simplest of several; None if none explains enough."""
        everything = [*texts]
        some = _some(everything)
        if not some or not self._may_be_paths(some):
            return self._in_a_form(some) if some and _may_hold_paths(some) else None
        best: Explained | None = None
        for manner in self._manners(some):
            tried = self.try_on(some, manner)
            if best is None or tried.found > best.found:
                best = tried
            if tried.local and tried.found == tried.local:
                break
        if best is None or not self._is_convincing(best, some) or self._is_one_of_several(best, some, len(everything)):
            best = self._in_a_form(some)
        return best

    def _is_one_of_several(self, tried: Explained, texts: Sequence[Text], records: int) -> bool:
        """Whether bare names come again and again, and files of these names are in several folders."""
        if records < len(texts) * _AGAIN or any(re.search(r"[\\/]", each.text) for each in texts):
            return False
        several = sum(len(self.names.ending_in([each.text])) > 1 for each in texts)
        return several * 2 > len(texts) and tried.manner.spelling.is_relative

    def explain_absent(self, texts: Iterable[Text]) -> Explained | None:
        """The manner of texts that are whole paths by their form, though none of them leads to anything here."""
        some = _some(texts)
        local = [each for each in some if not is_remote(each.text)]
        if len(local) < _FEWEST_ABSENT or not all(
            _ABSOLUTE.match(each.text) and _has_ending(each.text) for each in local
        ):
            return None
        for manner in self._absolute(some):
            tried = self.try_on(some, manner)
            if tried.found + tried.nothing + tried.not_here == tried.local:
                return tried
        return None

    def _is_convincing(self, tried: Explained, texts: Sequence[Text]) -> bool:
        if not tried.found or tried.share < _ENOUGH:
            readable = tried.found + tried.nothing + tried.not_here
            is_whole = all(_ABSOLUTE.match(each.text) or is_remote(each.text) for each in texts)
            return bool(tried.found) and is_whole and readable == tried.local and tried.found >= 2
        if tried.to_folders and tried.manner.base is not None:  # names of anything may be those of some folders
            return False
        bare = [each.text for each in texts if not re.search(r"[\\/]", each.text)]
        if len(bare) * 2 < len(texts):
            return True
        if tried.to_folders:  # short names may be those of some folders by chance
            return tried.found >= 3 and tried.share > 0.8
        endings = sum(_has_ending(each) for each in bare)
        is_beside = tried.manner.base is None
        return tried.found >= (1 if is_beside and endings == len(bare) else 3) and endings * 2 >= len(bare)

    def _may_be_paths(self, texts: Sequence[Text]) -> bool:
        """Whether any of them is a path by its form, or ends in a name that something has."""
        if any(_ABSOLUTE.match(each.text) for each in texts):
            return True
        last = [re.split(r"[\\/]", each.text.rstrip("\\/"))[-1] for each in texts[:60]]
        return bool(self.names.known(each for each in last if each)) or any("%" in each for each in last)

    def _manners(self, texts: Sequence[Text]) -> Iterator[Manner]:
        """What to try, the simplest first."""
        yield from self._absolute(texts)
        relative = [each for each in texts if not _ABSOLUTE.match(each.text)]
        if not relative:
            if any(each.text.startswith("file:") for each in texts):
                yield Manner(Spelling.RELATIVE_URL)
            return
        firsts = {re.split(r"[\\/]", each.text.lstrip("\\/"))[0] for each in relative}
        if any(self.computer.variables.volume_called(each) for each in firsts):
            yield Manner(Spelling.FROM_VOLUME)
        has_url = any(re.search(r"%[0-9A-Fa-f]{2}|^file:", each.text) for each in texts)
        either = self.computer.system is not System.WINDOWS and any("\\" in each.text for each in relative)
        spelling = Spelling.RELATIVE_EITHER if either else Spelling.RELATIVE
        for each in (Spelling.RELATIVE_URL, spelling) if has_url else (spelling,):
            yield Manner(each)
            yield Manner(each, "document")
        base = self.base_of(relative)
        if base is not None:
            yield from (
                Manner(each, "base", base) for each in ((Spelling.RELATIVE_URL, spelling) if has_url else (spelling,))
            )

    def _absolute(self, texts: Sequence[Text]) -> Iterator[Manner]:
        whole = [each.text for each in texts if _ABSOLUTE.match(each.text)]
        urls = [each for each in whole if each.startswith("file:")]
        if urls:
            yield Manner(Spelling.FILE_URL)
        if len(whole) > len(urls):
            is_windows = self.computer.system is System.WINDOWS
            with_slashes = is_windows and not any("\\" in each for each in whole if not each.startswith("file:"))
            yield Manner(Spelling.SLASHES if with_slashes else Spelling.NATIVE)
        if any(re.match(r"[~%$]", each.text) for each in texts):
            yield Manner(Spelling.WITH_VARIABLES)

    def base_of(self, texts: Sequence[Text]) -> MachinePath | None:
        """The folder in which most of some relative paths are, by the files and folders that end in their names."""
        votes: Counter[MachinePath] = Counter()
        voters = 0
        for each in texts:
            names = [name for name in re.split(r"[\\/]", each.text) if name not in ("", ".")]
            if ".." in names:
                continue
            targets = self.names.ending_in(names)
            voters += bool(targets)
            votes.update({target.base for target in targets})
        if not votes:
            return None
        base, number = min(votes.most_common(5), key=lambda vote: (-vote[1], -len(vote[0].parts)))
        return base if number >= voters * _OF_A_BASE else None

    def _in_a_form(self, texts: Sequence[Text]) -> Explained | None:
        """An explanation by another separator, or of a part of the texts."""
        for manner in (*_separated(texts), *self._within(texts)):
            tried = self.try_on(texts, manner)
            if tried.found >= 2 and tried.share > _ENOUGH:
                return tried
            if manner.separator and not tried.found:
                tried = self.try_on(texts, replace(manner, spelling=Spelling.FROM_VOLUME))
                if tried.found >= 2 and tried.share > _ENOUGH:
                    return tried
        return None

    def _within(self, texts: Sequence[Text]) -> Iterator[Manner]:
        """Forms in which a path is in the midst of more."""
        patterns: Counter[str] = Counter()
        for each in texts:
            found = re.search(r"(?<![A-Za-z])[A-Za-z]:[\\/]|file:/|(?<![\w/.])/(?=[^/\s])", each.text)
            if found and found.start():
                pieces = map(re.escape, re.split(r"[\d.]*\d[\d.]*", each.text[: found.start()]))
                before = r"[\d.]+".join(pieces)
                patterns[f"^{before}(.+)$"] += 1
        if patterns:
            pattern, number = patterns.most_common(1)[0]
            if number * 10 >= len(texts) * 8:
                cut = [Text(match[1], each.at) for each in texts if (match := re.search(pattern, each.text))]
                for manner in self._absolute(cut):
                    yield replace(manner, match=pattern)
        for mark in SEGMENTS:
            yield from self._segments(texts, mark)

    def _segments(self, texts: Sequence[Text], mark: str) -> Iterator[Manner]:
        split = [each.text.split(mark) for each in texts]
        if sum(len(each) > 1 for each in split) * 2 < len(texts):
            return
        for number in range(min(8, max(map(len, split)))):
            segments = [
                Text(parts[number], each.at)
                for parts, each in zip(split, texts, strict=True)
                if len(parts) > number and parts[number]
            ]
            if len(segments) * 2 < len(texts) or not self._may_be_paths(segments):
                continue
            for manner in self._manners(_some(segments)):
                tried = self.try_on(segments, manner)
                if tried.share > _ENOUGH and self._is_convincing(tried, segments):
                    yield replace(manner, match=segment_pattern(mark, number))
                    return


def segment_pattern(mark: str, number: int) -> str:
    """An expression for the text between two marks, or before the first one."""
    escaped = re.escape(mark)
    before = f"(?:[^{escaped}]*{escaped}){{{number}}}" if number > 1 else f"[^{escaped}]*{escaped}" if number else ""
    return f"^{before}([^{escaped}]+)"


def _may_hold_paths(texts: Sequence[Text]) -> bool:
    """Whether in most of some texts there might be a path among more."""
    return sum(re.search(r"[\\/]|\.\w{1,10}(?!\w)", each.text) is not None for each in texts) * 2 > len(texts)


def _separated(texts: Sequence[Text]) -> Iterator[Manner]:
    """Manners with what is most frequent between words, where that is no slash."""
    marks: Counter[str] = Counter()
    for each in texts:
        marks.update(set(_BETWEEN.findall(each.text)))
    for mark, number in marks.most_common(4):
        if number * 10 >= len(texts) * 8 and mark not in ("/", "\\", "//", ":\\", ":/", "%"):
            yield Manner(Spelling.SLASHES, separator=mark)


def _some(texts: Iterable[Text]) -> list[Text]:
    """Some of the texts that differ, from all over."""
    different = list(
        dict.fromkeys(each for each in texts if 0 < len(each.text) <= _LONGEST and each.text.isprintable())
    )
    step = max(1, len(different) // _MOST_TRIED)
    return different[::step][:_MOST_TRIED]


def _has_ending(text: str) -> bool:
    return re.search(r"[^\\/.]\.[A-Za-z0-9]{1,10}[\"']?(?:[?#].*)?$", text) is not None
