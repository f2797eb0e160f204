"""All names on a computer, in a database of their own: which files and folders end in certain names."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path
from typing import Any, NamedTuple

import apsw

from ..machines import Computer, Contents, DiskError, Finder, said_of
from ..machines.system_folders import is_system_file
from ..machines.texts import restored, stored
from ..paths import Folding, MachinePath, name_key
from ..progress import Progress, Tell, silent
from ..survey.borders import borders_of
from ..survey.listing import Sought

_MOST_OF_ONE_NAME = 300  # a name that more files have says nothing about any of them
_REMEMBERED_FOLDERS = 50_000
_TELL_EVERY = 20_000
_LONGEST_ENDING = 10


class Target(NamedTuple):
    """A file or folder that ends in certain names, and the folder in which these names are."""

    path: MachinePath
    base: MachinePath
    is_file: bool


def loosely(name: str) -> str:
    """The form in which names are compared here: whatever any volume takes for one name is one."""
    return name_key(name, Folding.CANONICAL_CASELESS)


class Names:
    """Every name on a computer but those in the folders that its system owns."""

    def __init__(self, computer: Computer, finder: Finder, database: Path) -> None:
        self._computer = computer
        self._finder = finder
        self._database = apsw.Connection(str(database))
        self._database.pragma("journal_mode", "off")
        self._database.pragma("synchronous", "off")
        self._database.execute(
            "CREATE TABLE folder (id INTEGER PRIMARY KEY, parent INTEGER, name TEXT);"
            "CREATE TABLE name (key TEXT, name TEXT, folder INTEGER, is_file INTEGER)"
        )
        self._anchors: dict[int, MachinePath] = {}
        self._folders: dict[int, MachinePath] = {}
        self.denied: list[tuple[MachinePath, str]] = []  # folders that could not be looked into, with the reasons
        self.files = 0
        self.endings: Counter[str] = Counter()

    def close(self) -> None:
        """Let go of the database."""
        self._database.close()

    def gather(self, mounts: Iterable[Path], tell: Tell = silent) -> None:
        """Go through all volumes that are here."""
        borders = borders_of(self._computer, self._finder, Sought(), list(mounts))
        with self._database:
            for volume in self._computer.volumes:
                if volume.mount is None:
                    continue
                number = self._new_folder(0, "")
                self._anchors[number] = volume.anchor
                anchors = {str(self._finder.folder(volume.anchor).real): (number, volume.anchor)}
                for contents in self._finder.contents_below(self._finder.folder(volume.anchor), borders.folders):
                    if isinstance(contents, DiskError):
                        _, folder = anchors.pop(contents.path, (0, volume.anchor))
                        self.denied.append((folder, said_of(contents, folder)))
                    else:
                        self._add(contents, anchors, borders.folders, tell)
            self._database.execute("CREATE INDEX by_key ON name (key); CREATE INDEX by_parent ON folder (parent)")
            self._database.execute("CREATE INDEX by_folder ON name (folder)")

    def _add(
        self,
        contents: Contents,
        folders: dict[str, tuple[int, MachinePath]],
        borders: frozenset[str],
        tell: Tell,
    ) -> None:
        number, path = folders.pop(contents.folder)
        rows = []
        for name, kind in zip(contents.names, contents.kinds(), strict=True):
            is_file = kind == "file"
            if is_file and is_system_file(name):
                continue
            rows.append((stored(loosely(name)), stored(name), number, is_file))
            if kind == "folder":
                real = str(Path(contents.folder, name))
                if real not in borders:
                    below = path.below(name)
                    folders[real] = (self._new_folder(number, name), below)
            elif is_file:
                self.endings[ending_of(name)] += 1
        self._database.executemany("INSERT INTO name VALUES (?, ?, ?, ?)", rows)
        before, self.files = self.files, self.files + len(rows)
        if before // _TELL_EVERY != self.files // _TELL_EVERY:
            tell(Progress("listing names", self.files))

    def _new_folder(self, parent: int, name: str) -> int:
        self._database.execute("INSERT INTO folder (parent, name) VALUES (?, ?)", (parent, stored(name)))
        return self._database.last_insert_rowid()

    def ending_in(self, names: Sequence[str]) -> list[Target]:
        """The files and folders whose last names are these; none where too many have the last one."""
        if not names:
            return []
        wanted = [loosely(each) for each in names]
        query = f"SELECT name, folder, is_file FROM name WHERE key = ? LIMIT {_MOST_OF_ONE_NAME + 1}"
        rows = list(self._rows(query, stored(wanted[-1])))
        if len(rows) > _MOST_OF_ONE_NAME and len(names) == 1:
            return []
        found = []
        for name, number, is_file in rows:
            folder = self._folder(number)
            above = len(folder.parts) - len(wanted) + 1
            if above >= 0 and [loosely(each) for each in folder.parts[above:]] == wanted[:-1]:
                base = folder._replace(parts=folder.parts[:above])
                found.append(Target(folder.below(restored(name)), base, bool(is_file)))
        return found

    def known(self, names: Iterable[str], *, files_only: bool = False) -> set[str]:
        """Those of some names that a file (or a folder) has as its own."""
        condition = " AND is_file" if files_only else ""
        query = f"SELECT 1 FROM name WHERE key = ?{condition} LIMIT 1"
        return {each for each in set(names) if self._database.execute(query, (stored(loosely(each)),)).get}

    def below(self, folder: MachinePath) -> Iterator[tuple[MachinePath, bool]]:
        """What is in a folder and all below it, with whether each is a file."""
        pending = list(self._numbers_of(folder))
        while pending:
            number = pending.pop()
            path = self._folder(number)
            for name, is_file in self._rows("SELECT name, is_file FROM name WHERE folder = ?", number):
                yield path.below(restored(name)), bool(is_file)
            pending += [each for (each,) in self._rows("SELECT id FROM folder WHERE parent = ?", number)]

    def _numbers_of(self, folder: MachinePath) -> Iterator[int]:
        """The number of a folder, and of the volumes that are mounted below it."""
        for number, anchor in self._anchors.items():
            depth = len(anchor.parts)
            if anchor.root == folder.root and anchor.parts[: len(folder.parts)] == folder.parts:
                yield number
            elif anchor.root == folder.root and folder.parts[:depth] == anchor.parts:
                found: int | None = number
                for name in folder.parts[depth:]:
                    query = "SELECT id FROM folder WHERE parent = ? AND name = ?"
                    found = next((each for (each,) in self._rows(query, found, stored(name))), None)
                if found is not None:
                    yield found

    def _folder(self, number: int) -> MachinePath:
        if number in self._anchors:
            return self._anchors[number]
        known = self._folders.get(number)
        if known is None:
            if len(self._folders) >= _REMEMBERED_FOLDERS:
                self._folders.clear()
            ((parent, name),) = self._rows("SELECT parent, name FROM folder WHERE id = ?", number)
            known = self._folders[number] = self._folder(parent).below(restored(name))
        return known

    def _rows(self, query: str, *bindings: Any) -> Iterator[tuple[Any, ...]]:
        return self._database.execute(query, bindings)


def ending_of(name: str) -> str:
    """The ending of a name, in small letters and without its dot; empty where it has none."""
    stem, _, ending = name.rpartition(".")
    return ending.lower() if stem and 0 < len(ending) <= _LONGEST_ENDING else ""
