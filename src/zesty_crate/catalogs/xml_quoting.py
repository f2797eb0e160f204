"""How XML writes texts: in attributes, plain, in CDATA sections, with comments between (XML 1.0, 2.4 to 2.7, 4.6)."""

from __future__ import annotations

import re
from collections.abc import Callable
from html import unescape
from typing import NamedTuple

from .quoting_units import AnyQuoting, Quoting


def _xml(delimiter: str) -> Callable[[str, str], str | None]:
    names = {"&": "&amp;", "<": "&lt;", '"': "&quot;", "'": "&apos;", "\t": "&#9;", "\n": "&#10;", "\r": "&#13;"}

    def escape(character: str, _: str) -> str | None:
        if character in "&<" or character == delimiter or (character in "\t\n\r" and delimiter):
            return names[character]
        if character == ">" and not delimiter:
            return "&gt;"  # where it ends "]]>" it must be
        if character < " " and character not in "\t\n":
            return names.get(character)
        return character

    return escape


def _xml_read(unit: str) -> str:
    return unescape(unit) if len(unit) > 1 else unit


_XML_UNIT = re.compile(r"&(?:amp|lt|gt|quot|apos|#[0-9]+|#x[0-9A-Fa-f]+);|.", re.DOTALL)
_TEXT = Quoting("xml-text", "&", _XML_UNIT, _xml_read, _xml(""))

_SEGMENT = re.compile(r"<!\[CDATA\[(?P<data>.*?)\]\]>|(?P<text>[^<]+)|<!--.*?-->|<\?.*?\?>", re.DOTALL)


class _Segment(NamedTuple):
    kind: str  # "data", "text", or empty for what is no text
    raw: str
    text: str


def content_end(text: str, start: int) -> int:
    """Where the text of an element ends that begins at ``start``: at its end tag, or at its first child."""
    at = start
    while found := _SEGMENT.match(text, at):
        at = found.end()
    return at


class XmlContentQuoting:
    """The whole content of an element: what is no text stays, and so does text that a new one begins or ends with."""

    name = "xml-content"

    def decode(self, raw: str) -> str:
        """The text in it."""
        return "".join(each.text for each in _segments(raw))

    def rewrite(self, raw: str, new: str) -> str:
        """Another text, written in the first of the places where it differs."""
        segments = _segments(raw)
        places = [number for number, each in enumerate(segments) if each.kind]
        if not places:
            return raw + _TEXT.rewrite("", new)
        written = {number: segments[number].raw for number in places}
        while len(places) > 1 and new.endswith(segments[places[-1]].text):
            new = new.removesuffix(segments[places.pop()].text)
        while len(places) > 1 and new.startswith(segments[places[0]].text):
            new = new.removeprefix(segments[places.pop(0)].text)
        for number in places:
            written[number] = _written(segments[number], new)
            new = ""
        return "".join(written.get(number, each.raw) for number, each in enumerate(segments))


def _segments(raw: str) -> list[_Segment]:
    found = []
    for match in _SEGMENT.finditer(raw):
        kind = match.lastgroup or ""
        text = match[kind] if kind else ""
        found.append(_Segment(kind, match[0], _TEXT.decode(text) if kind == "text" else text))
    return found


def _written(segment: _Segment, text: str) -> str:
    if segment.kind == "text":
        return _TEXT.rewrite(segment.raw, text)
    return f"<![CDATA[{text.replace(']]>', ']]]]><![CDATA[>')}]]>"


XML_QUOTINGS: tuple[AnyQuoting, ...] = (
    _TEXT,
    Quoting("xml-double", "&", _XML_UNIT, _xml_read, _xml('"')),
    Quoting("xml-single", "&", _XML_UNIT, _xml_read, _xml("'")),
    XmlContentQuoting(),
)
