"""Each syntax by its name in guides, and what it may be inside of. A module is imported when it is asked for."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from typing import Any

from ..guides import HoldingPart, LayerPart
from .containers import ContainedSyntax, Layer
from .model import CatalogError, Syntax
from .text_syntax import Reader, TextSyntax

_TEXTS = {
    "xml": ("xml_stream", "XmlText"),
    "html": ("html_tree", "HtmlDocument"),
    "json": ("json_text", "JsonText"),
    "json-lines": ("json_text", "JsonText"),
    "lines": ("lines", "Lines"),
    "delimited": ("lines", "Delimited"),
    "ini": ("keyed", "read_ini"),
    "properties": ("keyed", "read_properties"),
    "toml": ("toml_tree", "TomlText"),
    "yaml": ("yaml_tree", "YamlText"),
    "turtle": ("turtle", "TurtleDocument"),
    "plist": ("plist_tree", "XmlPlist"),
    "reg": ("keyed", "read_registry"),
    "tagged": ("tagged", "TaggedDocument"),
}
_VALUES = {"xml": ("xml_values", "xml_values")}  # what reads all values without holding a document
_READ_AS_IT_GOES = ("lines", "delimited")
_OTHERS = {  # which have other forms than texts, too
    "sqlite": ("sqlite", "SqliteSyntax"),
    "plist": ("plist_tree", "PlistSyntax"),
    "reg": ("registry", "RegistrySyntax"),
    "tagged": ("tagged", "TaggedSyntax"),
}

_LAYERS = {
    "gzip": ("streams", "Gzip"),
    "zlib": ("streams", "Zlib"),
    "base64": ("streams", "Base64"),
    "zip": ("zip_members", "ZipMembers"),
    "tar": ("tar_members", "TarMembers"),
    "column": ("values", "ColumnValues"),
    "text": ("values", "TextValues"),
}


def syntax_of(part: HoldingPart) -> Syntax:
    """How the catalogs of a holding are read and written."""
    return contained_syntax(part) if part.inside else _syntax(part.syntax or "")


def contained_syntax(part: HoldingPart) -> ContainedSyntax:
    """How the catalogs of a holding are taken out of what they are inside, and put back."""
    inner, layers = _syntax(part.syntax or ""), tuple(_layer(each) for each in part.inside)
    holder = _syntax("sqlite") if part.inside[0].syntax == "sqlite" else _syntax("json")  # any text is copied as it is
    return ContainedSyntax(inner, layers, holder, several=any(each.may_hold_several for each in part.inside))


def _layer(part: LayerPart) -> Layer:
    if part.values is None:
        return _made(part.kind, part.name) if part.name else _made(part.kind)
    if part.syntax == "sqlite":
        return _made("column", part.values.entries[0])
    return _made("text", part.values, reader_of(part.values))


def _made(kind: str, *given: object) -> Layer:
    module, name = _LAYERS[kind]
    layer: Layer = _imported(f"containers.{module}", name)(*given)
    return layer


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
        values = _imported(*_VALUES[name]) if name in _VALUES else None
        return TextSyntax(_imported(*_TEXTS[name]), values, reads_as_it_goes=name in _READ_AS_IT_GOES)
    syntax: Syntax = _imported(*_OTHERS[name])()
    return syntax


def _imported(module: str, name: str) -> Any:
    return getattr(import_module(f".{module}", __package__), name)
