"""Tables that people open in a spreadsheet: CSV (RFC 4180), without cells that a spreadsheet would run as a formula."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from typing import TextIO

from .errors import ZestyError

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


def table_bytes(rows: Iterable[Iterable[object]]) -> bytes:
    """A whole table in UTF-8, with a mark by which spreadsheets know it."""
    text = io.StringIO()
    write_rows(text, rows)
    return text.getvalue().encode("utf-8-sig", "surrogateescape")


def table_rows(content: bytes, title: str, needed: Sequence[str]) -> list[dict[str, str]]:
    """The rows of a table that a person may have edited, by the names in its first row.

    Raises `ZestyError` where that lacks a column that is ``needed``.
    """
    text = content.decode("utf-8-sig", "surrogateescape")
    head = text.partition("\n")[0]
    delimiter = max(",;\t", key=head.count)  # spreadsheets of some countries write semicolons
    table = csv.DictReader(io.StringIO(text, newline=""), delimiter=delimiter)
    lacking = [name for name in needed if name not in (table.fieldnames or ())]
    if lacking:
        raise ZestyError(
            f"The table {title} has no column {lacking[0]!r} in its first row.",
            next_step="Keep the first row unchanged.",
        )
    return [
        {name: cell_text((value or "").strip()) for name, value in row.items() if isinstance(name, str)}
        for row in table
    ]


def _as_text(cell: object) -> object:
    return _TEXT_MARK + cell if isinstance(cell, str) and cell.startswith(_STARTS_A_FORMULA) else cell
