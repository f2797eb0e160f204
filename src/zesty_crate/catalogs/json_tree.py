"""Trees of lists and objects, selected by JSONPath (RFC 9535): what JSON and property lists share."""

from __future__ import annotations

import json
import re
from collections.abc import Collection, Iterator
from functools import lru_cache
from typing import Any

import jsonpath_rfc9535 as jsonpath

from ..guides import EntriesPart
from .model import CatalogError, Cell, Found
from .name_lists import NameListQuoting, joined_names
from .records import OuterRecord

MEMBER = re.compile("[A-Za-z_][A-Za-z0-9_]*")
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


# A token of a text that is known to be JSON: a string, another scalar, or a mark that opens or closes a value.
_TOKEN = re.compile(r'"((?:[^"\\]|\\.)*)"|([^\s\[\]{},:"]+)|([\[\]{}])', re.DOTALL)
_STRING, _SCALAR, _MARK = 1, 2, 3


def placed_tree(text: str, *, with_names: bool = False, only: frozenset[str] | None = None) -> list[Any]:
    """The values of a text that was read as JSON before; all but truths and nulls know their place, names if asked for.

    There is one, or in JSON Lines one a line. Of members of objects, it may be ``only`` those of some names.
    """
    root = PlacedList()
    inner: PlacedList | PlacedObject = root
    outer: list[PlacedList | PlacedObject] = []
    name: str | None = None  # of the member whose value comes next
    for token in _TOKEN.finditer(text):
        value: Any
        if token.lastindex == _STRING:
            string = _unescaped(token[_STRING])
            start, end = token.span(_STRING)
            if name is None and isinstance(inner, dict):
                name = Placed.at(string, Cell("", "json", start, end - start)) if with_names else string
                continue
            is_placed = only is None or name is None or name in only
            value = Placed.at(string, Cell("", "json", start, end - start)) if is_placed else string
        elif token.lastindex == _SCALAR:
            value = json.loads(token[_SCALAR])
            if only is None or name is None or name in only:
                value = _placed_scalar(value, token)
        elif token[_MARK] in "]}":
            inner.span = inner.span[0], token.end()
            inner = outer.pop()
            continue
        else:
            value = PlacedList() if token[_MARK] == "[" else PlacedObject()
            value.span = token.start(), token.end()
        if isinstance(inner, list):
            inner.append(value)
        elif name is not None:
            inner[name], name = value, None
        if token.lastindex == _MARK:
            outer.append(inner)
            inner = value
    return root


def _placed_scalar(value: Any, token: re.Match[str]) -> Any:
    if isinstance(value, bool) or not isinstance(value, int | float):
        return value
    placed = PlacedInteger(value) if isinstance(value, int) else PlacedNumber(value)
    placed.cell = Cell("", "plain", token.start(), token.end() - token.start())
    return placed


def _unescaped(raw: str) -> str:
    return str(json.loads(f'"{raw}"')) if "\\" in raw else raw


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

    def values(self, name_lists: Collection[int] = ()) -> Iterator[str]:
        """Every name and value, and where lists and objects begin; lists of names, by their `id`, are one value."""
        pending = [self._root]
        while pending:
            value = pending.pop()
            if id(value) in name_lists:
                yield joined_names(value)
            elif isinstance(value, dict | list):
                yield "{" if isinstance(value, dict) else "["
                inside = [each for pair in value.items() for each in pair] if isinstance(value, dict) else value
                pending += reversed(inside)
            else:
                yield value if isinstance(value, str) else repr(value)


@lru_cache(maxsize=256)
def _compiled(selector: str) -> jsonpath.JSONPathQuery:
    try:
        return jsonpath.compile(selector)
    except jsonpath.JSONPathError as error:
        raise CatalogError(
            f"{selector!r} in the guide is not a JSONPath: {error}.", next_step="Correct it; see RFC 9535."
        ) from error
