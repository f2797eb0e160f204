"""What a program's installer brings by itself: files of which the same are in the folder of the program."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator, Sequence
from itertools import islice
from typing import NamedTuple

from ..machines import Computer, Disk, Finder
from ..paths import MachinePath, System
from .tables import evenly

_FEWEST = 3
_MOST_COMPARED = 20  # files of a folder whose content is compared; names and sizes are those of all
_MOST_FILES = 50_000  # of programs, that are looked at
_SHORTEST = 4  # letters that the names of a program's folders have in common
_ROOTS = {
    System.WINDOWS: ("{programs}", "{programs} (x86)"),
    System.MACOS: ("{programs}",),
    System.LINUX: ("{programs}", "/usr/share", "/usr/local/share"),
}


class Factory(NamedTuple):
    """Patterns of files below a folder, as a guide has them, and a file that is ``like`` one of these.

    All ``files`` have one of their name and size; of so many the content was ``compared``, and is the same.
    """

    patterns: list[str]
    files: int
    compared: int
    like: MachinePath


class ProgramFiles:
    """The files in folders of programs that are named like some folder."""

    def __init__(self, computer: Computer, finder: Finder, disk: Disk, like: MachinePath) -> None:
        self._finder = finder
        self._disk = disk
        self._by_name: defaultdict[str, list[MachinePath]] = defaultdict(list)
        files = (file for folder in _program_folders(computer, finder, like) for file in _files_in(folder, finder))
        for path in islice(files, _MOST_FILES):
            self._by_name[path.name].append(path)

    def factory_in(self, folder: MachinePath, inside: Sequence[MachinePath]) -> Factory | None:
        """The folders right in a folder, or all of it, of whose files all have their like."""
        groups: defaultdict[str, list[MachinePath]] = defaultdict(list)
        depth = len(folder.parts)
        for path in inside if self._by_name else ():
            groups[path.parts[depth] if len(path.parts) > depth + 1 else ""].append(path)
        found: dict[str, MachinePath] = {}
        compared = 0
        for name, paths in groups.items():
            looked_into = set(evenly(len(paths), _MOST_COMPARED))
            likes = (self._like(path, is_compared=number in looked_into) for number, path in enumerate(paths))
            if len(paths) >= _FEWEST and (like := next(likes)) is not None and all(likes):
                found[name] = like
                compared += len(looked_into)
        if len(found) < len(groups):
            found.pop("", None)  # which no pattern can tell from what is in the other folders
        patterns = ["**"] if len(found) == len(groups) else [f"/{name}/**" for name in found]
        if not found:
            return None
        return Factory(patterns, sum(len(groups[name]) for name in found), compared, next(iter(found.values())))

    def _like(self, path: MachinePath, *, is_compared: bool) -> MachinePath | None:
        """A file of a program with the name and the size of another one, and with its content if that is compared."""
        seen = self._finder.find(path)
        for other in self._by_name.get(path.name, ()):
            like = self._finder.find(other)
            if seen.facts is None or like.facts is None or seen.real is None or like.real is None:
                continue
            if seen.facts.size_bytes == like.facts.size_bytes and (
                not is_compared or self._disk.digest(seen.real).sha512 == self._disk.digest(like.real).sha512
            ):
                return other
        return None


def _program_folders(computer: Computer, finder: Finder, like: MachinePath) -> Iterator[MachinePath]:
    wanted = _letters(like.name) if like.parts else ""
    for root in _ROOTS[computer.system] if len(wanted) >= _SHORTEST else ():
        for each in finder.inside(computer.expand(root)):
            name = _letters(each.path.name)
            is_named_so = len(name) >= _SHORTEST and (wanted in name or name in wanted)
            if is_named_so and each.facts is not None and each.facts.kind == "folder":
                yield each.path


def _files_in(folder: MachinePath, finder: Finder) -> Iterator[MachinePath]:
    return (each.path for each in finder.walk(folder) if each.facts is not None and each.facts.is_file)


def _letters(name: str) -> str:
    return re.sub(r"[^a-z]", "", name.lower())
