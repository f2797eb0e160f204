"""Trees of lists and objects, selected by JSONPath (RFC 9535): what JSON and property lists share."""

from __future__ import annotations

import json
import re
from array import array
from collections.abc import Collection, Container, Iterator
from functools import lru_cache
from typing import Any

import jsonpath_rfc9535 as jsonpath

from ..guides import EntriesPart
from .model import CatalogError, Cell, Found
from .name_lists import NameListQuoting, joined_names
from .path_texts import PathText
from .records import OuterRecord
from .text_file import Value

MEMBER = re.compile("[A-Za-z_][A-Za-z0-9_]*")
_IN_ORDER = re.compile(rf"\$(?:\.{MEMBER.pattern}|\.\*|\[\*\])*")
MEMBER_NAME = "member-name()"  # selects the name under which an object has a value


class Placed(str):
    """A text with its location."""

    __slots__ = ("cell",)
    cell: Cell

    @classmethod
    def at(cls, text: str, cell: Cell) -> Placed:
        """A text at a place."""
        placed = cls(text)
        placed.cell = cell
        return placed


class PlacedInteger(int):
    """A whole number with its location."""

    cell: Cell


class PlacedNumber(float):
    """Any other number with its location."""

    cell: Cell


class PlacedList(list[Any]):
    """A list with the characters that it takes up."""

    span = (0, 0)


class PlacedObject(dict[str, Any]):
    """An object with the characters that it takes up."""

    span = (0, 0)


_TEXT = r'"([^"\\]*+(?:\\.[^"\\]*+)*+)"'
# A value of a text that is known to be JSON, with its name if it has one: a string, another scalar, or the mark that
# opens a list or an object; or the mark that closes one.
_TOKEN = re.compile(
    rf'(?:{_TEXT}\s*+:\s*+)?+(?:{_TEXT}|([^\s\[\]{{}},:"]++)|([\[{{]))|([\]}}])',
    re.DOTALL,
)
_NAME, _STRING, _SCALAR, _OPENS, _CLOSES = 1, 2, 3, 4, 5


def placed_tree(text: str, *, with_names: bool = False, only: Container[str] | None = None) -> list[Any]:
    """The values of a text that was read as JSON before; all but truths and nulls know their place, names if asked for.

    There is one, or in JSON Lines one a line. It may be ``only`` the members of some names that know it.
    """
    root = PlacedList()
    inner: Any = root
    outer: list[Any] = []
    names = dict[str, str]()  # each held once
    value: Any
    for token in _TOKEN.finditer(text):
        kind = token.lastindex
        if kind == _CLOSES:
            if only is None:
                inner.span = inner.span[0], token.end()
            inner = outer.pop()
            continue
        raw = token[_NAME]
        name = None if raw is None else names.setdefault(raw, raw) if "\\" not in raw else _unescaped(raw)
        if kind != _OPENS:
            value = _scalar(token, is_placed=only is None or name in only)
        elif only is None:
            value = PlacedList() if token[_OPENS] == "[" else PlacedObject()
            value.span = token.span(_OPENS)
        else:
            value = [] if token[_OPENS] == "[" else {}
        if isinstance(inner, list):
            inner.append(value)
        elif name is not None:
            inner[Placed.at(name, _cell(token, _NAME, "json")) if with_names else name] = value
        if kind == _OPENS:
            outer.append(inner)
            inner = value
    return root


def _scalar(token: re.Match[str], *, is_placed: bool) -> Any:
    raw = token[_STRING]
    if raw is not None:
        text = _unescaped(raw)
        return Placed.at(text, _cell(token, _STRING, "json")) if is_placed else text
    raw = token[_SCALAR]
    value = int(raw) if raw.isdigit() else json.loads(raw)
    if not is_placed or isinstance(value, bool) or not isinstance(value, int | float):
        return value
    placed = PlacedInteger(value) if isinstance(value, int) else PlacedNumber(value)
    placed.cell = _cell(token, _SCALAR, "plain")
    return placed


def _cell(token: re.Match[str], group: int, quoting: str) -> Cell:
    start, end = token.span(group)
    return Cell("", quoting, start, end - start)


def _unescaped(raw: str) -> str:
    if "\\" not in raw:
        return raw
    if "\\" not in raw.replace("\\\\", ""):  # as in paths of Windows
        return raw.replace("\\\\", "\\")
    return str(json.loads(f'"{raw}"'))


_ABSENT = object()
_SCALARS = {str, int, float, bool, type(None), Placed}


class Node(OuterRecord):
    """A value of a tree; selectors are JSONPaths relative to it, with or without the leading ``$``."""

    __slots__ = ("_found", "_value")

    def __init__(self, found: jsonpath.JSONPathNode) -> None:
        self._found = found
        self._value: Any = found.value

    @property
    def plain(self) -> Any:
        """The value itself."""
        return self._value

    @property
    def steps(self) -> tuple[int | str, ...]:
        """The names and numbers that lead to it."""
        return self._found.location

    @property
    def above(self) -> list[Any]:
        """The values around it, the innermost first."""
        values, parent = [], self._found.parent
        while parent is not None:
            values.append(parent.value)
            parent = parent.parent
        return values

    def value(self, selector: str) -> Found | None:
        """The first value that is selected: a text with its place, or a number or truth as text."""
        if MEMBER.fullmatch(selector):  # by far the most frequent, and the same without the machinery
            return _found(self._value.get(selector)) if isinstance(self._value, dict) else None
        if selector == MEMBER_NAME:
            return _found(self._name)
        relative = selector if selector.startswith("$") else f"$.{selector}"
        found = (_found(node.value) for node in _compiled(relative).find(self._value))
        return next((each for each in found if each is not None), None)

    @property
    def _name(self) -> str | None:
        """The name that the object around it has for it."""
        around = self._found.parent.value if self._found.parent else None
        name = self._found.location[-1] if isinstance(around, dict) else None
        if not isinstance(around, dict) or isinstance(name, Placed):
            return name if isinstance(name, str) else None
        return next((str(each) if not isinstance(each, Placed) else each for each in around if each == name), None)

    def name_list(self, selector: str) -> Found | None:
        """The path that a list of names is, where a selector selects one."""
        found = self.list_at(selector)
        if found is None:
            return None
        start, end = found.span if isinstance(found, PlacedList) else (0, 0)
        return Found(joined_names(found), Cell("", NameListQuoting.name, start, end - start) if end else None)

    def list_at(self, selector: str) -> list[str] | None:
        """The first list of texts that is selected."""
        relative = selector if selector.startswith("$") else f"$.{selector}"
        values = (node.value for node in _compiled(relative).find(self._value))
        lists = (each for each in values if isinstance(each, list) and all(isinstance(name, str) for name in each))
        return next(lists, None)

    def why_not(self, selector: str) -> str:
        """A list or an object where a text was expected."""
        if selector == MEMBER_NAME:
            return ""
        relative = selector if selector.startswith("$") else f"$.{selector}"
        kinds = (_kind_of(node.value) for node in _compiled(relative).find(self._value))
        return next((f"{selector} is {kind} and not a text" for kind in kinds if kind), "")

    def inside(self, selector: str) -> Iterator[Node]:
        """The values that a relative JSONPath selects."""
        relative = selector if selector.startswith("$") else f"$.{selector}"
        return (Node(node) for node in _compiled(relative).find(self._value))


def _kind_of(value: object) -> str:
    return "an object" if isinstance(value, dict) else "a list" if isinstance(value, list) else ""


def _found(value: object) -> Found | None:
    if isinstance(value, Placed):
        return Found(str(value), value.cell)
    if isinstance(value, PlacedInteger | PlacedNumber):
        return Found(str(value), value.cell)
    if isinstance(value, bool):
        return Found("true", None) if value else None
    return Found(str(value), None) if isinstance(value, str | int | float) else None


class MemberNode(Node):
    """A node that knows where the text of one of its members begins and ends."""

    __slots__ = ("_end", "_member", "_start")

    def __init__(self, found: jsonpath.JSONPathNode, member: str, start: int, end: int) -> None:
        super().__init__(found)
        self._member = member
        self._start = start
        self._end = end

    def value(self, selector: str) -> Found | None:
        """The same, with the place of that member."""
        if selector == self._member and self._end:
            return Found(self._value[selector], Cell("", "json", self._start, self._end - self._start))
        return super().value(selector)


class MemberTexts:
    """One member of each value that a JSONPath selects, with its place. See `PathTexts`."""

    def __init__(self, nodes: list[jsonpath.JSONPathNode], name: str, starts: array[int], ends: array[int]) -> None:
        """A member that is no text begins and ends at 0."""
        self._nodes = nodes
        self._name = name
        self._places = starts, ends
        self._last = 0

    def __iter__(self) -> Iterator[PathText | None]:
        name, (starts, ends) = self._name, self._places
        for number, node in enumerate(self._nodes):
            self._last, start, end = number, starts[number], ends[number]
            if end and isinstance(node.value, dict):
                text = node.value[name]
                yield (text, "json", start, end - start) if text else None
            else:
                found = Node(node).value(name)
                yield (found.text, "", 0, 0) if found else None

    def record(self) -> MemberNode:
        """The value of the last one."""
        starts, ends = self._places
        return MemberNode(self._nodes[self._last], self._name, starts[self._last], ends[self._last])


class Tree:
    """A document that is a tree of lists and dictionaries."""

    def __init__(self, root: Any) -> None:
        self._root = root

    @property
    def is_empty(self) -> bool:
        """Whether it is an empty list, or an object in which every list and object is empty."""
        if isinstance(self._root, dict):
            return not any(each for each in self._root.values() if isinstance(each, dict | list))
        return not isinstance(self._root, list) or not self._root

    def select(self, part: EntriesPart) -> Iterator[Node]:
        """The values that an absolute JSONPath selects."""
        return self.outer(part.each)

    def outer(self, each: str) -> Iterator[Node]:
        """The same, to look inside."""
        return (Node(node) for node in _compiled(each).find(self._root))

    def member_texts(self, each: str, name: str, text: str) -> MemberTexts | None:
        """One member of the same values, with its place in the ``text`` of JSON that they were read from.

        None where that cannot be told: other values have a member of this name, too, or it is a number, or they may
        come in another order than in the text, or more than once.
        """
        if not _IN_ORDER.fullmatch(each):
            return None
        nodes, tokens = _compiled(each).find(self._root), _members_named(name, text)
        starts, ends = array("q"), array("q")
        for node in nodes:
            value = node.value.get(name, _ABSENT) if isinstance(node.value, dict) else _ABSENT
            token = next(tokens, None) if value is not _ABSENT else None
            raw = token and token[1]
            is_number = isinstance(value, int | float) and not isinstance(value, bool)
            if is_number or isinstance(value, str) is (raw is None) or (raw is not None and _unescaped(raw) != value):
                return None
            start, end = token.span(1) if token and raw is not None else (0, 0)
            starts.append(start)
            ends.append(end)
        if next(tokens, None) is not None:
            return None
        return MemberTexts(nodes, name, starts, ends)

    def values(self, name_lists: Collection[int] = ()) -> Iterator[Value]:
        """Every name and value, and where lists and objects begin; lists of names, by their `id`, are one value.

        Objects of scalars come as a whole.
        """
        pending = [self._root]
        while pending:
            value = pending.pop()
            if id(value) in name_lists:
                yield joined_names(value)
            elif isinstance(value, dict) and _SCALARS.issuperset(map(type, value.values())):
                yield value
            elif isinstance(value, dict | list):
                yield "{" if isinstance(value, dict) else "["
                inside = [each for pair in value.items() for each in pair] if isinstance(value, dict) else value
                pending += reversed(inside)
            else:
                yield value if isinstance(value, str) else repr(value)


def _members_named(name: str, text: str) -> Iterator[re.Match[str]]:
    """Where a text of JSON has members of a name; what group 1 matches is the inside of a string.

    Bare quotation marks around a name, with a colon behind them, are never within a string: there they are escaped.
    """
    member = re.compile(rf'"{re.escape(name)}"\s*+:\s*+(?:{_TEXT}|(?!"))', re.DOTALL)
    return (each for each in member.finditer(text) if text[each.start() - 1] != "\\")


@lru_cache(maxsize=256)
def _compiled(selector: str) -> jsonpath.JSONPathQuery:
    try:
        return jsonpath.compile(selector)
    except jsonpath.JSONPathError as error:
        raise CatalogError(
            f"{selector!r} in the guide is not a JSONPath: {error}.", next_step="Correct it; see RFC 9535."
        ) from error
