"""Where the files of a survey are now, and what they are called in the crate: by folders, since they come so."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..machines import Computer, DiskError, FileFacts, Finder
from ..paths import MachinePath, System
from .naming import PayloadNames


@dataclass(frozen=True, slots=True)
class Source:
    """A file as it is now; ``why_not`` says why it cannot be had."""

    real: str
    facts: FileFacts
    payload: str
    why_not: str = ""


@dataclass(frozen=True, slots=True)
class _Folder:
    path: MachinePath
    real: str | None  # with a separator at its end
    contents: Mapping[str, FileFacts | DiskError]
    payload: str


class Sources:
    """Finds files by their paths on the old computer; each folder is looked at once, while its files come in order."""

    def __init__(self, computer: Computer, finder: Finder, names: PayloadNames) -> None:
        self._computer = computer
        self._finder = finder
        self._names = names
        self._text = ""
        self._folder: _Folder | None = None

    def of(self, path: str, facts: FileFacts) -> Source:
        """A file by its native path; ``facts`` are those of the survey, for one that cannot be had."""
        text, name = self._parted(path)
        if self._folder is None or text != self._text:
            self._text, self._folder = text, self._look(path)
        folder = self._folder
        payload = f"{folder.payload}/{self._names.written(folder.path, name)}"
        found = folder.contents.get(name)
        if folder.real is None or found is None:
            return self._searched(path, facts)
        if isinstance(found, DiskError) or not found.is_file:
            why = str(found) if isinstance(found, DiskError) else "it no longer exists"
            return Source(folder.real + name, facts, payload, why)
        return Source(folder.real + name, found, payload)

    def _parted(self, path: str) -> tuple[str, str]:
        cut = path.rfind("\\" if self._computer.system is System.WINDOWS else "/") + 1
        return path[:cut], path[cut:]

    def _look(self, path: str) -> _Folder:
        folder = self._computer.parse(path).parent
        seen, payload = self._finder.find(folder), self._names.name_of(folder)
        try:
            real = None if seen.real is None else str(seen.real / "_")[:-1]
            return _Folder(folder, real, self._finder.contents(seen), payload)
        except DiskError:
            return _Folder(folder, None, {}, payload)

    def _searched(self, path: str, facts: FileFacts) -> Source:
        """A file whose name is not in its folder's listing: one that its volume takes for it, or why there is none."""
        parsed = self._computer.parse(path)
        seen = self._finder.find(parsed)
        payload = self._names.name_of(parsed)
        if seen.real is None or seen.facts is None or not seen.facts.is_file:
            return Source(str(seen.real or ""), facts, payload, seen.why or "it no longer exists")
        return Source(str(seen.real), seen.facts, payload)
