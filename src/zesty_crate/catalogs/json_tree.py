"""Trees of lists and objects, selected by JSONPath (RFC 9535): what JSON and property lists share."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from functools import lru_cache
from typing import Any

import jsonpath_rfc9535 as jsonpath

from ..guides import EntriesPart
from .model import CatalogError, Cell
from .records import Found, OuterRecord

MEMBER = re.compile("[A-Za-z_][A-Za-z0-9_]*")


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


def placed_tree(text: str) -> list[Any]:
    """The values of a text that was read as JSON before; all but names, truths and nulls know their place.

    There is one, or in JSON Lines one a line.
    """
    root = PlacedList()
    inner: PlacedList | PlacedObject = root
    outer: list[PlacedList | PlacedObject] = []
    name: str | None = None  # of the member whose value comes next
    for token in _TOKEN.finditer(text):
        value: Any
        if token.lastindex == _STRING:
            string = _unescaped(token[_STRING])
            if name is None and isinstance(inner, dict):
                name = string
                continue
            start, end = token.span(_STRING)
            value = Placed.at(string, Cell("", "json", start, end - start))
        elif token.lastindex == _SCALAR:
            value = _placed_scalar(json.loads(token[_SCALAR]), token)
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
        relative = selector if selector.startswith("$") else f"$.{selector}"
        found = (_found(node.value) for node in _compiled(relative).find(self._value))
        return next((each for each in found if each is not None), None)

    def why_not(self, selector: str) -> str:
        """A list or an object where a text was expected."""
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

    def values(self) -> Iterator[str]:
        """Every name and value, and where lists and objects begin."""
        pending = [self._root]
        while pending:
            value = pending.pop()
            if isinstance(value, dict | list):
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
