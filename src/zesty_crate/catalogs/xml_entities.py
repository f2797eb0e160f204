"""Entities that an XML document declares for itself (XML 1.0, 4.2): harmless ones are read, all others are refused.

Harmless is an internal general entity that holds text alone, is not long, and is not used so often that the document
would grow beyond measure. Entities from outside the document and those of its own declarations are refused.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from xml.parsers import expat

_MOST_CHARACTERS = 4_096  # of one entity
_MOST_GROWTH = 16 << 20  # characters that all uses together add
_USE = re.compile(r"&([^\W\d][\w.:-]*);")
_GIVEN = {"lt", "gt", "amp", "apos", "quot"}

Refuse = Callable[[str], Exception]
Parse = Callable[[expat.XMLParserType], None]


def require_harmless(text: str, parse: Parse, refuse: Refuse) -> None:
    """Look at all entities that ``text`` declares, before any is used. Raises what ``refuse`` makes of a reason.

    ``parse`` has a parser read the text from its beginning.
    """
    if "<!ENTITY" not in text:
        return
    declared: dict[str, str] = {}

    def note(name: str, is_parameter: int, value: str | None, *_: object) -> None:
        if is_parameter or value is None:
            raise refuse("it declares entities from outside or for its own declarations, which are not read")
        if "<" in value or "&#60;" in value or "&#x3c;" in value.lower():
            raise refuse(f"its entity {name!r} holds elements, which is not supported")
        declared.setdefault(name, value)  # the first declaration counts (XML 1.0, 4.2)

    def judge() -> None:
        lengths: dict[str, int] = {}
        for name in declared:
            if _length(name, declared, lengths, ()) > _MOST_CHARACTERS:
                raise refuse(f"its entity {name!r} stands for more than {_MOST_CHARACTERS:,} characters or for itself")
        if sum(lengths.get(use, 0) for use in _uses(text)) > _MOST_GROWTH:
            raise refuse("the entities that it uses would make it grow beyond measure")

    parser = expat.ParserCreate(encoding="utf-8")
    parser.EntityDeclHandler = note
    parser.EndDoctypeDeclHandler = judge
    parse(parser)


def _length(name: str, declared: dict[str, str], lengths: dict[str, int], inside: tuple[str, ...]) -> int:
    """How many characters an entity stands for in the end; more than is allowed for one that is inside itself."""
    if name in inside:
        return _MOST_CHARACTERS + 1
    if name not in lengths:
        value = declared[name]
        inner = (use for use in _uses(value) if use in declared)
        total = len(value)
        for each in inner:
            total += _length(each, declared, lengths, (*inside, name))
            if total > _MOST_CHARACTERS:
                break
        lengths[name] = total
    return lengths[name]


def _uses(text: str) -> Iterable[str]:
    return (name for name in _USE.findall(text) if name not in _GIVEN)
