"""The elements of a large XML document one after the other, each with its places, while no more than one is held.

lxml parses piece by piece and lets go of each element after it was told; expat tells beforehand where the start tags
of these elements are, and of what is in them.
"""

from __future__ import annotations

import re
from array import array
from collections.abc import Iterable, Iterator, Mapping
from contextlib import suppress
from typing import Any
from xml.parsers import expat

from lxml import etree

from ..guides import EntriesPart, HoldingPart
from .model import Found
from .path_texts import PathText
from .records import Record
from .xml_tags import StartTag, Way, characters_of, has_inner_element, plain_attribute, start_tags, tells_all
from .xml_tree import SAFE, Element, XmlDocument

_NAME = r"(?:[A-Za-z_][\w.-]*:)?[A-Za-z_][\w.-]*"
_EACH = re.compile(rf"(?P<steps>//{_NAME}|(?:/{_NAME})+)(?P<condition>(?:\[@?{_NAME}(?:\s*=\s*'[^']*')?\])*)")
_LOOKS_OUT = re.compile(r"\.\.|::|(?<![\w.\]*)/])\s*/|\bid\(|\bposition\(|\blast\(")


class Streamed:
    """Which elements of an XPath are to be streamed: those of one name, anywhere or by one way from the root."""

    def __init__(self, way: Way) -> None:
        self.name = way.steps[-1]
        self._way = way
        self.condition = f"boolean(self::*{way.condition})" if way.condition else ""

    def has(self, element: Any) -> bool:
        """Whether an element of this name is one of them, but for the condition."""
        if self._way.anywhere:
            return True
        return [element.tag, *(each.tag for each in element.iterancestors())] == self._way.steps[::-1]


def way_of(part: EntriesPart, namespaces: Mapping[str, str]) -> Way | None:
    """The way to the elements of an entries part; None where its selectors may look at more than one and its inside."""
    found = _EACH.fullmatch(part.each)
    selectors = (*(piece.at or "" for piece in part.path), *part.key_selectors, part.size or "", *part.annotations)
    if found is None or any(map(_LOOKS_OUT.search, selectors)):
        return None
    names = [each for each in found["steps"].split("/") if each]
    if any(prefix and prefix not in namespaces for prefix, _, _ in (each.rpartition(":") for each in names)):
        return None
    steps = [_full(each, namespaces) for each in names]
    return Way(steps, found["condition"], anywhere=found["steps"].startswith("//"))


def _full(name: str, namespaces: Mapping[str, str]) -> str:
    prefix, _, local = name.rpartition(":")
    return f"{{{namespaces[prefix]}}}{local}" if prefix else local


def starts_in(name: str, source: bytes) -> array[int] | None:
    """The bytes at which elements of a name begin, and those in them; None where one is within another.

    Raises `ExpatError` where it is no XML.
    """
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
    parser.Parse(source, True)  # noqa: FBT003  expat takes no name for it
    return None if is_nested else starts


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


class Tag(Record):
    """An element by its start tag; selectors are its attributes."""

    __slots__ = ("_attributes", "_document", "_start")

    def __init__(self, document: XmlDocument, start: int, attributes: Mapping[str, str]) -> None:
        self._document = document
        self._start = start
        self._attributes = attributes

    def value(self, selector: str) -> Found | None:
        """An attribute, with its place."""
        name = plain_attribute(selector)
        text = self._attributes.get(name)
        return None if text is None else self._document.attribute_at(self._start, name, text)

    def text(self, selector: str) -> str | None:
        """The text of an attribute."""
        return self._attributes.get(plain_attribute(selector))


class TagTexts:
    """An attribute of each element on a way, with its place. See `PathTexts`."""

    def __init__(self, document: XmlText, way: Way, at: str) -> None:
        self._document = document
        self._way = way
        self._name = plain_attribute(at)
        self._tag = StartTag(0, {})

    def records(self) -> Iterator[Tag]:
        """The elements instead."""
        return (Tag(self._document, *each) for each in self._document.tags(self._way))

    def __iter__(self) -> Iterator[PathText | None]:
        name, place_of = self._name, self._document.place_of
        for tag in self._document.tags(self._way):
            self._tag = tag
            start, attributes = tag
            text = attributes.get(name)
            yield (text, *place_of(start, name, text)) if text else None

    def record(self) -> Tag:
        """The element of the last one."""
        return Tag(self._document, *self._tag)


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

    @property
    def is_empty(self) -> bool:
        """Whether the root has no element inside."""
        if not self.holds_all:
            with suppress(expat.ExpatError):
                return not has_inner_element(self._pieces())
        return super().is_empty

    def told(self, part: EntriesPart) -> Iterator[Record]:
        """The elements of an entries part, which are asked for no more than its guide says."""
        tags = self.path_texts(part)
        return self.select(part) if tags is None else tags.records()

    def path_texts(self, part: EntriesPart) -> TagTexts | None:
        """The paths, where start tags say all that is asked for; a declared type may say more of attributes."""
        way = None if self.holds_all else way_of(part, self._namespaces)
        if way is None or not tells_all(way, part) or "<!DOCTYPE" in self._text:
            return None
        return TagTexts(self, way, part.path[0].at or "")

    def tags(self, way: Way) -> Iterator[StartTag]:
        """The start tags on a way, each with the character at which it begins."""
        source = self._text.encode("utf-8", "surrogatepass")
        tags = start_tags(way, source)
        try:
            if source.isascii():
                yield from tags
                return
            character = characters_of(source)
            yield from (StartTag(character(at), attributes) for at, attributes in tags)
        except expat.ExpatError as error:
            raise self._bad(str(error)) from error

    def select_paths(self, part: EntriesPart) -> Iterator[Record]:
        """The same, each of which may be asked for what is in it until the next one comes."""
        way = None if self.holds_all else way_of(part, self._namespaces)
        if way is None:
            return self.select(part)
        wanted, source = Streamed(way), self._text.encode("utf-8", "surrogatepass")
        try:
            starts = starts_in(wanted.name, source)
        except expat.ExpatError as error:
            raise self._bad(str(error)) from error
        return self.select(part) if starts is None else self._streamed(wanted, starts, source)

    def _streamed(self, wanted: Streamed, starts: array[int], source: bytes) -> Iterator[Element]:
        places = map(characters_of(source), starts)
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
