"""The syntax ``json`` (RFC 8259), selected by JSONPath (RFC 9535), and the tree that property lists share with it."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from functools import cached_property, lru_cache
from typing import Any

import jsonpath_rfc9535 as jsonpath

from ..guides import EntriesPart, HoldingPart
from .model import CatalogError, Cell
from .records import Found, OuterRecord, Record
from .text_file import TextFile

_NUMBER = re.compile(r"-?[0-9]+(?:\.[0-9]+)?(?:[eE][+-]?[0-9]+)?")
_MEMBER = re.compile("[A-Za-z_][A-Za-z0-9_]*")


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


def _placed_tree(text: str) -> Any:
    """The values of a text that was read as JSON before; all but names, truths and nulls know their place."""
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
    return root[0]


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

    __slots__ = ("_value",)

    def __init__(self, value: Any) -> None:
        self._value = value

    @property
    def span(self) -> tuple[int, int]:
        """The characters that it takes up; with its quotation marks, if it is a text."""
        if isinstance(self._value, PlacedList | PlacedObject):
            return self._value.span
        if isinstance(self._value, Placed):
            return int(self._value.cell.row) - 1, int(self._value.cell.row) + self._value.cell.length + 1
        if isinstance(self._value, PlacedInteger | PlacedNumber):
            return int(self._value.cell.row), int(self._value.cell.row) + self._value.cell.length
        raise CatalogError("Records that are truths or nulls cannot be merged.")

    def value(self, selector: str) -> Found | None:
        """The first value that is selected: a text with its place, or a number or truth as text."""
        if _MEMBER.fullmatch(selector):  # by far the most frequent, and the same without the machinery
            return _found(self._value.get(selector)) if isinstance(self._value, dict) else None
        relative = selector if selector.startswith("$") else f"$.{selector}"
        found = (_found(node.value) for node in _compiled(relative).find(self._value))
        return next((each for each in found if each is not None), None)

    def why_not(self, selector: str) -> str:
        """A list or an object where a text was expected."""
        relative = selector if selector.startswith("$") else f"$.{selector}"
        kinds = (_KINDS.get(type(node.value).__name__) for node in _compiled(relative).find(self._value))
        return next((f"{selector} is {kind} and not a text" for kind in kinds if kind), "")

    def inside(self, selector: str) -> Iterator[Node]:
        """The values that a relative JSONPath selects."""
        relative = selector if selector.startswith("$") else f"$.{selector}"
        return (Node(node.value) for node in _compiled(relative).find(self._value))


_KINDS = {"dict": "an object", "list": "a list"}


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
        return (Node(node.value) for node in _compiled(each).find(self._root))

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


class JsonText:
    """A JSON text. The standard library reads it; our own slower reader does once places are asked for."""

    def __init__(self, file: TextFile, part: HoldingPart, title: str) -> None:  # noqa: ARG002  one form for every reader
        self._text = file.text
        self._title = title
        self._plain: Tree | None = self._read()

    @property
    def is_empty(self) -> bool:
        """Whether there is nothing in it to select from."""
        return (self._plain or self._placed).is_empty

    def select(self, part: EntriesPart) -> Iterator[Node]:
        """The values that an absolute JSONPath selects, with their places."""
        return self._placed.select(part)

    def span_of(self, record: Record) -> tuple[int, int]:
        """The characters that a value takes up."""
        if not isinstance(record, Node):
            raise CatalogError("This is no value.")
        return record.span

    def glue(self, between: str) -> str:
        """What stands between two members of a list."""
        return between if between.strip() == "," else ", "

    def added(self, name: str, path: tuple[int, int], raw: str) -> tuple[int, str] | None:
        """A member more, after that of the path."""
        if not _MEMBER.fullmatch(name):
            return None
        text = raw if _NUMBER.fullmatch(raw) else f'"{raw}"'
        return path[1] + 1, f', "{name}": {text}'

    def placed_outer(self, each: str) -> Iterator[Node]:
        """The values that an absolute JSONPath selects, to look inside, with their places."""
        return self._placed.outer(each)

    def told(self, part: EntriesPart) -> Iterator[Node]:
        """The same values, without places."""
        return self.outer(part.each)

    def outer(self, each: str) -> Iterator[Node]:
        """The values that an absolute JSONPath selects, to look inside."""
        if self._plain is None:
            self._plain = self._read()
        return self._plain.outer(each)

    def values(self) -> Iterator[str]:
        """Every name and value, and where lists and objects begin."""
        return (self._plain or self._placed).values()

    @cached_property
    def _placed(self) -> Tree:
        self._plain = None  # so that it is not held twice
        return Tree(_placed_tree(self._text))

    def _read(self) -> Tree:
        """Raises `CatalogError` when the text is not JSON, or nested too deeply."""
        try:
            return Tree(json.loads(self._text))
        except ValueError as error:
            raise CatalogError(
                f"The catalog {self._title} is not JSON: {error}.",
                next_step="It may be damaged; open it in its program.",
            ) from error
        except RecursionError as error:
            raise CatalogError(f"The catalog {self._title} is nested too deeply.") from error


@lru_cache(maxsize=256)
def _compiled(selector: str) -> jsonpath.JSONPathQuery:
    try:
        return jsonpath.compile(selector)
    except jsonpath.JSONPathError as error:
        raise CatalogError(
            f"{selector!r} in the guide is not a JSONPath: {error}.", next_step="Correct it; see RFC 9535."
        ) from error
