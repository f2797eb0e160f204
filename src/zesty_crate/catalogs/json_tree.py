"""The syntax ``json`` (RFC 8259), selected by JSONPath (RFC 9535), and the tree that property lists share with it."""

from __future__ import annotations

import json
import json.decoder
import json.scanner
import re
from collections.abc import Iterator
from functools import cached_property, lru_cache
from typing import Any

import jsonpath_rfc9535 as jsonpath

from ..guides import EntriesPart, HoldingPart
from .model import CatalogError, Cell
from .records import Found, OuterRecord
from .text_file import TextFile

_MEMBER = re.compile("[A-Za-z_][A-Za-z0-9_]*")


class Placed(str):
    """A text that knows where it stands."""

    __slots__ = ("cell",)
    cell: Cell

    @classmethod
    def at(cls, text: str, cell: Cell) -> Placed:
        """A text at a place."""
        placed = cls(text)
        placed.cell = cell
        return placed


class _PlacingDecoder(json.JSONDecoder):
    """Reads JSON into the usual values, but for texts, which know their place."""

    def __init__(self) -> None:
        super().__init__()
        self.parse_string = self._placed
        # The library's own scanner in Python, which calls parse_string; its type stubs leave it out.
        self.scan_once = json.scanner.py_make_scanner(self)  # type: ignore[attr-defined]

    @staticmethod
    def _placed(text: str, start: int, strict: bool = True) -> tuple[Placed, int]:
        # Also of the library itself, and left out of its stubs.
        value, after = json.decoder.scanstring(text, start, strict)  # type: ignore[attr-defined]
        return Placed.at(value, Cell("", "json", start, after - 1 - start)), after


class Node(OuterRecord):
    """A value of a tree; selectors are JSONPaths relative to it, with or without the leading ``$``."""

    __slots__ = ("_value",)

    def __init__(self, value: Any) -> None:
        self._value = value

    def value(self, selector: str) -> Found | None:
        """The first value that is selected: a text with its place, or a number or truth as text."""
        if _MEMBER.fullmatch(selector):  # by far the most frequent, and the same without the machinery
            return _found(self._value.get(selector)) if isinstance(self._value, dict) else None
        relative = selector if selector.startswith("$") else f"$.{selector}"
        found = (_found(node.value) for node in _compiled(relative).find(self._value))
        return next((each for each in found if each is not None), None)

    def inside(self, selector: str) -> Iterator[Node]:
        """The values that a relative JSONPath selects."""
        relative = selector if selector.startswith("$") else f"$.{selector}"
        return (Node(node.value) for node in _compiled(relative).find(self._value))


def _found(value: object) -> Found | None:
    if isinstance(value, Placed):
        return Found(str(value), value.cell)
    if isinstance(value, bool):
        return Found("true", None) if value else None
    return Found(str(value), None) if isinstance(value, str | int | float) else None


class Tree:
    """A document that is a tree of lists and dictionaries."""

    def __init__(self, root: Any) -> None:
        self._root = root

    def select(self, part: EntriesPart) -> Iterator[Node]:
        """The values that an absolute JSONPath selects."""
        return self.outer(part.each)

    def outer(self, each: str) -> Iterator[Node]:
        """The same, to look inside."""
        return (Node(node.value) for node in _compiled(each).find(self._root))


class JsonText:
    """A JSON text. It is read by the library's own quick reader, and by a slower one once places are asked for."""

    def __init__(self, file: TextFile, part: HoldingPart, title: str) -> None:  # noqa: ARG002  one form for every reader
        self._text = file.text
        self._title = title
        self._plain: Tree | None = self._read(json.JSONDecoder())

    def select(self, part: EntriesPart) -> Iterator[Node]:
        """The values that an absolute JSONPath selects, with their places."""
        return self._placed.select(part)

    def told(self, part: EntriesPart) -> Iterator[Node]:
        """The same, of which only texts may be asked."""
        return self.outer(part.each)

    def outer(self, each: str) -> Iterator[Node]:
        """The same, to look inside."""
        if self._plain is None:
            self._plain = self._read(json.JSONDecoder())
        return self._plain.outer(each)

    @cached_property
    def _placed(self) -> Tree:
        self._plain = None  # so that it is not held twice
        return self._read(_PlacingDecoder())

    def _read(self, decoder: json.JSONDecoder) -> Tree:
        """Raises `CatalogError` when it is no JSON, or nested too deep."""
        try:
            return Tree(decoder.decode(self._text))
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
