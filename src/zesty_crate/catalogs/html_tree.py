"""The syntax ``html`` (HTML, the living standard, sections 13.1 and 13.5), selected by XPath 1.0 as XML is.

Tags are read as loosely as people write them, and each knows where it begins. Elements are nested as their tags are: an
end tag closes the nearest element of its name; a paragraph or an item of a list ends where the next begins; what
else is never closed holds what follows.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import cached_property
from html import unescape
from typing import Any

from lxml import etree

from ..guides import HoldingPart
from .html_quoting import BARE, DOUBLE, SINGLE, TEXT
from .model import CatalogError, Cell, Found
from .quoting import QUOTINGS
from .records import Record
from .spans import Room
from .xml_tree import Element, XmlDocument

_VOID = frozenset(
    "area base br col embed hr img input link meta param source track wbr frame keygen command".split()  # noqa: SIM905
)
_RAW = frozenset(("script", "style", "textarea", "title", "xmp", "noembed", "noframes"))  # in which no tag begins
# Elements that end where one of these begins, or where what they are in ends (13.1.2.4, "Optional tags").
_BLOCKS = (
    "address article aside blockquote div dl fieldset figure footer form h1 h2 h3 h4 h5 h6 header hr main nav ol p"
)
_ENDED_BY = {
    "li": frozenset(("li",)),
    "dt": frozenset(("dt", "dd")),
    "dd": frozenset(("dt", "dd")),
    "option": frozenset(("option", "optgroup")),
    "tr": frozenset(("tr",)),
    "td": frozenset(("td", "th", "tr")),
    "th": frozenset(("td", "th", "tr")),
    "p": frozenset(f"{_BLOCKS} pre section table ul".split()),
}
_DEEPEST = 200  # elements within each other; what is deeper is put beside them
_MOST_BROKEN = 1_000  # tags that never end
_WHOLE = -1  # the place of what is around all tags
_LONGEST_TEXT = 4096  # characters that XPath itself may look at
_NAME = re.compile(r"[A-Za-z_][\w.-]*")
_ATTRIBUTE = re.compile(
    r"""[\s/]*+(?P<name>[^\s/>=][^\s/>=]*+)"""
    r"""(?:\s*+=\s*+(?:"(?P<double>[^"]*+)"|'(?P<single>[^']*+)'|(?P<bare>[^\s>"'][^\s>]*+)))?+"""
)
_START = re.compile(
    r"""<([A-Za-z][^\s/>]*+)((?:[\s/]*+[^\s/>=][^\s/>=]*+"""
    r"""(?:\s*+=\s*+(?:"[^"]*+"|'[^']*+'|[^\s>"'][^\s>]*+|(?=>)))?+)*+)[\s/]*+>"""
)
_END = re.compile(r"</([A-Za-z][^\s/>]*+)[^>]*+>")
_QUOTINGS = {"double": DOUBLE, "single": SINGLE, "bare": BARE}


class HtmlDocument(XmlDocument):
    """A page, whose elements know where their start tags are."""

    _kind = "HTML"

    def _read(self, part: HoldingPart) -> Any:  # noqa: ARG002
        self._found = _Builder(self._text)
        if self._found.broken > _MOST_BROKEN:
            raise self._bad("too many of its tags never end")
        if len(self._found.root) == 0:
            raise self._bad("it holds no tags")
        return self._found.root

    @cached_property
    def _places(self) -> dict[int, int]:
        self._elements = list(self._root.iter("*"))  # held, so that each keeps its one identity
        starts = [_WHOLE, *self._found.starts]
        return {id(element): start for element, start in zip(self._elements, starts, strict=True)}

    @cached_property
    def _ends(self) -> dict[int, int]:
        return {_WHOLE: len(self._text), **self._found.ends}

    def values(self) -> Iterator[str]:
        """Of every element its name, its attributes and its texts."""
        for node in self._root.iter("*"):
            yield str(node.tag)
            for pair in node.items():
                yield from map(str, pair)
            yield from (node.text or "", node.tail or "")

    def span_of(self, record: Record) -> tuple[int, int]:
        """An element with all that is in it. Raises `CatalogError` for one that has no end tag of its own."""
        if not isinstance(record, Element):
            raise CatalogError("This is no element.")
        start = self._places[id(record.element)]
        if start not in self._ends:
            raise CatalogError(
                f"An element {record.element.tag} has no end tag, so that nothing tells where it ends.",
                next_step="Choose keep, bring-in or both for this catalog.",
            )
        return start, self._ends[start]

    def _before_end(self, place: int) -> Room | None:
        if place == _WHOLE:
            return Room(len(self._text), len(self._text))
        return super()._before_end(place) if place in self._ends else None

    def _end_of_tag(self, start: int) -> int:
        found = _START.match(self._text, start)
        return found.end() if found else start

    def attribute(self, element: Any, name: str, value: str) -> Found:
        """An attribute's value, with its place."""
        at = self._places[id(element)] + 1 + len(element.tag)
        while match := _ATTRIBUTE.match(self._text, at):
            at = match.end()
            group = match.lastgroup or ""
            if match["name"].lower() != name or group not in _QUOTINGS:
                continue
            raw, quoting = match[group], _QUOTINGS[group]
            cell = Cell("", quoting, match.start(group), len(raw))
            return Found(value, cell if QUOTINGS[quoting].decode(raw) == value else None)
        return Found(value, None)

    def _text_of(self, element: Any) -> Found | None:
        """The text before an element's first child."""
        start, end = self._found.texts.get(id(element), (0, 0))
        text = QUOTINGS[TEXT].decode(self._text[start:end])
        return Found(text, Cell("", TEXT, start, end - start)) if text else None


class _Builder:
    """Builds the tree; ``starts`` are where elements begin, ``texts`` where the text right behind a start tag is."""

    def __init__(self, text: str) -> None:
        self._text = text
        self.root = etree.Element("document")
        self._open = [self.root]
        self._opened = [_WHOLE]
        self.starts: list[int] = []
        self.ends: dict[int, int] = {}  # of those with an end tag of their own, or with nothing inside, by their starts
        self.texts: dict[int, tuple[int, int]] = {}
        self._held: list[Any] = []
        self.broken = 0
        at = 0
        for start, end in self._marks():
            self._add_text(at, start)
            at = end
        self._add_text(at, len(text))

    def _marks(self) -> Iterator[tuple[int, int]]:
        """Where each tag or comment begins and ends; what they are is taken up on the way."""
        text, at = self._text, self._text.find("<")
        while at >= 0 and self.broken <= _MOST_BROKEN:
            end = self._mark(at)
            if end < 0:
                at = text.find("<", at + 1)
                continue
            yield at, end
            self._take(at, end)
            at = text.find("<", end)
            if self._open[-1].tag in _RAW and text[end - 1] == ">":
                close = re.compile(f"</{self._open[-1].tag}[\\s/>]", re.IGNORECASE).search(text, end)
                at = close.start() if close else -1

    def _mark(self, at: int) -> int:
        """Where a tag or comment ends that begins somewhere; -1 where none does."""
        text = self._text
        if text.startswith("<!--", at):
            return self._after("-->", at)
        if text.startswith(("<!", "<?"), at):
            return self._after(">", at)
        self._tag = _START.match(text, at)
        self._ended = None if self._tag else _END.match(text, at)
        found = self._tag or self._ended
        if found is None:
            self.broken += text[at + 1 : at + 2].isalpha()
            return -1
        return found.end()

    def _after(self, mark: str, at: int) -> int:
        found = self._text.find(mark, at)
        return len(self._text) if found < 0 else found + len(mark)

    def _take(self, at: int, end: int) -> None:
        if self._text.startswith(("<!", "<?"), at):
            return
        if self._tag is not None:
            self._begin(self._tag, at, is_closed=self._text[end - 2] == "/" and self._text[end - 3] not in "=")
        elif self._ended is not None:
            self._finish(self._ended[1].lower(), at, end)

    def _begin(self, found: re.Match[str], at: int, *, is_closed: bool) -> None:
        """An element more, in the one that is open."""
        tag = found[1].lower()
        if not _NAME.fullmatch(tag):
            return
        known: dict[str, str] = {}
        for each in _ATTRIBUTE.finditer(found[2]):
            name, raw = each["name"].lower(), each["double"] or each["single"] or each["bare"] or ""
            value = unescape(raw) if "&" in raw else raw
            if name not in known and _NAME.fullmatch(name) and _is_xml(value):
                known[name] = value
        while tag in _ENDED_BY.get(self._open[-1].tag, ()):
            self._end_last(at)
        made = etree.SubElement(self._open[-1], tag, known)
        self.starts.append(at)
        self._held.append(made)
        if is_closed or tag in _VOID:
            self.ends[at] = found.end()
        elif len(self._open) < _DEEPEST:
            self._open.append(made)
            self._opened.append(at)

    def _finish(self, tag: str, at: int, end: int) -> None:
        """The nearest open element of this name ends, with all in it."""
        if tag not in {each.tag for each in self._open[1:]}:
            return
        while self._open[-1].tag != tag:
            self._end_last(at)
        self.ends[self._opened.pop()] = end
        self._open.pop()

    def _end_last(self, at: int) -> None:
        """The innermost open element ends without an end tag; where, is known of those that may."""
        start = self._opened.pop()
        if self._open.pop().tag in _ENDED_BY:
            self.ends[start] = at

    def _add_text(self, start: int, end: int) -> None:
        if start == end:
            return
        inner, text = self._open[-1], ""
        if end - start <= _LONGEST_TEXT:
            raw = self._text[start:end]
            text = QUOTINGS[TEXT].decode(raw) if "&" in raw else raw
            text = text if _is_xml(text) else ""
        if len(inner):
            inner[-1].tail = (inner[-1].tail or "") + text
        elif id(inner) not in self.texts:
            self.texts[id(inner)] = start, end
            inner.text = text


def _is_xml(text: str) -> bool:
    """Whether the tree can hold a text at all."""
    return not re.search("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]", text)
