"""The syntax ``toml`` (TOML 1.0.0), selected by JSONPath.

The standard library reads the values; a reader of our own, of what that has accepted, tells where they stand. The two
must read the same.
"""

from __future__ import annotations

import re
import tomllib
from collections.abc import Collection, Sequence
from functools import cached_property
from typing import Any, NamedTuple

from ..guides import HoldingPart
from .json_tree import MEMBER, Node, Placed, PlacedInteger, PlacedList, PlacedObject, Tree
from .model import CatalogError, Cell
from .records import Record
from .spans import Room, Span, Splice, in_order
from .text_file import TextFile
from .tree_spans import NamedTreeSpans

_BLANK = re.compile(r"(?:[ \t\r\n]|#[^\r\n]*)*+")
_SPACE = re.compile(r"[ \t]*+")
_STRING = re.compile(
    r'"""(?:[^\\]|\\.)*?"{3,5}|\'\'\'[\s\S]*?\'{3,5}|"(?:[^"\\\r\n]|\\.)*"|\'[^\'\r\n]*\'',
    re.DOTALL,
)
_BARE = re.compile(r"[A-Za-z0-9_-]+")
_OTHER = re.compile(r"\d{4}-\d\d-\d\d[ Tt]\d\d:[^\s,\]}#]+|[^\s,\]}#]+")
_COMMENT = re.compile(r"#[^\r\n]*")
_MEMBER_LINE = re.compile(r"""[ \t]*(?:[A-Za-z0-9_.-]+|"[^"]*"|'[^']*')[ \t]*=[ \t]*""")


class TomlTable(PlacedObject):
    """A table with a head of its own. ``names`` are all places at which heads name it."""

    names: list[Span]
    is_whole = True  # nothing else stands between its lines


class TomlText(NamedTreeSpans, Tree):
    """A TOML text. Records are tables with heads, lines of a table, or between brackets."""

    def __init__(self, file: TextFile, part: HoldingPart, title: str) -> None:  # noqa: ARG002  one form for every reader
        self._text = file.text
        try:
            plain = tomllib.loads(self._text)
        except (tomllib.TOMLDecodeError, RecursionError) as error:
            raise CatalogError(
                f"The catalog {title} is not TOML: {error or 'it is nested too deeply'}.",
                next_step="It may be damaged; open it in its program.",
            ) from error
        try:
            self._reader = _Reader(self._text)
        except (ValueError, LookupError, TypeError, AttributeError, RecursionError) as error:
            raise _not_placed(title) from error
        if _plain(self._reader.root) != _plain(plain):
            raise _not_placed(title)
        Tree.__init__(self, self._reader.root)

    @cached_property
    def _placed(self) -> Tree:
        return self

    def glue(self, between: str) -> str:
        """What stands between two members: a comma, or new lines; comments are left out."""
        plain = _COMMENT.sub("", between)
        if plain == between and not plain.strip(" \t\r\n,"):
            return between
        return ", " if "," in plain else "\n\n" if plain.count("\n") > 1 else "\n"

    def lead(self, record: Record) -> str | None:
        """What stands before another record that follows one."""
        value = record.plain if isinstance(record, Node) else None
        if isinstance(value, TomlTable):
            return "\n\n"
        start = self.span_of(record)[0]
        line = self._text[_line_start(self._text, start) : start]
        return f"\n{line}" if self.name_of(record) is not None and not line.strip() else ", "

    def fitted(self, text: str, column: int, before: str, glue: str) -> str:  # noqa: ARG002
        """As it is. Raises `CatalogError` for a table with a head that would go between brackets, and the reverse."""
        is_line = "," not in glue and not before.endswith(("[", "{"))
        forms = ("{}",) if is_line else ("x = [{}]", "x = {{{}}}")
        if not any(_can_be_read(each.format(text)) for each in forms):
            raise CatalogError(
                "Its records are tables with heads in one of the catalogs, and between brackets in the other.",
                next_step="Have its program save both in one manner, or choose keep, bring-in or both.",
            )
        return text

    def added(self, name: str, path: Span, written: str) -> tuple[int, str] | None:
        """A member more, after that of the path."""
        if not MEMBER.fullmatch(name):
            return None
        before = self._text[_line_start(self._text, path[0]) : path[0]]
        if _MEMBER_LINE.fullmatch(before):
            end = re.compile(r"[^\r\n]*").match(self._text, path[1])
            indent = before[: len(before) - len(before.lstrip())]
            return (end.end() if end else path[1]), f"\n{indent}{name} = {written}"
        return (path[1], f", {name} = {written}") if re.search(r"[{,]", before) else None

    def completed(self, splices: Sequence[Splice], within: Span) -> list[Splice]:
        """In their order. A table that gets another name gets it in the heads of those below it, too."""
        renamed = {(each.start, each.end): each.text for each in splices}
        more = list(splices)
        for table in self._reader.tables if renamed else ():
            text = next((renamed[each] for each in table.names if each in renamed), None)
            if text is not None:
                others = (each for each in table.names if each not in renamed and within[0] <= each[0] < within[1])
                more += (Splice(*each, text) for each in others)
        return in_order(more)

    def place_like(self, record: Record, container: str) -> Room | None:
        """In the first list or table at the same place, if nothing is in it; tables go to the end if there is none."""
        found = super().place_like(record, container)
        if found is not None or not isinstance(record, Node) or not isinstance(record.plain, TomlTable):
            return found
        if any(place == container and value for place, value in self._containers()):
            return None
        end = len(self._text.rstrip())
        return Room(end, end, "\n\n" if end else "", between="\n\n")

    def _inside(self, container: Span) -> Room:
        return Room(container[0] + 1, container[0] + 1, between=", ")

    def _span(self, value: Any) -> Span:
        if isinstance(value, TomlTable) and not value.is_whole:
            raise CatalogError("Records whose tables are written in several places cannot be merged.")
        return super()._span(value)


class _Key(NamedTuple):
    name: Placed
    span: Span


class _Reader:
    """Reads a text that is known to be TOML."""

    def __init__(self, text: str) -> None:
        self._text = text
        self.root = PlacedObject()
        self.root.span = (0, len(text))
        self.tables: list[TomlTable] = []
        self._open: Collection[int] = ()  # the tables of the latest head, by their `id`
        at, table, chain = 0, self.root, list[TomlTable]()
        while (at := _after(_BLANK, text, at)) < len(text):
            if text[at] == "[":
                table, chain, at = self._head(at)
            else:
                at = self._member(table, at)
            for each in chain:
                each.span = each.span[0], at

    def _head(self, at: int) -> tuple[Any, list[TomlTable], int]:
        """The table that a head begins, those with heads around it, and where the head ends."""
        start, is_list = at, self._text.startswith("[[", at)
        keys, at = self._keys(at + 1 + is_list)
        end = self._text.index("]", at) + 1 + is_list
        chain, inner = list[TomlTable](), self.root
        for key in keys[:-1]:
            inner = self._within(inner, key, chain)
        last = keys[-1]
        if is_list:
            members = inner.setdefault(last.name, PlacedList())
            made = self._made(start, [])
            members.append(made)
        else:
            known = inner.get(last.name)
            made = self._made(start, [last.span], known)
            inner[last.name] = made
        chain.append(made)
        self._open = {id(each) for each in chain}
        return made, chain, end

    def _made(self, start: int, names: list[Span], known: Any = None) -> TomlTable:
        """A table; of one that was told of by heads below it, with what these hold."""
        made = TomlTable(known or {})
        made.span, made.names, made.is_whole = (start, start), names, known is None
        self.tables.append(made)
        return made

    def _within(self, inner: Any, key: _Key, chain: list[TomlTable]) -> Any:
        """The table of a name, that of a list's last member; one with a head is put into the chain."""
        found = inner.setdefault(key.name, PlacedObject())
        if isinstance(found, list):
            found = found[-1]
        elif isinstance(found, TomlTable):
            found.names.append(key.span)
        if isinstance(found, TomlTable):
            found.is_whole = found.is_whole and id(found) in self._open
            chain.append(found)
        return found

    def _keys(self, at: int) -> tuple[list[_Key], int]:
        """The names of a dotted key, and where it ends."""
        keys = list[_Key]()
        while True:
            at = _after(_SPACE, self._text, at)
            found = _STRING.match(self._text, at) or _BARE.match(self._text, at)
            if found is None:
                raise ValueError(f"no key at {at}")
            raw = found[0]
            name = raw if raw[0] not in "\"'" else _said(raw)
            keys.append(_Key(Placed.at(name, Cell("", "toml-key", at, len(raw))), found.span()))
            at = _after(_SPACE, self._text, found.end())
            if self._text[at : at + 1] != ".":
                return keys, at
            at += 1

    def _member(self, table: Any, at: int) -> int:
        """Put a member into a table; where it ends."""
        keys, at = self._keys(at)
        for key in keys[:-1]:
            table = table.setdefault(key.name, PlacedObject())
        value, at = self._value(_after(_SPACE, self._text, at + 1))
        table[keys[-1].name] = value
        return at

    def _value(self, at: int) -> tuple[Any, int]:
        """A value, and where it ends."""
        sign = self._text[at]
        if sign in "[{":
            return self._list(at) if sign == "[" else self._object(at)
        if string := _STRING.match(self._text, at):
            return Placed.at(_said(string[0]), Cell("", "toml", at, len(string[0]))), string.end()
        other = _OTHER.match(self._text, at)
        if other is None:
            raise ValueError(f"no value at {at}")
        value = tomllib.loads(f"x = {other[0]}")["x"]
        if isinstance(value, int) and str(value) == other[0]:
            value = PlacedInteger(value)
            value.cell = Cell("", "plain", at, len(other[0]))
        return value if isinstance(value, bool | int | float) else str(value), other.end()

    def _list(self, at: int) -> tuple[PlacedList, int]:
        found, start = PlacedList(), at
        at = _after(_BLANK, self._text, at + 1)
        while self._text[at] != "]":
            value, at = self._value(at)
            found.append(value)
            at = _after(_BLANK, self._text, at)
            at = _after(_BLANK, self._text, at + 1) if self._text[at] == "," else at
        found.span = start, at + 1
        return found, at + 1

    def _object(self, at: int) -> tuple[PlacedObject, int]:
        found, start = PlacedObject(), at
        at = _after(_BLANK, self._text, at + 1)
        while self._text[at] != "}":
            at = _after(_BLANK, self._text, self._member(found, at))
            at = _after(_BLANK, self._text, at + 1) if self._text[at] == "," else at
        found.span = start, at + 1
        return found, at + 1


def _not_placed(title: str) -> CatalogError:
    return CatalogError(f"Where the values of {title} stand could not be told; nothing in it can be written.")


def _said(raw: str) -> str:
    """What a string says."""
    if "\\" in raw or raw[:3] in ('"""', "'''"):
        return str(tomllib.loads(f"x = {raw}")["x"])
    return raw[1:-1]


def _after(pattern: re.Pattern[str], text: str, at: int) -> int:
    found = pattern.match(text, at)
    return found.end() if found else at


def _line_start(text: str, at: int) -> int:
    return max(text.rfind("\n", 0, at), text.rfind("\r", 0, at)) + 1


def _can_be_read(text: str) -> bool:
    try:
        return bool(tomllib.loads(text))
    except tomllib.TOMLDecodeError:
        return False


def _plain(value: Any) -> Any:
    """Values to be compared: a number that is none is not even itself."""
    if isinstance(value, dict):
        return {str(name): _plain(each) for name, each in value.items()}
    return [_plain(each) for each in value] if isinstance(value, list) else str(value)
