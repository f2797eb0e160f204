"""Documents in no holding that record paths: they may be catalogs of programs without a guide."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from urllib.parse import unquote

from ..machines import Computer, Disk, DiskError, Finder
from ..paths import MachinePath, Mentions, PathError, System
from ..progress import Progress, Tell

_LEAST_BYTES, _MOST_BYTES = 24, 64 << 20
_READ_BYTES = 64 << 10
_MOST_OF_ENDING, _MOST = 100, 5_000
_MOST_TOLD, _MOST_PATHS = 100, 100
_TELL_EVERY = 500


@dataclass(frozen=True, slots=True)
class UncoveredDocument:
    """A file in no holding that names files of its computer: how many texts look so, and how many of them are there."""

    at: str
    paths: int
    found: int


@dataclass(slots=True)
class Candidates:
    """Files that may record paths, noted while a computer is walked: some of each ending, so that all have their turn.

    ``passed`` counts those that were not noted.
    """

    noted: list[tuple[MachinePath, str]] = field(default_factory=list)
    passed: int = 0
    _of_ending: Counter[str] = field(default_factory=Counter)

    def note(self, folder: MachinePath, name: str, size_bytes: int, ending: str) -> None:
        """Note a file, if it may be a document."""
        if not _LEAST_BYTES <= size_bytes <= _MOST_BYTES:
            return
        if self._of_ending[ending] >= _MOST_OF_ENDING or len(self.noted) >= _MOST:
            self.passed += 1
            return
        self._of_ending[ending] += 1
        self.noted.append((folder, name))

    def leave_out(self, top: MachinePath) -> None:
        """Forget those in a folder and below it."""
        length = len(top.parts)
        self.noted = [each for each in self.noted if each[0]._replace(parts=each[0].parts[:length]) != top]


def documents_among(candidates: Candidates, finder: Finder, disk: Disk, tell: Tell) -> tuple[UncoveredDocument, ...]:
    """Those candidates that record paths to files which exist, the most first. Only their beginnings are read."""
    mentions = Mentions(_places(finder.computer))
    found = []
    for number, (folder, name) in enumerate(candidates.noted, start=1):
        path = folder.below(name)
        real = finder.find(path).real
        try:
            content = disk.read_start(real, _READ_BYTES) if real is not None else b""
        except DiskError:
            continue
        texts = {each.text for each, _ in zip(mentions.in_bytes(content), range(_MOST_PATHS), strict=False)}
        there = sum(_is_there(text, finder) for text in texts)
        if there:
            found.append(UncoveredDocument(str(path), len(texts), there))
        if number % _TELL_EVERY == 0:
            tell(Progress("looking for documents", number, len(candidates.noted)))
    return tuple(sorted(found, key=lambda each: (-each.found, each.at))[:_MOST_TOLD])


def _places(computer: Computer) -> list[MachinePath]:
    anchors = [volume.anchor for volume in computer.volumes]
    if computer.system is not System.WINDOWS:
        anchors = [each for each in anchors if each.parts]
    return [computer.place("home"), *anchors]


def _is_there(text: str, finder: Finder) -> bool:
    """Whether a text names a file, as it is or percent-encoded, up to what may end it."""
    return any(_is_file(each, finder) for each in dict.fromkeys(_readings(text)))


def _readings(text: str) -> Iterator[str]:
    for plain in (text, unquote(text)):
        whole = plain.rstrip()
        yield whole
        yield re.split(r"[;,)\]}]", whole, maxsplit=1)[0].rstrip()


def _is_file(text: str, finder: Finder) -> bool:
    computer = finder.computer
    separator = computer.system.separator
    plain = (
        re.sub(r"[\\/]+", lambda _: separator, text) if computer.system is System.WINDOWS else re.sub("/+", "/", text)
    )
    if "\0" in plain:
        return False
    try:
        facts = finder.find(computer.parse(plain)).facts
    except PathError:
        return False
    return facts is not None and facts.is_file
