"""The elements of a large XML document one after the other, each with its places, while no more than one is held.

lxml parses piece by piece and lets go of each element after it was told; expat tells beforehand where the start tags
of these elements are, and of what is in them.
"""

from __future__ import annotations

import re
from array import array
from collections.abc import Callable, Iterable, Iterator, Mapping
from typing import Any
from xml.parsers import expat

from lxml import etree

from ..guides import EntriesPart, HoldingPart
from .xml_tree import SAFE, Element, XmlDocument

_NAME = r"(?:[A-Za-z_][\w.-]*:)?[A-Za-z_][\w.-]*"
_EACH = re.compile(rf"(?P<steps>//{_NAME}|(?:/{_NAME})+)(?P<condition>(?:\[@?{_NAME}(?:\s*=\s*'[^']*')?\])*)")
_LOOKS_OUT = re.compile(r"\.\.|::|(?<![\w.\]*)/])\s*/|\bid\(|\bposition\(|\blast\(")

Feed = Callable[[expat.XMLParserType, Iterable[bytes]], None]


class Streamed:
    """Which elements of an XPath are to be streamed: those of one name, anywhere or by one way from the root."""

    def __init__(self, steps: list[str], condition: str, *, anywhere: bool) -> None:
        """``steps`` are names as lxml has them, with their namespaces."""
        self.name = steps[-1]
        self._way = steps
        self._anywhere = anywhere
        self.condition = f"boolean(self::*{condition})" if condition else ""

    @classmethod
    def of(cls, part: EntriesPart, namespaces: Mapping[str, str]) -> Streamed | None:
        """Those of an entries part; None where its selectors may look at more than one element and what is in it."""
        found = _EACH.fullmatch(part.each)
        selectors = (*(piece.at or "" for piece in part.path), *part.key_selectors, part.size or "", *part.annotations)
        if found is None or any(map(_LOOKS_OUT.search, selectors)):
            return None
        names = [each for each in found["steps"].split("/") if each]
        if any(prefix and prefix not in namespaces for prefix, _, _ in (each.rpartition(":") for each in names)):
            return None
        steps = [_full(each, namespaces) for each in names]
        return cls(steps, found["condition"], anywhere=found["steps"].startswith("//"))

    def has(self, element: Any) -> bool:
        """Whether an element of this name is one of them, but for the condition."""
        if self._anywhere:
            return True
        return [element.tag, *(each.tag for each in element.iterancestors())] == self._way[::-1]


def _full(name: str, namespaces: Mapping[str, str]) -> str:
    prefix, _, local = name.rpartition(":")
    return f"{{{namespaces[prefix]}}}{local}" if prefix else local


def starts_in(name: str, source: bytes, feed: Feed) -> array[int] | None:
    """The bytes at which elements of a name begin, and those in them; None where one is within another."""
    starts, inside, is_nested = array("q"), 0, False
    parser = expat.ParserCreate(encoding="utf-8", namespace_separator="}")
    wanted = name.removeprefix("{")

    def begin(each: str, _attributes: object) -> None:
        nonlocal inside, is_nested
        is_one = each == wanted
        if inside or is_one:
            is_nested = is_nested or bool(inside and is_one)
            starts.append(parser.CurrentByteIndex)
            inside += 1

    def end(_each: str) -> None:
        nonlocal inside
        if inside:
            inside -= 1

    parser.StartElementHandler, parser.EndElementHandler = begin, end
    feed(parser, [source])
    return None if is_nested else starts


def characters_at(places: array[int], source: bytes) -> Iterator[int]:
    """The characters that begin at these bytes of a text in UTF-8, in their order."""
    if source.isascii():
        yield from places
        return
    seen = characters = 0
    for at in places:
        characters += len(source[seen:at].decode("utf-8", "surrogatepass"))
        seen = at
        yield characters


def elements_of(name: str, pieces: Iterable[bytes], options: Mapping[str, Any]) -> Iterator[Any]:
    """The elements of a name, each when it is whole. It is let go of when the next one is asked for."""
    parser = etree.XMLPullParser(events=("end",), tag=name, **options)
    for piece in pieces:
        parser.feed(piece)
        yield from _read(parser)
    parser.close()
    yield from _read(parser)


def _read(parser: Any) -> Iterator[Any]:
    for _, element in parser.read_events():
        yield element
        above = element.getparent()
        element.clear(keep_tail=False)
        while above is not None and element.getprevious() is not None:
            del above[0]


class XmlText(XmlDocument):
    """An XML document whose tree is made only where more is asked than paths."""

    @property
    def holds_all(self) -> bool:
        """Whether the tree was made."""
        return "_root" in self.__dict__

    def _look(self) -> None:
        self._require_harmless()

    def _read(self, part: HoldingPart) -> Any:  # noqa: ARG002  it was looked at before
        return self._parsed()

    def select_paths(self, part: EntriesPart) -> Iterator[Element]:
        """The elements of an entries part, each of which may be asked for what is in it until the next one comes."""
        wanted = None if self.holds_all else Streamed.of(part, self._namespaces)
        source = b"" if wanted is None else self._text.encode("utf-8", "surrogatepass")
        starts = None if wanted is None else starts_in(wanted.name, source, self._parse)
        return self.select(part) if wanted is None or starts is None else self._streamed(wanted, starts, source)

    def _streamed(self, wanted: Streamed, starts: array[int], source: bytes) -> Iterator[Element]:
        places = characters_at(starts, source)
        try:
            for element in elements_of(wanted.name, self._pieces(), SAFE):
                # Held, so that each keeps its one identity.
                self._elements = list(element.iter("*")) if len(element) else [element]
                self._places = {id(each): next(places) for each in self._elements}
                is_one = wanted.has(element) and (not wanted.condition or self.evaluate(wanted.condition, element))
                if is_one:
                    yield Element(self, element)
        except etree.XMLSyntaxError as error:
            raise self._bad(str(error)) from error
        finally:
            self.__dict__.pop("_places", None)
            self._elements = []
