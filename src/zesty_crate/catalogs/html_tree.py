"""The syntax ``html`` (HTML, the living standard, sections 13.1 and 13.5), selected by XPath 1.0 as XML is.

The standard library reads the tags, as loosely as people write them, and tells where each begins. Elements are nested
as their tags are: an end tag closes the nearest element of its name, and what is never closed holds what follows.
"""

from __future__ import annotations

import re
from functools import cached_property
from html.parser import HTMLParser
from typing import Any

from lxml import etree

from ..guides import HoldingPart
from .html_quoting import BARE, DOUBLE, SINGLE, TEXT
from .model import Cell, Found
from .quoting import QUOTINGS
from .xml_tree import XmlDocument

_VOID = frozenset(
    "area base br col embed hr img input link meta param source track wbr frame keygen command".split()  # noqa: SIM905
)
_DEEPEST = 200  # elements within each other; what is deeper is put beside them
_NAME = re.compile(r"[A-Za-z_][\w.-]*")
_ATTRIBUTE = re.compile(
    r"""[\s/]*(?P<name>[^\s/>=][^\s/>=]*)(?:\s*=\s*(?:"(?P<double>[^"]*)"|'(?P<single>[^']*)'|(?P<bare>[^\s>"'][^\s>]*)))?"""
)
_QUOTINGS = {"double": DOUBLE, "single": SINGLE, "bare": BARE}


class HtmlDocument(XmlDocument):
    """A page, whose elements know where their start tags are."""

    _kind = "HTML"

    def _read(self, part: HoldingPart) -> Any:  # noqa: ARG002
        builder = _Builder(self._text)
        builder.feed(self._text)
        builder.close()
        self._found = builder
        if len(builder.root) == 0:
            raise self._bad("it holds no tags")
        return builder.root

    @cached_property
    def _places(self) -> dict[int, int]:
        self._elements = list(self._root.iter("*"))  # held, so that each keeps its one identity
        starts = [0, *self._found.starts]
        return {id(element): start for element, start in zip(self._elements, starts, strict=True)}

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
        if not element.text:
            return None
        start, raw = self._found.texts.get(id(element), (0, ""))
        is_said = bool(raw) and QUOTINGS[TEXT].decode(raw) == element.text
        return Found(element.text, Cell("", TEXT, start, len(raw)) if is_said else None)


class _Builder(HTMLParser):
    """Builds the tree; ``starts`` are where the elements begin, ``texts`` the raw ones right behind start tags."""

    def __init__(self, text: str) -> None:
        super().__init__(convert_charrefs=False)
        self._text = text
        self._lines = [0, *(found.end() for found in re.finditer("\n", text))]
        self.root = etree.Element("document")
        self._open = [self.root]
        self.starts: list[int] = []
        self.texts: dict[int, tuple[int, str]] = {}
        self._held: list[Any] = []

    def _at(self) -> int:
        line, column = self.getpos()
        return self._lines[line - 1] + column

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        """An element more, in the one that is open."""
        if not _NAME.fullmatch(tag):
            return
        known = {name: value or "" for name, value in reversed(attrs) if _NAME.fullmatch(name)}
        made = etree.SubElement(self._open[-1], tag, {n: v for n, v in known.items() if _is_xml(v)})
        self.starts.append(self._at())
        self._held.append(made)
        if tag not in _VOID and len(self._open) < _DEEPEST:
            self._open.append(made)

    def handle_startendtag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        """One that is closed at once."""
        before = len(self._open)
        self.handle_starttag(tag, attrs)
        del self._open[before:]

    def handle_endtag(self, tag: str) -> None:
        """The nearest open element of this name ends, with all in it."""
        for depth in range(len(self._open) - 1, 0, -1):
            if self._open[depth].tag == tag:
                del self._open[depth:]
                return

    def handle_data(self, data: str) -> None:
        """A text as it is written."""
        self._add(data)

    def handle_entityref(self, name: str) -> None:
        """A named character, with the semicolon if it has one."""
        self._add(self._written(f"&{name}"))

    def handle_charref(self, name: str) -> None:
        """A numbered character."""
        self._add(self._written(f"&#{name}"))

    def _written(self, reference: str) -> str:
        return reference + ";" * self._text.startswith(";", self._at() + len(reference))

    def _add(self, raw: str) -> None:
        inner = self._open[-1]
        if len(inner):
            last, text = inner[-1], QUOTINGS[TEXT].decode(raw)
            last.tail = (last.tail or "") + (text if _is_xml(text) else "")
            return
        start, before = self.texts.get(id(inner), (self._at(), ""))
        if start + len(before) != self._at():
            return  # a comment is between
        whole = QUOTINGS[TEXT].decode(before + raw)
        if _is_xml(whole):
            self.texts[id(inner)] = start, before + raw
            inner.text = whole


def _is_xml(text: str) -> bool:
    """Whether the tree can hold a text at all."""
    return not re.search("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]", text)
