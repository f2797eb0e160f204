"""Each syntax by its name in guides. Its module is imported when it is asked for: no command reads all of them."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from typing import Any

from ..guides import HoldingPart
from .model import Syntax
from .text_catalog import TextSyntax
from .zipped import ZippedSyntax

_TEXTS = {
    "xml": ("xml_tree", "XmlDocument"),
    "json": ("json_tree", "JsonText"),
    "lines": ("lines", "Lines"),
    "delimited": ("lines", "Delimited"),
    "ini": ("keyed", "read_ini"),
    "turtle": ("turtle", "TurtleDocument"),
}
_OTHERS = {
    "sqlite": ("sqlite", "SqliteSyntax"),
    "plist": ("plist_tree", "PlistSyntax"),
    "reg": ("registry", "RegistrySyntax"),
}


def syntax_of(part: HoldingPart) -> Syntax:
    """How the catalogs of a holding are read and written."""
    syntax = _syntax(part.syntax or "")
    return ZippedSyntax(syntax) if part.inside else syntax


@cache
def _syntax(name: str) -> Syntax:
    if name in _TEXTS:
        return TextSyntax(_imported(*_TEXTS[name]))
    syntax: Syntax = _imported(*_OTHERS[name])()
    return syntax


def _imported(module: str, name: str) -> Any:
    return getattr(import_module(f".{module}", __package__), name)
