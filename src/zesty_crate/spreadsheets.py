"""Tables that people open in a spreadsheet: CSV (RFC 4180), without cells that a spreadsheet would run as a formula."""

from __future__ import annotations

import csv
from collections.abc import Iterable
from typing import TextIO

_STARTS_A_FORMULA = ("=", "+", "-", "@", "\t", "\r")
_TEXT_MARK = "'"


def write_rows(stream: TextIO, rows: Iterable[Iterable[object]]) -> None:
    """Write rows as CSV. Texts that begin like a formula get an apostrophe in front, which spreadsheets do not show."""
    csv.writer(stream).writerows([_as_text(cell) for cell in row] for row in rows)


def cell_text(cell: str) -> str:
    """The text of a cell that `write_rows` wrote, without the apostrophe that it may have added.

    >>> cell_text("'=1+1"), cell_text("'tis")
    ('=1+1', "'tis")
    """
    return cell[1:] if cell.startswith(_TEXT_MARK) and cell[1:].startswith(_STARTS_A_FORMULA) else cell


def _as_text(cell: object) -> object:
    return _TEXT_MARK + cell if isinstance(cell, str) and cell.startswith(_STARTS_A_FORMULA) else cell
