"""The syntaxes ``lines`` and ``delimited``: a record a line, by a regular expression or by the columns of a header."""

from __future__ import annotations

import re
from collections.abc import Iterator

from ..guides import HoldingPart
from .model import CatalogError, Cell
from .quoting import QUOTINGS
from .records import Found
from .text_file import TextFile

_LINE = re.compile(r"([^\r\n]*)(?:\r\n|\r|\n|$)")


class LineRecord:
    """A line that a regular expression matched; selectors are the names of its groups."""

    __slots__ = ("_match", "_start", "_title")

    def __init__(self, match: re.Match[str], start: int, title: str) -> None:
        self._match = match
        self._start = start
        self._title = title

    def value(self, selector: str) -> Found | None:
        """The text of a group, unless it took no part in the match."""
        if selector not in self._match.re.groupindex:
            raise CatalogError(
                f"The guide selects {selector!r} from {self._title}, and its expression has no group of this name.",
                next_step=f"Write (?P<{selector}>...) around it in each = ...",
            )
        start, end = self._match.span(selector)
        if start < 0:
            return None
        return Found(self._match.group(selector), Cell("", "plain", self._start + start, end - start))


class Lines:
    """A text of lines. Comments are left out; a line that does not match is no record."""

    def __init__(self, file: TextFile, part: HoldingPart, title: str) -> None:
        self._text = file.text
        self._comment = part.comment
        self._title = title

    def select(self, each: str) -> Iterator[LineRecord]:
        """The lines that match ``each`` as a whole."""
        pattern = re.compile(each)
        for line in _LINE.finditer(self._text):
            content = line.group(1)
            if self._comment and content.startswith(self._comment):
                continue
            match = pattern.fullmatch(content)
            if match and content:
                yield LineRecord(match, line.start(), self._title)


class Row:
    """A row of a delimited text; selectors are column names."""

    __slots__ = ("_cells", "_columns", "_title")

    def __init__(self, columns: dict[str, int], cells: list[Found], title: str) -> None:
        self._columns = columns
        self._cells = cells
        self._title = title

    def value(self, selector: str) -> Found | None:
        """The cell in a column."""
        if selector not in self._columns:
            raise CatalogError(
                f"The guide speaks of the column {selector!r}, and {self._title} has none of this name.",
                next_step=f"Its columns are {', '.join(self._columns)}.",
            )
        position = self._columns[selector]
        return self._cells[position] if position < len(self._cells) else None


class Delimited:
    """A text with a header and delimited columns (RFC 4180, with any delimiter)."""

    def __init__(self, file: TextFile, part: HoldingPart, title: str) -> None:
        self._text = file.text
        self._title = title
        mark = re.escape(part.delimiter)
        self._field = re.compile(rf'"((?:[^"]|"")*)"(?={mark}|\r|\n|\Z)|([^{mark}\r\n]*)')
        self._delimiter = part.delimiter

    def select(self, each: str) -> Iterator[Row]:  # noqa: ARG002  every row is a record
        """Every row below the header that is not empty."""
        rows = self._rows()
        header = next(rows, [])
        columns = {found.text: position for position, found in enumerate(header)}
        for cells in rows:
            if len(cells) > 1 or cells[0].text:
                yield Row(columns, cells, self._title)

    def _rows(self) -> Iterator[list[Found]]:
        at, cells = 0, []
        while at < len(self._text):
            match = self._field.match(self._text, at)
            if match is None:
                raise CatalogError(f"{self._title} is not a delimited text at character {at}.", next_step=_CORRECT)
            quoting, group = ("csv-quoted", 1) if match.group(1) is not None else ("csv-bare", 2)
            start, end = match.span(group)
            text = QUOTINGS[quoting].decode(match.group(group))
            cells.append(Found(text, Cell("", quoting, start, end - start)))
            at = match.end()
            if self._text.startswith(self._delimiter, at):
                at += 1
                continue
            yield cells
            cells = []
            at += 2 if self._text.startswith("\r\n", at) else 1
        if cells:
            yield cells


_CORRECT = "Correct the guide's delimiter, or leave this holding out of the guide."
