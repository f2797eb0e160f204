"""The entries of a table by their folders, which are rows of a tree."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from typing import Any, Self

import apsw

from .model import Entry, InBranch
from .reading import Reading, UnreadRecord, is_one_name
from .sqlite_branches import first_rows, rows_apart, unlike_rows
from .sqlite_plan import Plan
from .sqlite_trees import Tree

Row = tuple[Any, ...]


class SqliteFolders:
    """What `Folders` asks for, of one table of entries that are a name in a folder of a tree."""

    def __init__(
        self,
        connection: apsw.Connection,
        plan: Plan,
        tree: Tree,
        rows: Callable[[], tuple[Iterator[Row], Reading]],
        entry: Callable[[Row, Reading | None], Entry | None],
    ) -> None:
        """``rows`` begins a reading of all; ``entry`` makes the entry of a row, which without a reading may raise."""
        self._connection = connection
        self._plan = plan
        self._tree = tree
        self._rows = rows
        self._entry = entry

    def entries(self) -> Iterator[Entry | InBranch]:
        """Every entry; in fewer words where it is no more than a name in a folder."""
        return self._in_folders(*self._rows())

    def _in_folders(self, rows: Iterable[Row], reading: Reading) -> Iterator[Entry | InBranch]:
        prefix, tree = self._plan.prefix, self._tree
        for row in rows:
            if not row[1] and is_one_name(row[6]) and tree.has(row[4]):
                reading.entries += 1
                yield f"{prefix}{row[0]}", row[4], row[6], row
            elif (entry := self._entry(row, reading)) is not None:
                yield entry

    def whole(self, row: InBranch) -> Entry:
        """The whole entry."""
        entry = self._entry(row[3], None)
        if entry is None:
            raise TypeError(row)  # these come from no other
        return entry

    def named(self, folder: object, name: str) -> Entry | None:
        """The entry that a name in a folder would be; None where the folder cannot be read."""
        values = (None, None, None, None, folder, 0, name, *(None for _ in self._plan.part.annotations))
        try:
            return self._entry(values, None)
        except UnreadRecord:
            return None

    def inside(self, folder: object | None) -> Sequence[object]:
        """The folders right inside one; with None those that are in no other."""
        return self._tree.inside(folder)

    def branch(self, folder: object) -> list[object]:
        """A folder and those in it, at any depth, so far as each but the first is no more than one name."""
        return self._tree.branch_of_names(folder)

    def is_branch_of(self, other: Self, branch: Iterable[object]) -> bool:
        """Whether a branch is the same in another catalog, but for what its first folder is called."""
        _, *rest = branch
        return all(self._tree.name_in(each) == other._tree.name_in(each) for each in rest)

    def firsts(self) -> Iterator[InBranch]:
        """The first entry of each folder, where it is no more than a name in it."""
        try:
            rows = first_rows(self._connection, self._plan)
        except (apsw.Error, UnicodeDecodeError):
            return  # which is told when all are read
        for each in self._in_folders(rows, Reading()):
            if not isinstance(each, Entry):
                yield each

    def but_for(self, folders: Mapping[object, int]) -> tuple[Counter[int], list[InBranch | Entry]] | None:
        """How many entries are no more than a name in one of some folders that can be read, and all others."""
        try:
            found = rows_apart(self._connection, self._plan, folders) if folders else None
        except (apsw.Error, UnicodeDecodeError):
            return None
        return None if found is None else (found[0], list(self._in_folders(found[1], Reading())))

    def unlike(
        self, other: Self, folders: Collection[object]
    ) -> list[tuple[InBranch | Entry, InBranch | Entry]] | None:
        """The entries that are not the same name in the same one of some folders, with what they are in the other."""
        try:
            found = unlike_rows((self._connection, self._plan), (other._connection, other._plan), folders)
        except (apsw.Error, UnicodeDecodeError):
            return None
        pairs = []
        for row, row_after in found or ():
            one = next(self._in_folders([row], Reading()), None) if row else None
            after = next(other._in_folders([row_after], Reading()), None) if row_after else None
            if one is None or after is None:
                return None
            pairs.append((one, after))
        return None if found is None else pairs
