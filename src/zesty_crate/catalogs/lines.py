"""The syntaxes ``lines`` and ``delimited``: a record a line, by a regular expression or by the columns of a header."""

from __future__ import annotations

import re
from collections.abc import Iterator

from ..guides import HoldingPart
from .model import CatalogError, Cell
from .quoting import QUOTINGS
from .records import Found
from .text_file import TextFile

Field = tuple[str, str, int]  # the raw text, how it is quoted, and where it begins

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

    __slots__ = ("_columns", "_fields", "_title")

    def __init__(self, columns: dict[str, int], fields: list[Field], title: str) -> None:
        self._columns = columns
        self._fields = fields
        self._title = title

    def value(self, selector: str) -> Found | None:
        """The cell in a column."""
        if selector not in self._columns:
            raise CatalogError(
                f"The guide speaks of the column {selector!r}, and {self._title} has none of this name.",
                next_step=f"Its columns are {', '.join(self._columns)}.",
            )
        position = self._columns[selector]
        return _found(self._fields[position]) if position < len(self._fields) else None


class Delimited:
    """A text with a header and delimited columns (RFC 4180, with any delimiter)."""

    def __init__(self, file: TextFile, part: HoldingPart, title: str) -> None:
        self._text = file.text
        self._title = title
        self._delimiter = part.delimiter
        mark = re.escape(part.delimiter)
        self._field = re.compile(rf'"((?:[^"]|"")*)"(?={mark}|\r|\n|\Z)|([^{mark}\r\n]*)')

    def select(self, each: str) -> Iterator[Row]:  # noqa: ARG002  every row is a record
        """Every row below the header that is not empty."""
        rows = self._rows()
        columns = {_found(field).text: position for position, field in enumerate(next(rows, []))}
        for fields in rows:
            if len(fields) > 1 or fields[0][0]:
                yield Row(columns, fields, self._title)

    def _rows(self) -> Iterator[list[Field]]:
        at = 0
        while at < len(self._text):
            line = _LINE.match(self._text, at)
            if line is None or '"' in line.group(1):
                fields, at = self._quoted_row(at)
            else:
                fields, at = self._bare_row(line.group(1), at), line.end()
            yield fields

    def _bare_row(self, line: str, start: int) -> list[Field]:
        fields = []
        for raw in line.split(self._delimiter):
            fields.append((raw, "csv-bare", start))
            start += len(raw) + 1
        return fields

    def _quoted_row(self, at: int) -> tuple[list[Field], int]:
        """A row in which something is quoted, perhaps over several lines; and where the next one begins."""
        fields: list[Field] = []
        while match := self._field.match(self._text, at):
            quoting, group = ("csv-quoted", 1) if match.group(1) is not None else ("csv-bare", 2)
            fields.append((match.group(group), quoting, match.start(group)))
            at = match.end()
            if not self._text.startswith(self._delimiter, at):
                break
            at += 1
        return fields, at + (2 if self._text.startswith("\r\n", at) else 1)


def _found(field: Field) -> Found:
    raw, quoting, start = field
    return Found(QUOTINGS[quoting].decode(raw), Cell("", quoting, start, len(raw)))
