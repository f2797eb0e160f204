"""The syntaxes ``lines`` and ``delimited``: a record a line, by a regular expression or by the columns of a header."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from ..guides import EntriesPart, HoldingPart
from .model import CatalogError, Cell, Found
from .path_texts import PathText, RecordTexts
from .quoting import QUOTINGS
from .quoting_units import UNESCAPED
from .reading import UnreadRecord
from .records import Inclusion, Record
from .spans import PlainSpans
from .text_file import TextFile, Value

Carried = dict[str, Found]
Matched = tuple[re.Match[str], int, Carried]  # of an expression, where its line begins, and what is carried to it
Field = tuple[str, str, int]  # the raw text, how it is quoted, and where it begins

_ESCAPE = re.compile(r"\\u[0-9A-Fa-f]{4}|\\\\")
_LINE = re.compile(r"([^\r\n]*)(?:\r\n|\r|\n|$)")


class LineRecord(Record):
    """A line, or a part of one, that a regular expression matched; selectors are the names of its groups."""

    __slots__ = ("_carried", "_escapes", "_match", "_start")

    def __init__(self, match: re.Match[str], start: int, carried: Carried, escapes: str | None) -> None:
        self._match = match
        self._start = start
        self._carried = carried
        self._escapes = escapes

    @property
    def start(self) -> int:
        """Where its line begins."""
        return self._start

    def text(self, selector: str) -> str | None:
        """The same, where nothing says that it may have escapes."""
        match = self._match
        if self._escapes != "json" and selector in match.re.groupindex:
            begin = match.start(selector)
            if self._escapes or match.string[begin - 1 : begin] != '"':
                found: str | None = match[selector]
                return found
        return super().text(selector)

    def value(self, selector: str) -> Found | None:
        """The text of a group, unless it took no part in the match; else what an earlier line carries to here."""
        if selector not in self._match.re.groupindex:
            return self._carried.get(selector)
        return _group(self._match, selector, self._start, self._escapes)


class LineTexts:
    """A group of each match, with its place. See `PathTexts`."""

    def __init__(self, lines: Lines, part: EntriesPart, escapes: str | None) -> None:
        self._matches = lines.matches(part)
        self._group = part.path[0].at or ""
        self._escapes = escapes
        self._last: Matched | None = None

    def __iter__(self) -> Iterator[PathText | None]:
        group, escapes = self._group, self._escapes
        for each in self._matches:
            self._last = each
            try:
                told = _text_of(each[0], group, each[1], escapes)
            except UnreadRecord:
                told = None
            yield told if told and told[0] else None

    def record(self) -> Record:
        """The record of the last one, whole."""
        if self._last is None:
            raise LookupError("No path was told yet.")
        return LineRecord(*self._last, self._escapes)


class Lines(PlainSpans):
    """A text of lines. Comments are left out; a line that does not match is no record."""

    def __init__(self, file: TextFile, part: HoldingPart, title: str) -> None:
        self._text = file.text
        self._part = part
        self._title = title
        self._carries = [re.compile(each) for each in part.carry]
        self._given: Carried | None = None

    @property
    def is_empty(self) -> bool:
        """Whether there is no line but empty ones and comments."""
        return not any(content.strip() for _, content, _ in self._lines())

    def select(self, part: EntriesPart) -> Iterator[Record]:
        """What matches ``each``: lines as a whole, or with ``anywhere`` parts of lines."""
        for match, start, carried in self.matches(part):
            record = LineRecord(match, start, carried, self._part.escapes)
            yield record if self._given is None else _ReadOnly(record)

    def matches(self, part: EntriesPart) -> Iterator[Matched]:
        """The same, as an expression matched them."""
        pattern = re.compile(part.each)
        self._require_groups(part, pattern)
        for start, content, carried in self._lines():
            if self._part.anywhere:
                yield from ((match, start, carried) for match in pattern.finditer(content))
            elif match := pattern.fullmatch(content):
                yield match, start, carried

    def path_texts(self, part: EntriesPart) -> LineTexts | None:
        """The paths, where they are in the very lines of this document."""
        is_own = self._given is None and part.path[0].at in re.compile(part.each).groupindex
        return LineTexts(self, part, self._part.escapes) if is_own else None

    def span_of(self, record: Record) -> tuple[int, int]:
        """Its line, with comments and lines that carry to it right before; but for the first line of the document.

        Raises `CatalogError` where a line may have several records.
        """
        if self._part.anywhere or not isinstance(record, LineRecord):
            raise CatalogError("Catalogs with several records in a line cannot be merged.")
        start = record.start
        while start > 0 and self._leads(above := self._line_before(start)) and above > 0:
            start = above
        line = _LINE.match(self._text, record.start)
        return start, line.end() if line else len(self._text)

    def _line_before(self, start: int) -> int:
        return max(self._text.rfind("\n", 0, start - 1), self._text.rfind("\r", 0, max(0, start - 2))) + 1

    def _leads(self, start: int) -> bool:
        """Whether a line tells of the one that follows: a comment, or one that carries to it."""
        line = _LINE.match(self._text, start)
        content = line.group(1) if line else ""
        is_comment = bool(self._part.comment) and content.startswith(self._part.comment or "")
        return is_comment or any(each.fullmatch(content) for each in self._carries)

    def inclusions(self) -> Iterator[Inclusion]:
        """What the lines include, in their order."""
        if self._part.includes is None:
            return
        pattern = re.compile(self._part.includes)
        for _, content, carried in self._lines():
            for match in self._matches(pattern, content):
                yield Inclusion(next((text for text in match.groups() if text), ""), carried)

    def included(self, given: Carried) -> Lines:
        """The same lines as part of another document, with what is carried to them."""
        self._given = given
        return self

    def _lines(self) -> Iterator[tuple[int, str, Carried]]:
        """Each line that is no comment: where it begins, what it says, and what earlier lines carry to it."""
        comment, carried = self._part.comment, dict(self._given or {})
        for start, content in self._by_line():
            if comment and (self._part.anywhere or content.startswith(comment)):
                content = content.partition(comment)[0]
            if not content:
                continue
            for pattern in self._carries:
                for match in self._matches(pattern, content):
                    told = {
                        name: _group(match, name, start, self._part.escapes or "none") for name in match.groupdict()
                    }
                    carried = {**carried, **{name: found for name, found in told.items() if found}}
            yield start, content, carried

    def _by_line(self) -> Iterator[tuple[int, str]]:
        if "\r" in self._text:
            for line in _LINE.finditer(self._text):
                yield line.start(), line[1]
            return
        start = 0
        for content in self._text.split("\n"):
            yield start, content
            start += len(content) + 1

    def _matches(self, pattern: re.Pattern[str], content: str) -> Iterable[re.Match[str]]:
        if self._part.anywhere:
            return pattern.finditer(content)
        match = pattern.fullmatch(content)
        return (match,) if match else ()

    def _require_groups(self, part: EntriesPart, pattern: re.Pattern[str]) -> None:
        known = {*pattern.groupindex, *(name for each in self._carries for name in each.groupindex)}
        for selector in (
            *(piece.at for piece in part.path if piece.at),
            *part.key_selectors,
            *part.known,
            *part.besides,
            *part.annotations,
        ):
            if selector not in known:
                raise CatalogError(
                    f"The guide selects {selector!r} from {self._title}, but its expression has no group of this name.",
                    next_step=f"Write (?P<{selector}>...) around it in each = ...",
                )


class _ReadOnly(Record):
    """A record in which nothing can be written."""

    def __init__(self, record: LineRecord) -> None:
        self._record = record

    def value(self, selector: str) -> Found | None:
        """What the record says there."""
        found = self._record.value(selector)
        return found and Found(found.text, None)


def _group(match: re.Match[str], name: str, start: int, escapes: str | None) -> Found | None:
    """What a group of an expression matched, as `_text_of` has it."""
    if (told := _text_of(match, name, start, escapes)) is None:
        return None
    text, quoting, at, length = told
    return Found(text, Cell("", quoting, at, length))


def _text_of(match: re.Match[str], name: str, start: int, escapes: str | None) -> PathText | None:
    """What a group of an expression matched, how it is quoted, and its place.

    Raises `UnreadRecord` for a text between quotation marks that seems to have escapes, unless a guide says if it has.
    """
    begin, end = match.span(name)
    if begin < 0:
        return None
    raw = match[name]
    if escapes == "json":
        return QUOTINGS["json"].decode(raw), "json", start + begin, end - begin
    if escapes or match.string[begin - 1 : begin] != '"' or match.string[end : end + 1] != '"':
        return raw, "plain", start + begin, end - begin
    if "\\" in raw and "\\" not in _ESCAPE.sub("", raw):
        raise UnreadRecord(f'{raw!r} seems to hold escapes; the guide must say so (escapes = "json" or "none")')
    return raw, "plain" if "\\" in raw else UNESCAPED, start + begin, end - begin


class Row(Record):
    """A row of a delimited text; selectors are column names."""

    __slots__ = ("_columns", "_fields", "_title")

    def __init__(self, columns: dict[str, int], fields: list[Field], title: str) -> None:
        self._columns = columns
        self._fields = fields
        self._title = title

    def value(self, selector: str) -> Found | None:
        """The cell in a column."""
        field = self.field(selector)
        return None if field is None else _found(field)

    def field(self, selector: str) -> Field | None:
        """The same as it is written."""
        if selector not in self._columns:
            raise CatalogError(
                f"The guide names the column {selector!r}, but {self._title} has no such column.",
                next_step=f"Its columns are {', '.join(self._columns)}.",
            )
        position = self._columns[selector]
        return self._fields[position] if position < len(self._fields) else None

    @property
    def ends(self) -> tuple[Field, Field]:
        """Its first and its last field."""
        return self._fields[0], self._fields[-1]

    def why_not(self, selector: str) -> str:
        """A row that ends before a column."""
        return "" if self._columns[selector] < len(self._fields) else f"it ends before the column {selector}"


class ColumnTexts(RecordTexts):
    """The paths in a column."""

    def path_of(self, record: Record, at: str) -> PathText | None:
        """The field of a row."""
        field = record.field(at) if isinstance(record, Row) else None
        if field is None or not field[0]:
            return None
        raw, quoting, start = field
        return raw if quoting == "csv-bare" else QUOTINGS[quoting].decode(raw), quoting, start, len(raw)


class Delimited(PlainSpans):
    """A text with a header and delimited columns (RFC 4180, with any delimiter)."""

    def __init__(self, file: TextFile, part: HoldingPart, title: str) -> None:
        self._text = file.text
        self._title = title
        self._delimiter = part.delimiter
        mark = re.escape(part.delimiter)
        self._field = re.compile(rf'"((?:[^"]|"")*)"(?={mark}|\r|\n|\Z)|([^{mark}\r\n]*)')

    @property
    def is_empty(self) -> bool:
        """Whether there is nothing below the header."""
        return next(self._records(), None) is None

    def span_of(self, record: Record) -> tuple[int, int]:
        """Its row, with the end of the line."""
        if not isinstance(record, Row):
            raise CatalogError("This is no row.")
        first, last = record.ends
        start = first[2] - (first[1] == "csv-quoted")
        end = last[2] + len(last[0]) + (last[1] == "csv-quoted")
        return start, end + (2 if self._text.startswith("\r\n", end) else 1 if end < len(self._text) else 0)

    def select(self, part: EntriesPart) -> Iterator[Row]:  # noqa: ARG002  every row is a record
        """Every row below the header that is not empty."""
        return self._records()

    def values(self) -> Iterator[Value]:
        """The fields of each row."""
        for fields in self._rows():
            yield [raw if quoting == "csv-bare" else QUOTINGS[quoting].decode(raw) for raw, quoting, _ in fields]

    def path_texts(self, part: EntriesPart) -> ColumnTexts:
        """The paths, which are in one column."""
        return ColumnTexts(self._records(), part.path[0].at or "")

    def _records(self) -> Iterator[Row]:
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
