"""Decide on paths whose folders are rows of a tree: each row gets the name and the place of the folder that it becomes.

Each folder says once where it goes, so a million files in a tree of folders cost little more than in a column. Where a
folder goes to another depth, its row gets another one around it, and folders that are not there get rows, if the guide
allows new ones. Rows of entries that do not move stay as they are.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Container, Iterable, Iterator, Sequence
from dataclasses import dataclass, field

from ..catalogs import (
    Addition,
    Catalog,
    Cell,
    Change,
    ChangeList,
    Entry,
    GrowingCatalog,
    InBranch,
    Pointer,
    StoredPiece,
    is_one_name,
)
from ..guides import EntriesPart
from ..paths import MachinePath, PathError, SpelledPiece, System, Variables, read_inner, read_path, respell, write_piece
from .branches import Branches
from .targets import ALL_NAMES, Destinations
from .voting import Content

_SAME_ANYWHERE = re.compile(r"\w[\w ()-]*", re.ASCII)  # a name that is written alike in every spelling but URLs
_MOST_OTHERS = 50_000  # that are held
Counts = dict[MachinePath, int]


def _count(counts: Counts, path: MachinePath) -> None:
    counts[path] = counts.get(path, 0) + 1


class UnsuitedTree(Exception):  # noqa: N818  another way of deciding is taken
    """The tree must be decided on piece by piece."""


@dataclass(slots=True, eq=False)
class _Row:
    """A row of the tree, or one that is to be added: the folder that it is, and the one that it becomes."""

    number: int
    old: MachinePath
    piece: SpelledPiece
    text: str
    cell: Cell
    around: _Row | None
    new: MachinePath | None = None
    stays: bool = False
    is_new: bool = False
    names: Container[str] = ()  # that go along with it
    goes_to: MachinePath | None = None
    is_along: bool = False  # files in it go where it goes
    takes_all: bool = False  # and so does everything in it, at any depth
    wants: Counts = field(default_factory=dict)  # where other files in it go, their folders
    hints: Counts = field(default_factory=dict)  # and where folders in it do, other than they would by themselves

    def candidates(self) -> Iterator[MachinePath]:
        """What it may become, the likeliest first."""
        if self.is_along and self.goes_to is not None:
            yield self.goes_to
        yield from sorted(self.wants, key=self.wants.__getitem__, reverse=True)
        if self.goes_to is not None:
            yield self.goes_to
        yield from sorted(self.hints, key=self.hints.__getitem__, reverse=True)


class TreeDecider:
    """Decides for one catalog, whose paths are a branch of a tree and a name."""

    def __init__(
        self,
        part: EntriesPart,
        entries: Branches,
        computers: tuple[tuple[System, Variables], tuple[System, Variables]],
        destinations: Destinations,
        is_settled: Callable[[Entry], bool] | None,
        *,
        may_add: bool,
    ) -> None:
        """As `PathDecider` has it; with ``may_add`` folders may get rows. Raises `UnsuitedTree`."""
        tree = part.path[0]
        self._table, self._parent, self._via = tree.table or "", tree.parent or "", tree.via_column
        self._may_add = may_add
        self._spelling = part.spelling
        self._entries = entries
        self._target_of, self._left = destinations.of, destinations.left
        (self._old, self._old_variables), (self._new, self._new_variables) = computers
        self._going_along, self._translate = destinations.going_along, destinations.goes_to
        self._goes_whole, self._is_parted = destinations.goes_whole, destinations.is_parted
        self._is_settled = is_settled
        if not self._is_decided_by_branches():
            self._begin()
            self._decide()

    # -- deciding ---------------------------------------------------------------------------------------------------

    def _begin(self) -> None:
        self._rows: dict[int, _Row] = {}
        self._by_path: dict[MachinePath, _Row] = {}
        self._added: list[_Row] = []
        self._told: dict[object, Container[str]] = {}  # the names that go along with a folder, by its key
        self._branches: list[Sequence[object]] = []  # folders, by their keys, that go along with the first of them
        self._plain, self._others = 0, list[Entry]()  # entries of which their folders say all, and the first others
        self._pointers: list[tuple[Cell, int, _Row]] = []
        self.moved = 0
        self.rows_added = 0
        self.without_route: list[tuple[Entry, str]] = []
        self.inexpressible: list[Entry] = []
        self.made_wrong: list[Entry] = []
        self.stale: list[Entry] = []

    def _is_decided_by_branches(self) -> bool:
        """Decide, with branches of the tree that go along as one; False where not all rows can stay in these."""
        if self._is_settled is not None or self._spelling.is_url:
            return False
        self._begin()
        branches = [self._entries.branch(each) for each in self._whole_inside(None)]
        self._begin()
        try:
            self._decide(branches)
        except UnsuitedTree:
            return False
        return not branches or (self._all_in_place() and not self._added)

    def _whole_inside(self, folder: object | None) -> Iterator[object]:
        """The outermost folders inside one, or of all, that go along with everything in them."""
        for inner in self._entries.inside(folder):
            try:
                row = self._row_at(inner)
            except UnsuitedTree:
                continue
            if row is not None and self._goes_whole(row.old):
                yield inner
            elif row is not None and self._is_parted(row.old):
                yield from self._whole_inside(inner)

    def _row_at(self, folder: object) -> _Row | None:
        example = self._entries.named(folder, "x")
        return None if example is None else self._row_of(example)

    def _decide(self, branches: Sequence[Sequence[object]] = ()) -> None:
        numbers = {folder: number for number, branch in enumerate(branches, start=1) for folder in branch}
        found = self._entries.but_for(numbers)
        if found is None:
            for first in self._entries.firsts():
                if first[1] not in numbers:
                    self._let_speak(first)
            found = self._entries.but_for(numbers | dict.fromkeys(self._told, len(branches) + 1))
        if found is None and branches:
            raise UnsuitedTree
        plain, rest = (0, self._entries) if found is None else (found[0].total(), found[1])
        for number, branch in enumerate(branches, start=1):
            if found is not None and found[0][number]:
                self._take_along(branch)
        self._plain = plain
        for each in rest:
            if self._is_told(each):
                self._plain += 1
            else:
                self._hear(each)
        self._place_all()

    def _take_along(self, branch: Sequence[object]) -> None:
        """Have all in a branch go where the first of its folders goes."""
        row = self._row_at(branch[0])
        if row is None:
            raise UnsuitedTree
        row.is_along = row.takes_all = True
        self._branches.append(branch)
        self._told |= dict.fromkeys(branch, ALL_NAMES)

    def _place_all(self) -> None:
        rows = sorted(self._rows.values(), key=lambda row: len(row.old.parts), reverse=True)  # the inner ones first
        for row in rows:
            if row.stays and row.around is not None:
                row.around.stays = True
        self._has_libraries = any(row.around is None and row.old != self._anchor(row.old, self._old) for row in rows)
        for row in rows:
            self._choose(row)
        for row in reversed(rows):
            if row.new is not None:
                self._by_path.setdefault(row.new, row)
        for row in reversed(rows):
            self._place(row)

    def _let_speak(self, each: InBranch) -> None:
        """Have one entry speak for its folder, if every name in that goes along with it."""
        entry = self._entries.whole(each)
        row = self._row_of(entry)
        is_settled = self._is_settled is not None and self._is_settled(entry)
        if row is not None and row.names is ALL_NAMES and row.goes_to is not None and not is_settled:
            row.is_along = True
            self._told[each[1]] = ALL_NAMES

    def _hear(self, each: Entry | InBranch) -> None:
        """Count one entry; from then on, it may speak for all in its folder that go along with that."""
        entry = self._entries.whole(each)
        row = self._count(entry)
        if row is None:
            if len(self._others) <= _MOST_OTHERS:
                self._others.append(entry)
            return
        self._plain += 1
        if not isinstance(each, Entry):
            self._told[each[1]] = row.names

    def _is_told(self, each: Entry | InBranch) -> bool:
        """Whether an entry is one name that goes along with its folder, as one before it did."""
        return not isinstance(each, Entry) and self.says_all_of(each[1], each[2])

    def branches(self) -> Sequence[Sequence[object]]:
        """The branches, by the keys of their folders, that go along with the first of them, and stay as they are."""
        return self._branches if self._all_in_place() else ()

    def whole_folders(self) -> Collection[object]:
        """The folders, by their keys, of which what was decided says all of every name right in them."""
        if not self._all_in_place():
            return ()
        return {folder for folder, names in self._told.items() if names is ALL_NAMES}

    def says_all_of(self, folder: object, name: str) -> bool:
        """Whether what was decided for a folder says all of a file of this name that is right in it."""
        names = self._told.get(folder)
        return names is not None and (names is ALL_NAMES or name in names)

    def _choose(self, row: _Row) -> None:
        """Have a row become one of the folders that its files go to; or, if it has none, where folders in it go."""
        if row.stays:
            return
        row.new = next((each for each in row.candidates() if self._may_be(row, each)), None)
        if row.new is not None and row.around is not None and row.around.goes_to != row.new.parent:
            _count(row.around.hints, row.new.parent)

    def _count(self, entry: Entry) -> _Row | None:
        """Have an entry say where its folder goes; the row of that if it says all of the entry."""
        if entry.remote or not any(entry.pieces):
            return None
        row, last = self._row_of(entry), entry.pieces[-1]
        if row is None or last is None:
            raise UnsuitedTree
        if self._is_settled is not None and self._is_settled(entry):
            row.stays = True
        elif self._goes_along(row, last.text):
            row.is_along = True
            return row
        else:
            target = self._target_of(entry)
            if target.old is not None and target.new is None:
                row.stays = True
            elif target.new is not None and target.old is not None:
                if target.old.parent != row.old or not target.new.parts:
                    raise UnsuitedTree
                _count(row.wants, target.new.parent)
        return None

    def _goes_along(self, row: _Row, name: str) -> bool:
        """Whether a file of this name is sure to go where its folder goes, as it is."""
        if row.goes_to is None or not is_one_name(name):
            return False
        return row.names is ALL_NAMES or name in row.names

    def _row_of(self, entry: Entry) -> _Row | None:
        """The row of an entry's folder, with those around it. Raises `UnsuitedTree` for one of several names."""
        chain = entry.pieces[:-1]
        if not chain or chain[-1] is None:
            return None
        known = self._rows.get(int(chain[-1].cell.row))
        if known is not None:
            return known
        around: _Row | None = None
        for each in chain:
            if each is None or each.cell.table != self._table:
                raise UnsuitedTree
            number = int(each.cell.row)
            if number not in self._rows:
                self._rows[number] = self._new_row(number, each, around)
            around = self._rows[number]
        return around

    def _new_row(self, number: int, piece: StoredPiece, around: _Row | None) -> _Row:
        try:
            if around is None:
                spelled = read_path(piece.text, self._old, self._spelling, None, self._old_variables)
                old = spelled.path
            else:
                spelled = read_inner(piece.text, self._old, self._spelling)
                old = around.old.below(*spelled.parts)
        except PathError:
            raise UnsuitedTree from None
        if around is not None and len(spelled.parts) != 1:
            raise UnsuitedTree
        row = _Row(number, old, spelled, piece.text, piece.cell, around)
        row.goes_to = self._translate(old)
        row.names = self._going_along(old) if row.goes_to is not None else ()
        row.is_along = row.takes_all = around is not None and around.takes_all and is_one_name(piece.text)
        return row

    def _anchor(self, path: MachinePath, system: System) -> MachinePath:
        """Where the tree of a path begins: its root, or that of its volume where paths begin with the name of one."""
        variables = self._old_variables if system is self._old and path.system is self._old else self._new_variables
        volume = variables.volume_of(path.root, path.parts) if self._spelling.begins_with_volume else None
        return path._replace(parts=() if volume is None else volume.anchor.parts)

    def _may_be(self, row: _Row, path: MachinePath) -> bool:
        """Whether a row can be a folder: one without another around it begins a path, and no other one does.

        Where the tree has no libraries and may get rows, its paths begin with drives as they did.
        """
        is_anchor = path == self._anchor(path, self._new)
        if row.around is not None:
            return not is_anchor
        return is_anchor or not self._may_add or row.old != self._anchor(row.old, self._old)

    def _place(self, row: _Row) -> None:
        """Have a row within the one that is around it, and rows for what else its entries want."""
        if row.new is not None and row.around is not None:
            around = self._ensured(row.new.parent)
            if around is not row.around:
                self._require_more_rows()
                self._pointers.append((row.cell._replace(column=self._parent), row.around.number, around))
        elif row.new is not None and self._root_text(row, row.new) is None:
            raise UnsuitedTree
        for path in (*((row.goes_to,) if row.is_along and row.goes_to is not None else ()), *row.wants):
            self._ensured(path)

    def _ensured(self, path: MachinePath) -> _Row:
        """The row of a folder on the new computer; one is added where there is none. Raises `UnsuitedTree`."""
        known = self._by_path.get(path)
        if known is not None:
            return known
        self._require_more_rows()
        is_first = path == self._anchor(path, self._new) or (self._has_libraries and not self._has_any_around(path))
        around = None if is_first else self._ensured(path.parent)
        model = next((row for row in self._rows.values() if (row.around is None) == is_first), None)
        if model is None or (is_first and self._root_text(model, path) is None):
            raise UnsuitedTree
        number = -len(self._added) - 1
        added = _Row(number, model.old, model.piece, model.text, model.cell, around, new=path, is_new=True)
        self._added.append(added)
        self._by_path[path] = added
        return added

    def _has_any_around(self, path: MachinePath) -> bool:
        above = (path._replace(parts=path.parts[:length]) for length in range(len(path.parts)))
        return any(each in self._by_path for each in above)

    def _require_more_rows(self) -> None:
        if not self._may_add:
            raise UnsuitedTree

    # -- what is written --------------------------------------------------------------------------------------------

    def _root_text(self, row: _Row, path: MachinePath) -> str | None:
        """What the outermost row of a folder says; None where nothing can be read back as that folder."""
        text = write_piece(respell(row.piece, path.root, path.parts, self._new, None, self._new_variables))
        try:
            read = read_path(text, self._new, self._spelling, None, self._new_variables).path
        except PathError:
            return None
        return text if read == path else None

    def _text(self, row: _Row) -> str:
        if row.new is None:
            return row.text
        if row.around is None:
            return self._root_text(row, row.new) or row.text
        if row.new.parts[-1] == row.text and _SAME_ANYWHERE.fullmatch(row.text) and not self._spelling.is_url:
            return row.text
        return write_piece(respell(row.piece, "", (row.new.parts[-1],), self._new, None, self._new_variables))

    def write(self, changes: ChangeList, catalog: Catalog) -> int:
        """Write all changes for a catalog into a new change list; their number."""
        changes.add(self.changes())
        if (self._added or self._pointers) and isinstance(catalog, GrowingCatalog):
            first = catalog.free_row(self._table)
            numbers = {each.number: first + place for place, each in enumerate(self._added)}
            changes.add_rows(self._additions(numbers), self._all_pointers(numbers))
            self.rows_added = len(self._added)
        return len(changes) + len(self._added) + len(self._pointers)

    def _additions(self, numbers: dict[int, int]) -> Iterator[Addition]:
        for row in self._added:
            model = self._model(row)
            yield Addition(row.cell._replace(row=numbers[row.number]), model.number, model.text, self._text(row))

    def _model(self, row: _Row) -> _Row:
        return self._rows[int(row.cell.row)]

    def _all_pointers(self, numbers: dict[int, int]) -> Iterator[Pointer]:
        for cell, old, row in self._pointers:
            yield Pointer(cell, old, numbers.get(row.number, row.number))
        for row in self._added:
            around = self._model(row).around
            if row.around is not None and around is not None:
                cell = row.cell._replace(row=numbers[row.number], column=self._parent)
                yield Pointer(cell, around.number, numbers.get(row.around.number, row.around.number))

    def changes(self) -> Iterator[Change]:
        """Every change to a cell; entries that have no route are collected on the way."""
        for row in self._rows.values():
            text = self._text(row)
            if row.new is not None and text not in (row.text, write_piece(row.piece)):
                yield Change(row.cell, row.text, text)
        for entry in self._to_be_looked_at():
            yield from self._changes_of(entry)

    def _to_be_looked_at(self) -> Iterable[Entry]:
        """The entries of which their folders do not say all; all entries where these are not, or too many."""
        if len(self._others) > _MOST_OTHERS or not self._all_in_place():
            return self._entries.entries()
        self.moved += self._plain
        return self._others

    def _all_in_place(self) -> bool:
        """Whether every folder goes where the files go that go along with it."""
        return all(row.new == row.goes_to for row in self._rows.values() if row.is_along)

    def _changes_of(self, entry: Entry) -> Iterator[Change]:
        row, last = None if entry.remote else self._row_of(entry), entry.pieces[-1] if entry.pieces else None
        want = None if row is None or last is None else self._want(entry, row, last)
        if row is None or last is None or want is None:
            if (self._is_settled is None or not self._is_settled(entry)) and (why := self._left(entry)):
                self.without_route.append((entry, why))
            return
        self.moved += 1
        if want.parent != row.new:
            there = self._by_path[want.parent]
            self._pointers.append((last.cell._replace(column=self._via), row.number, there))
        if self._goes_along(row, last.text):
            return
        piece = read_inner(last.text, self._old, self._spelling)
        text = write_piece(respell(piece, "", (want.name,), self._new, None, self._new_variables))
        if text not in (last.text, write_piece(piece)):
            yield Change(last.cell, last.text, text)

    def _want(self, entry: Entry, row: _Row, last: StoredPiece) -> MachinePath | None:
        """Where an entry must lead; None for one that stays as it is."""
        if self._is_settled is not None and self._is_settled(entry):
            return None
        if self._goes_along(row, last.text) and row.goes_to is not None:
            return row.goes_to.below(last.text)
        target = self._target_of(entry)
        return None if target.old is None else target.new

    def wanted(self, entry: Entry) -> Content | None:
        """Where an entry leads once everything is written; None for one that stays as it is."""
        row, last = self._row_of(entry), entry.pieces[-1] if entry.pieces else None
        want = None if row is None or last is None else self._want(entry, row, last)
        return None if want is None else (want.root, want.parts)
