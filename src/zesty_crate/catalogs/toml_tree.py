"""The syntax ``toml`` (TOML 1.0.0), selected by JSONPath.

The standard library reads the values, twice: once as they are, and once with a mark in the place of every string, which
tells where it stands.
"""

from __future__ import annotations

import re
import tomllib
from typing import Any

from ..guides import HoldingPart
from .json_tree import Placed, Tree
from .model import CatalogError, Cell
from .text_file import TextFile

# A string of any of the four kinds, or a comment, in which no string begins.
_STRING = re.compile(
    r'"""(?:[^\\]|\\.)*?"{3,5}|\'\'\'[\s\S]*?\'{3,5}|"(?:[^"\\\r\n]|\\.)*"|\'[^\'\r\n]*\'|(?P<comment>#[^\r\n]*)',
    re.DOTALL,
)
_MARK = "\ue000{}\ue001"
_MARKED = re.compile("\ue000([0-9]+)\ue001")


def read_toml(file: TextFile, part: HoldingPart, title: str) -> Tree:  # noqa: ARG001  one form for every reader
    """The values of a document. Raises `CatalogError`."""
    text = file.text
    try:
        plain = tomllib.loads(text)
        if "\ue000" in text:
            raise CatalogError(f"The catalog {title} holds characters for private use, and cannot be read.")
        spans: list[tuple[int, int]] = []

        def marked(found: re.Match[str]) -> str:
            if found["comment"]:
                return found[0]
            spans.append(found.span())
            return f'"{_MARK.format(len(spans) - 1)}"'

        tree = tomllib.loads(_STRING.sub(marked, text))
    except (tomllib.TOMLDecodeError, RecursionError) as error:
        raise CatalogError(
            f"The catalog {title} is not TOML: {error or 'it is nested too deeply'}.",
            next_step="It may be damaged; open it in its program.",
        ) from error
    texts = [str(tomllib.loads(f"x = {text[start:end]}")["x"]) for start, end in spans]
    placed = _placed(tree, spans, texts)
    if _plain(placed) != _plain(plain):
        raise CatalogError(f"The strings of {title} could not be told from each other.")
    return Tree(placed)


def _placed(value: Any, spans: list[tuple[int, int]], texts: list[str]) -> Any:
    if isinstance(value, dict):
        return {_named(name, spans, texts): _placed(each, spans, texts) for name, each in value.items()}
    if isinstance(value, list):
        return [_placed(each, spans, texts) for each in value]
    if isinstance(value, str) and (found := _MARKED.fullmatch(value)):
        start, end = spans[int(found[1])]
        return Placed.at(texts[int(found[1])], Cell("", "toml", start, end - start))
    return value if isinstance(value, bool | int | float) else str(value)


def _named(name: str, spans: list[tuple[int, int]], texts: list[str]) -> str:
    found = _MARKED.fullmatch(name)
    return _placed(name, spans, texts) if found else name


def _plain(value: Any) -> Any:
    """Values to be compared: a number that is none is not even itself."""
    if isinstance(value, dict):
        return {name: _plain(each) for name, each in value.items()}
    return [_plain(each) for each in value] if isinstance(value, list) else str(value)
