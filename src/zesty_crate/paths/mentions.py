"""Find places of a computer in any content: native paths, URLs, escaped texts, in UTF-8 and UTF-16.

Only where a path begins is looked for; what comes after it is told up to the end of the text that it stands in.
"""

from __future__ import annotations

import html
import json
import re
from collections.abc import Iterable, Iterator, Sequence
from functools import cached_property
from typing import NamedTuple
from urllib.parse import quote

from .machine_path import MachinePath
from .systems import System

# A separator as it is, doubled by escapes, or percent-encoded.
_SEPARATOR = r"(?:\\{1,4}/?|/|%5[Cc]|%2[Ff])"
# What cannot be part of a path in the texts around: ends of quotes, tags, lines, and what separates list items.
_END = r"[\x00-\x1f\"'<>|*?`]"
_REST = rf"(?:(?!{_END}|\ufffd).){{0,400}}"
_BEFORE = 200


class Mention(NamedTuple):
    """A place of a computer in a content: the text from there on, and what stands before it, to tell the field by."""

    text: str
    before: str


class Mentions:
    """Looks for places of one computer. A drive's anchor stands for every path on it."""

    def __init__(self, places: Sequence[MachinePath]) -> None:
        self._places = places

    def may_be_in(self, content: bytes) -> bool:
        """A quick look: whether it is worth another one."""
        small = content.lower()
        return any(token in small for token in self._tokens)

    def in_bytes(self, content: bytes) -> Iterator[Mention]:
        """The places that a content names, in UTF-8, and in UTF-16 at even and odd bytes."""
        if not self._places or not self.may_be_in(content):
            return
        yield from self.in_text(content.decode("utf-8", "surrogateescape"))
        if any(token.encode("utf-16-le") in content.lower() for token in self.likes):
            for start in (0, 1):
                yield from self.in_text(content[start:].decode("utf-16-le", "replace"))

    def in_texts(self, texts: Iterable[str]) -> Iterator[str]:
        """The places that many short texts name, asked for at once: a mention ends where a line does."""
        if self._places:
            yield from (match.group() for match in self._pattern.finditer("\n".join(texts)))

    def in_text(self, text: str) -> Iterator[Mention]:
        """The places that a text names."""
        for match in self._pattern.finditer(text) if self._places else ():
            yield Mention(match.group(), text[max(0, match.start() - _BEFORE) : match.start()])

    @cached_property
    def likes(self) -> tuple[str, ...]:
        """ASCII texts, in small letters, of which every content that names a place holds one."""
        return tuple(dict.fromkeys(token for place in self._places for token in _tokens(place)))

    @cached_property
    def _tokens(self) -> tuple[bytes, ...]:
        return tuple(form for token in self.likes for form in (token.encode(), token.encode("utf-16-le")))

    @cached_property
    def _pattern(self) -> re.Pattern[str]:
        longest_first = sorted(self._places, key=lambda place: -len(place.parts))
        starts = "|".join(_start(place) for place in longest_first)
        return re.compile(rf"(?:{starts}){_REST}", re.IGNORECASE)


def _tokens(place: MachinePath) -> tuple[str, ...]:
    """Texts of which one is in every spelling of a place: its longest plain name, or what follows a drive letter."""
    names = [name.lower() for name in (*place.parts, *_share(place)) if name.isascii() and name.isalnum()]
    letter = place.root[:1].lower()
    drive = tuple(letter + mark for mark in (":", "%3a", "|")) if place.root[1:] == ":" else ()
    return (max(names, key=len),) if names else drive or ("/", "\\", "%2f", "%5c")


def _share(place: MachinePath) -> tuple[str, ...]:
    return tuple(name for name in place.root.split("\\") if name) if place.root.startswith("\\\\") else ()


def _start(place: MachinePath) -> str:
    """How a path that is in a place begins, in all spellings."""
    names = _SEPARATOR.join(map(_name, (*_share(place), *place.parts)))
    end = rf"(?={_SEPARATOR}|{_END}|\Z)"
    if _share(place):
        return rf"(?<![\w\\/]){_SEPARATOR}{{2,}}{names}{end}|(?<=:){_SEPARATOR}{{2,}}{names}{end}"
    if place.system is System.WINDOWS:
        drive = rf"(?<![A-Za-z0-9]){re.escape(place.root[:1])}(?::|%3[Aa]|\|)"
        return rf"{drive}{_SEPARATOR}{names}{end}" if names else rf"{drive}{_SEPARATOR}(?=[\w.$ (\[-]{{2}})"
    return rf"(?<![\w.~%-]){_SEPARATOR}{names}{end}"


def _name(name: str) -> str:
    """A name as it is, percent-encoded, escaped as in JSON, and escaped as in XML."""
    forms = (
        name,
        quote(name, safe="", errors="surrogateescape"),
        quote(name, safe="!$&'()*+,;=:@-._~", errors="surrogateescape"),
        json.dumps(name)[1:-1],
        html.escape(name, quote=False),
        html.escape(name).replace("&#x27;", "&apos;"),
    )
    return "(?:" + "|".join(re.escape(each) for each in dict.fromkeys(forms)) + ")"
