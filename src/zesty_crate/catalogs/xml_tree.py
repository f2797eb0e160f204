"""The syntax ``xml`` (XML 1.0), selected by XPath 1.0.

lxml selects; expat, which reports where every tag begins, gives the places. The two see the same elements in the same
order. Entities are read as `xml_entities` says, and nothing outside the document ever is.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Iterator
from functools import cached_property, lru_cache
from typing import Any
from xml.parsers import expat

from lxml import etree

from ..guides import EntriesPart, HoldingPart
from .model import CatalogError, Cell, Found
from .quoting import QUOTINGS
from .records import OuterRecord, Record
from .spans import RecordName, Room, SelfStanding
from .text_file import TextFile
from .xml_entities import require_harmless
from .xml_quoting import XmlContentQuoting, content_end
from .xml_tags import characters_of, plain_attribute

_ATTRIBUTE = re.compile(r"""\s+([^\s=/>]+)\s*=\s*(?:"([^"]*)"|'([^']*)')""")
_ANY_ATTRIBUTE = r"""\s+[^\s=/>]+\s*=\s*(?:"[^"]*"|'[^']*')"""
_PIECE = 1 << 20
# "internal": an entity from outside is never read, and what the document declares for itself was looked at before.
SAFE: dict[str, Any] = {
    "encoding": "utf-8",
    "resolve_entities": "internal",
    "no_network": True,
    "load_dtd": False,
    "huge_tree": True,
}
_NAME = re.compile(r"<[^\s/>]+")


class Element(OuterRecord):
    """An element; selectors are XPaths relative to it."""

    __slots__ = ("_document", "_element")

    def __init__(self, document: XmlDocument, element: Any) -> None:
        self._document = document
        self._element = element

    @property
    def element(self) -> Any:
        """The element as the parser has it."""
        return self._element

    def value(self, selector: str) -> Found | None:
        """The first attribute, text or element that is selected; of an element, its text."""
        if name := plain_attribute(selector):  # by far the most frequent, and the same without the machinery
            text = self._element.get(name)
            return None if text is None else self._document.attribute(self._element, name, text)
        found = self._document.evaluate(selector, self._element)
        if isinstance(found, list):
            return self._document.found(found[0]) if found else None
        if isinstance(found, bool):
            return Found("true", None) if found else None
        return Found(str(found), None)

    def text(self, selector: str) -> str | None:
        """The text of a value, without its location."""
        name = plain_attribute(selector)
        return super().text(selector) if not name else self._element.get(name)

    def inside(self, selector: str) -> Iterator[Element]:
        """The elements that a relative XPath selects."""
        return self._document.elements(selector, self._element)


class XmlDocument(SelfStanding):
    """An XML document with the place of each start tag."""

    _kind = "XML"

    def __init__(self, file: TextFile, part: HoldingPart, title: str) -> None:
        self._text = file.text
        self._title = title
        self._namespaces = part.namespaces
        self._part = part
        self._tags: dict[int, str] = {}
        self._xpath = lru_cache(maxsize=256)(self._compiled)
        self._look()

    @property
    def root(self) -> Any:
        """The outermost element as the parser has it."""
        return self._root

    @cached_property
    def _root(self) -> Any:
        return self._read(self._part)

    def _look(self) -> None:
        """Raise `CatalogError` for what cannot be read."""
        _ = self._root

    def _read(self, part: HoldingPart) -> Any:  # noqa: ARG002
        self._require_harmless()
        return self._parsed()

    def _require_harmless(self) -> None:
        require_harmless(self._text, lambda parser: self._parse(parser, self._pieces()), self._bad)

    def _parsed(self) -> Any:
        parser = etree.XMLParser(**SAFE)
        try:
            for piece in self._pieces():
                parser.feed(piece)
            return parser.close()
        except etree.XMLSyntaxError as error:
            raise self._bad(str(error)) from error

    @cached_property
    def _places(self) -> dict[int, int]:
        """The character at which the start tag of each element begins; for what must be written."""
        starts = self._starts(self._text.encode("utf-8", "surrogatepass"))
        self._elements = list(self._root.iter("*"))  # held, so that each keeps its one identity while it is looked up
        if len(self._elements) != len(starts):
            raise self._bad("two parsers disagree about its elements")
        return {id(element): start for element, start in zip(self._elements, starts, strict=True)}

    def span_of(self, record: Record) -> tuple[int, int]:
        """An element with all that is in it."""
        if not isinstance(record, Element):
            raise CatalogError("This is no element.")
        start = self._places[id(record.element)]
        return start, self._ends[start]

    def glue(self, between: str) -> str:
        """What stands between two elements: white space as it is, else a new line."""
        return between if not between.strip() else "\n"

    def written(self, cell: Cell) -> str:
        """A value as it is written, without its marks."""
        return self._text[int(cell.row) : int(cell.row) + cell.length]

    def added(self, name: str, path: tuple[int, int], written: str) -> tuple[int, str] | None:
        """An attribute more, after that of the path."""
        if not plain_attribute(name) or self._text[path[1] : path[1] + 1] not in ('"', "'"):
            return None
        mark = "'" if '"' in written else '"'
        return path[1] + 1, f" {name[1:]}={mark}{written}{mark}"

    def name_of(self, record: Record) -> RecordName | None:  # noqa: ARG002
        """Elements may have names in common."""
        return None

    def names_at(self, container: str) -> Collection[str]:  # noqa: ARG002
        """Elements may have names in common."""
        return ()

    def container_of(self, record: Record) -> str:
        """The start tags of the elements around an element, as they are written; of the outermost its name alone."""
        above = record.element.getparent() if isinstance(record, Element) else None
        return "" if above is None else self._start_tags(above)

    def _start_tags(self, element: Any) -> str:
        place = self._places[id(element)]
        if place not in self._tags:
            above = element.getparent()
            tag = self._text[place : self._end_of_tag(place)].rstrip("/> \n")  # with or without something inside
            self._tags[place] = str(element.tag) if above is None else f"{self._start_tags(above)}{tag}"
        return self._tags[place]

    def place_like(self, record: Record, container: str) -> Room | None:  # noqa: ARG002
        """At the end of the first element with the same start tag, and the same around it."""
        found = next((place for place, each in self._elements_by_place() if self._start_tags(each) == container), None)
        return None if found is None else self._before_end(found)

    def _elements_by_place(self) -> Iterator[tuple[int, Any]]:
        places = self._places
        return ((places[id(each)], each) for each in self._elements)

    def room(self, each: str, within: OuterRecord | None) -> Room | None:
        """Before the end of the element in which an XPath selects."""
        outer, slash, last = each.rpartition("/")
        if "[" in last or outer.endswith("/") or (within is None and not outer):
            return None
        start = within.element if isinstance(within, Element) else self._root.getroottree()
        found = next(self.elements(outer if slash else ".", start), None)
        return None if found is None else self._before_end(self._places[id(found.element)])

    def _before_end(self, place: int) -> Room | None:
        """Before the end tag of an element that begins at a place."""
        end = self._ends[place]
        if self._text[end - 2] == "/":
            named = _NAME.match(self._text, place)
            return Room(end - 2, end, ">", f"</{named.group()[1:]}>" if named else "")
        at = self._text.rindex("</", 0, end)
        return Room(at, at)

    def placed_outer(self, each: str) -> Iterator[Element]:
        """The elements that an XPath selects, to look inside; each knows its place."""
        return self.outer(each)

    @cached_property
    def _ends(self) -> dict[int, int]:
        """The character after each element, by the one at which it begins."""
        source, ends, open_at = self._text.encode("utf-8", "surrogatepass"), dict[int, int](), list[int]()
        parser, character = expat.ParserCreate(encoding="utf-8"), characters_of(source)
        starts = iter(sorted(self._places.values()))

        def begin(_name: str, _attributes: dict[str, str]) -> None:
            open_at.append(next(starts))

        def end(_name: str) -> None:
            at, start = character(parser.CurrentByteIndex), open_at.pop()
            tag = self._end_of_tag(start)
            ends[start] = tag if self._text[tag - 2] == "/" else self._text.index(">", at) + 1

        parser.StartElementHandler, parser.EndElementHandler = begin, end
        self._parse(parser, [source])
        return ends

    def _end_of_tag(self, start: int) -> int:
        match = _NAME.match(self._text, start)
        at = match.end() if match else start
        while attribute := _ATTRIBUTE.match(self._text, at):
            at = attribute.end()
        return self._text.index(">", at) + 1

    @property
    def is_empty(self) -> bool:
        """Whether the root has no element inside."""
        return next(self._root.iterchildren("*"), None) is None

    def select(self, part: EntriesPart) -> Iterator[Element]:
        """The elements that an XPath selects."""
        return self.outer(part.each)

    def outer(self, each: str) -> Iterator[Element]:
        """The same, to look inside."""
        return self.elements(each, self._root.getroottree())

    def evaluate(self, selector: str, start: Any) -> Any:
        """What an XPath comes to from an element or the whole tree."""
        try:
            return self._xpath(selector)(start)
        except etree.XPathError as error:
            raise _no_xpath(selector, error) from error

    def elements(self, selector: str, start: Any) -> Iterator[Element]:
        """The elements that an XPath selects from an element or the whole tree."""
        found = self.evaluate(selector, start)
        if not isinstance(found, list):
            raise CatalogError(
                f"The XPath {selector!r} in the guide does not select elements.", next_step="Correct it."
            )
        return (Element(self, element) for element in found if isinstance(getattr(element, "tag", None), str))

    def found(self, selected: Any) -> Found | None:
        """What was selected, with its place where it has one of its own."""
        if isinstance(selected, etree._Element):
            return self._text_of(selected)
        if getattr(selected, "is_attribute", False):
            return self.attribute(selected.getparent(), selected.attrname, str(selected))
        if getattr(selected, "is_text", False):
            return self._text_of(selected.getparent())
        return Found(str(selected), None)

    def attribute(self, element: Any, name: str, value: str) -> Found:
        """An attribute's value, with its place."""
        return self.attribute_at(self._places[id(element)], name.rpartition("}")[2], value)

    def attribute_at(self, place: int, local: str, value: str) -> Found:
        """The same of the element that begins at a place; the name without its namespace."""
        quoting, start, length = self.place_of(place, local, value)
        return Found(value, Cell("", quoting, start, length) if quoting else None)

    def place_of(self, place: int, local: str, value: str) -> tuple[str, int, int]:
        """How the value is quoted, where it begins, and its length; without a quoting where it has no place."""
        if match := _tag_with(local).match(self._text, place):
            group, quoting = (1, "xml-double") if match[1] is not None else (2, "xml-single")
            raw = match[group]
            if raw == value or QUOTINGS[quoting].decode(raw) == value:
                return quoting, match.start(group), len(raw)
        return self._other_place(place, local, value)

    def _other_place(self, place: int, local: str, value: str) -> tuple[str, int, int]:
        """The same where the first of this name has another value: it is of another namespace."""
        at = self._after_name(place)
        while match := _ATTRIBUTE.match(self._text, at):
            at = match.end()
            if match.group(1).rpartition(":")[2] != local:
                continue
            group, quoting = (2, "xml-double") if match.group(2) is not None else (3, "xml-single")
            if QUOTINGS[quoting].decode(match.group(group)) == value:
                return quoting, match.start(group), len(match[group])
        return "", 0, 0

    def _text_of(self, element: Any) -> Found | None:
        """The text before an element's first child."""
        content = _content_of(element)
        if not content:
            return None
        at = self._after_name(self._places[id(element)])
        while match := _ATTRIBUTE.match(self._text, at):
            at = match.end()
        start = self._text.index(">", at) + 1
        end = content_end(self._text, start)
        name = XmlContentQuoting.name if "<" in self._text[start:end] else "xml-text"
        if QUOTINGS[name].decode(self._text[start:end]) == content:
            return Found(content, Cell("", name, start, end - start))
        return Found(content, None)

    def _after_name(self, place: int) -> int:
        match = _NAME.match(self._text, place)
        if match is None:
            raise self._bad("a start tag is not where the parser reported it")
        return match.end()

    def _starts(self, source: bytes) -> list[int]:
        """The character at which each start tag begins, in the order of the document."""
        starts: list[int] = []
        parser, character = expat.ParserCreate(encoding="utf-8"), characters_of(source)
        parser.StartElementHandler = lambda *_: starts.append(character(parser.CurrentByteIndex))
        self._parse(parser, [source])
        return starts

    def _pieces(self) -> Iterator[bytes]:
        """The text by pieces, so that it is not held a second time as a whole."""
        for at in range(0, len(self._text), _PIECE):
            yield self._text[at : at + _PIECE].encode("utf-8", "surrogatepass")

    def _parse(self, parser: expat.XMLParserType, pieces: Iterable[bytes]) -> None:
        try:
            for piece in pieces:
                parser.Parse(piece, False)  # noqa: FBT003  expat takes no name for it
            parser.Parse(b"", True)  # noqa: FBT003
        except expat.ExpatError as error:
            raise self._bad(str(error)) from error

    def _compiled(self, selector: str) -> etree.XPath:
        try:
            return etree.XPath(selector, namespaces=self._namespaces or None)
        except etree.XPathError as error:
            raise _no_xpath(selector, error) from error

    def _bad(self, why: str) -> CatalogError:
        return CatalogError(
            f"The catalog {self._title} cannot be read as {self._kind}: {why}.",
            next_step="It may be damaged; open it in its program on the old computer.",
        )


def _no_xpath(selector: str, error: Exception) -> CatalogError:
    step = "Correct it; see XPath 1.0. Prefixes are declared with namespaces = { ... }."
    return CatalogError(f"{selector!r} in the guide is not an XPath: {error}.", next_step=step)


@lru_cache(maxsize=256)
def _tag_with(name: str) -> re.Pattern[str]:
    """A start tag up to the first attribute of this name, whatever its prefix."""
    wanted = rf"""\s+(?:[^\s=/>:]+:)?{re.escape(name)}\s*=\s*(?:"([^"]*)"|'([^']*)')"""
    return re.compile(rf"<[^\s/>]+(?:{_ANY_ATTRIBUTE})*?{wanted}")


def _content_of(element: Any) -> str:
    """The text of an element before its first child, whatever comments are in it."""
    texts = [element.text or ""]
    for child in element:
        if isinstance(child.tag, str):
            break
        texts.append(child.tail or "")
    return "".join(texts)
