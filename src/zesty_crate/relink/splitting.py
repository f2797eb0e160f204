"""Shared rows that are split: where entries of one go to places that no one text can say, some get a row of their own.

A new row is a cell like any other while it is decided what it says; it gets its number when the changes are written.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable
from pathlib import Path

from ..catalogs import Addition, Cell, Entry, GrowingCatalog, Pointer, write_additions
from .votes import Content


class Splits:
    """Which rows are split, by what their entries wish; and the new rows that are made use of."""

    def __init__(self) -> None:
        self._cells: dict[Cell, dict[Content, Cell]] = {}
        self._models: dict[Cell, Cell] = {}
        self._used: dict[Cell, tuple[str, str]] = {}
        self._users: list[tuple[Cell, Cell]] = []

    def split(self, wishes: Iterable[tuple[Cell, Content, bool]]) -> None:
        """Split rows by what entries wish of them, and whether those move.

        The row itself stays with those that do not move, or else with the most.
        """
        counts: defaultdict[Cell, Counter[Content]] = defaultdict(Counter)
        staying: dict[Cell, Content] = {}
        for cell, wish, moved in wishes:
            counts[cell][wish] += 1
            if not moved:
                staying[cell] = wish
        for cell, found in counts.items():
            keeper = staying.get(cell) or found.most_common(1)[0][0]
            others = sorted(wish for wish in found if wish != keeper)
            new = {
                wish: cell._replace(row=f"new row {len(self._models) + number}") for number, wish in enumerate(others)
            }
            self._cells[cell] = new
            self._models.update(dict.fromkeys(new.values(), cell))

    def parts(self, cell: Cell) -> bool:
        """Whether a row is split."""
        return cell in self._cells

    def cell_for(self, cell: Cell, wish: Content | None) -> Cell:
        """The row of an entry of a row that is split."""
        return cell if wish is None else self._cells[cell].get(wish, cell)

    def has(self, cell: Cell) -> bool:
        """Whether this is a new row."""
        return cell in self._models

    def use(self, cell: Cell, entry: Entry, old: str, new: str) -> None:
        """Have an entry use a new row that says ``new`` where its model says ``old``."""
        outermost = entry.pieces[0]
        if outermost is not None and outermost.via is not None:
            self._used[cell] = old, new
            self._users.append((cell, outermost.via))

    def write(self, changes: Path, catalog: GrowingCatalog) -> int:
        """Write the new rows that are used, and what is to point to them, into a change list; how many rows that is."""
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
            write_additions(changes, additions, pointers)
        return len(self._used)
