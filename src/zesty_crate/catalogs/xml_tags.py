"""The elements of an XML document by their start tags alone, where no more is asked of them than attributes.

expat tells of each start tag, of what it says and where it begins; nothing of the document is held.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, NamedTuple
from xml.parsers import expat

from ..guides import EntriesPart

_PIECE = 1 << 18
_PLAIN_ATTRIBUTE = re.compile("@[A-Za-z_][A-Za-z0-9_.-]*")
_CONDITION = re.compile(r"\[@([A-Za-z_][\w.-]*)(?:\s*=\s*'([^']*)')?\]")


class StartTag(NamedTuple):
    """A start tag: the byte at which it begins, in UTF-8, and its attributes."""

    at: int
    attributes: dict[str, str]


@dataclass(frozen=True, slots=True)
class Way:
    """The way to elements: names as lxml has them, ``anywhere`` or from the root, and conditions of an XPath."""

    steps: list[str]
    condition: str
    anywhere: bool


def tells_all(way: Way, part: EntriesPart) -> bool:
    """Whether start tags tell all that is asked: conditions and selectors are attributes without a namespace."""
    selectors = (*(piece.at or "" for piece in part.path), *part.key_selectors, *part.annotations)
    asked = (*selectors, part.size) if part.size else selectors
    return all(map(plain_attribute, asked)) and not _CONDITION.sub("", way.condition)


def start_tags(way: Way, source: bytes) -> Iterator[StartTag]:
    """The tags of these elements in a document in UTF-8, in its order.

    Raises `ExpatError` where it is no XML, or has a prefix that it does not declare.
    """
    conditions = [(each[1], each[2]) for each in _CONDITION.finditer(way.condition)]
    found: list[StartTag] = []
    parser = expat.ParserCreate(encoding="utf-8", namespace_separator="}")
    _note(parser, way, found)
    for at in range(0, len(source), _PIECE):
        parser.Parse(source[at : at + _PIECE], False)  # noqa: FBT003  expat takes no name for it
        yield from (each for each in found if _has(each.attributes, conditions)) if conditions else found
        found.clear()
    parser.Parse(b"", True)  # noqa: FBT003


def _note(parser: Any, way: Way, found: list[StartTag]) -> None:
    """Have a parser note the tags on a way."""
    names, around = [each.removeprefix("{") for each in way.steps], list[str]()  # as expat has them
    wanted = names[-1]

    def note(name: str, attributes: dict[str, str]) -> None:
        if name == wanted:
            found.append(StartTag(parser.CurrentByteIndex, attributes))

    def note_on_way(name: str, attributes: dict[str, str]) -> None:
        around.append(name)
        if name == wanted and around == names:
            found.append(StartTag(parser.CurrentByteIndex, attributes))

    if way.anywhere:
        parser.StartElementHandler = note
    else:
        parser.StartElementHandler, parser.EndElementHandler = note_on_way, lambda _: around.pop()


def _has(attributes: dict[str, str], conditions: list[tuple[str, str | None]]) -> bool:
    return all(name in attributes if value is None else attributes.get(name) == value for name, value in conditions)


@lru_cache(maxsize=256)
def plain_attribute(selector: str) -> str:
    """The name of the attribute, where a selector is no more than that."""
    return selector[1:] if _PLAIN_ATTRIBUTE.fullmatch(selector) else ""


def has_inner_element(pieces: Iterator[bytes]) -> bool:
    """Whether there is an element in the outermost one. Raises `ExpatError`."""
    seen = 0

    def note(_name: str, _attributes: object) -> None:
        nonlocal seen
        seen += 1
        if seen > 1:
            raise StopIteration

    parser = expat.ParserCreate(encoding="utf-8")
    parser.StartElementHandler = note
    try:
        for piece in pieces:
            parser.Parse(piece, False)  # noqa: FBT003
        parser.Parse(b"", True)  # noqa: FBT003
    except StopIteration:  # the rest need not be read
        return True
    return False


def characters_of(source: bytes) -> Callable[[int], int]:
    """What tells the character that begins at a byte of a text in UTF-8; to be asked in the order of the text."""
    if source.isascii():
        return int
    seen = characters = 0

    def character(at: int) -> int:
        nonlocal seen, characters
        characters += len(source[seen:at].decode("utf-8", "surrogatepass"))
        seen = at
        return characters

    return character
