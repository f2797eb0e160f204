"""Each syntax by its name in guides. Its module is imported when it is asked for: no command reads all of them."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from typing import Any

from ..guides import HoldingPart
from .model import CatalogError, Syntax
from .text_catalog import Reader, TextSyntax
from .zipped import ZippedSyntax

_TEXTS = {
    "xml": ("xml_tree", "XmlDocument"),
    "json": ("json_text", "JsonText"),
    "lines": ("lines", "Lines"),
    "delimited": ("lines", "Delimited"),
    "ini": ("keyed", "read_ini"),
    "turtle": ("turtle", "TurtleDocument"),
    "plist": ("plist_tree", "XmlPlist"),
    "reg": ("keyed", "read_registry"),
}
_OTHERS = {  # which have other forms than texts, too
    "sqlite": ("sqlite", "SqliteSyntax"),
    "plist": ("plist_tree", "PlistSyntax"),
    "reg": ("registry", "RegistrySyntax"),
}


def syntax_of(part: HoldingPart) -> Syntax:
    """How the catalogs of a holding are read and written."""
    syntax = _syntax(part.syntax or "")
    return ZippedSyntax(syntax) if part.inside else syntax


def reader_of(part: HoldingPart) -> Reader:
    """What reads the records of a text. Raises `CatalogError` for a syntax that is no text by itself."""
    if part.syntax not in _TEXTS or part.inside:
        raise CatalogError(
            f"Catalogs in {part.syntax}{' inside another file' if part.inside else ''} cannot be merged."
        )
    reader: Reader = _imported(*_TEXTS[part.syntax])
    return reader


@cache
def _syntax(name: str) -> Syntax:
    if name not in _OTHERS:
        return TextSyntax(_imported(*_TEXTS[name]))
    syntax: Syntax = _imported(*_OTHERS[name])()
    return syntax


def _imported(module: str, name: str) -> Any:
    return getattr(import_module(f".{module}", __package__), name)
