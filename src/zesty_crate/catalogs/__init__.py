"""Documents that hold recorded paths: one module a syntax, all behind the same protocol."""

from ..guides import HoldingPart
from .changes import read_changes, read_pairs, write_additions, write_changes
from .json_tree import JsonText
from .keyed import read_ini
from .known import NOTHING_KNOWN, Known, Numbered
from .lines import Delimited, Lines
from .model import (
    Addition,
    BriefCatalog,
    BriefTable,
    Catalog,
    CatalogError,
    Cell,
    Change,
    Entry,
    Group,
    GrowingCatalog,
    NewText,
    PathPiece,
    Pointer,
    Proof,
    SweptCatalog,
    Syntax,
    base_of,
)
from .plist_tree import PlistSyntax
from .registry import RegistrySyntax
from .sqlite import SqliteSyntax
from .text_catalog import TextSyntax
from .turtle import TurtleDocument
from .xml_tree import XmlDocument
from .zipped import ZippedSyntax

_SYNTAXES: dict[str, Syntax] = {
    "sqlite": SqliteSyntax(),
    "xml": TextSyntax(XmlDocument),
    "json": TextSyntax(JsonText),
    "plist": PlistSyntax(),
    "lines": TextSyntax(Lines),
    "delimited": TextSyntax(Delimited),
    "ini": TextSyntax(read_ini),
    "reg": RegistrySyntax(),
    "turtle": TextSyntax(TurtleDocument),
}


def syntax_of(part: HoldingPart) -> Syntax:
    """How the catalogs of a holding are read and written."""
    syntax = _SYNTAXES[part.syntax or ""]
    return ZippedSyntax(syntax) if part.inside else syntax


__all__ = [
    "NOTHING_KNOWN",
    "Addition",
    "BriefCatalog",
    "BriefTable",
    "Catalog",
    "CatalogError",
    "Cell",
    "Change",
    "Entry",
    "Group",
    "GrowingCatalog",
    "Known",
    "NewText",
    "Numbered",
    "PathPiece",
    "Pointer",
    "Proof",
    "SweptCatalog",
    "Syntax",
    "base_of",
    "read_changes",
    "read_pairs",
    "syntax_of",
    "write_additions",
    "write_changes",
]
