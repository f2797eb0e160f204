"""New rows for shared pieces: where the entries of one row go to different places, some of them get their own row.

While its text is decided, a new row is a cell like any other; it gets its number when the changes are written.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable

from ..catalogs import Addition, Cell, ChangeList, Entry, GrowingCatalog, Pointer
from .voting import Content


class NewRows:
    """The rows that are split, and the new rows that entries use."""

    def __init__(self) -> None:
        self._cells: dict[Cell, dict[Content, Cell]] = {}
        self._models: dict[Cell, Cell] = {}
        self._used: dict[Cell, tuple[str, str]] = {}
        self._users: list[tuple[Cell, Cell]] = []

    def split(self, votes: Iterable[tuple[Cell, Content, bool]]) -> None:
        """Split rows by the content that each entry wants, and by whether the entry moves.

        Entries that do not move keep the original row; if all move, the largest group keeps it.
        """
        counts: defaultdict[Cell, Counter[Content]] = defaultdict(Counter)
        staying: dict[Cell, Content] = {}
        for cell, wanted, moved in votes:
            counts[cell][wanted] += 1
            if not moved:
                staying[cell] = wanted
        for cell, found in counts.items():
            keeper = staying.get(cell) or found.most_common(1)[0][0]
            others = sorted(wanted for wanted in found if wanted != keeper)
            new = {
                wanted: cell._replace(row=f"new row {len(self._models) + number}")
                for number, wanted in enumerate(others)
            }
            self._cells[cell] = new
            self._models.update(dict.fromkeys(new.values(), cell))

    def parts(self, cell: Cell) -> bool:
        """Whether a row is split."""
        return cell in self._cells

    def cell_for(self, cell: Cell, wanted: Content | None) -> Cell:
        """The row of an entry of a row that is split."""
        return cell if wanted is None else self._cells[cell].get(wanted, cell)

    def has(self, cell: Cell) -> bool:
        """Whether this is a new row."""
        return cell in self._models

    def use(self, cell: Cell, entry: Entry, old: str, new: str) -> None:
        """Have an entry use a new row that says ``new`` where its model says ``old``."""
        outermost = entry.pieces[0]
        if outermost is not None and outermost.via is not None:
            self._used[cell] = old, new
            self._users.append((cell, outermost.via))

    def write(self, changes: ChangeList, catalog: GrowingCatalog) -> int:
        """Write the new rows that are used, and what must point to them, into a change list; how many rows that is."""
        numbers: dict[Cell, int] = {}
        free: dict[str, int] = {}
        for cell in self._used:
            number = free.get(cell.table) or catalog.free_row(cell.table)
            numbers[cell], free[cell.table] = number, number + 1
        additions = (
            Addition(cell._replace(row=numbers[cell]), self._models[cell].row, old, new)
            for cell, (old, new) in self._used.items()
        )
        pointers = (Pointer(via, self._models[cell].row, numbers[cell]) for cell, via in self._users)
        if self._used:
            changes.add_rows(additions, pointers)
        return len(self._used)
