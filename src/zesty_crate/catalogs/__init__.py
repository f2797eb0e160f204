"""Documents that hold recorded paths: one module a syntax, all behind the same protocol."""

from .changes import read_changes, write_changes
from .json_tree import read_json
from .keyed import read_ini, read_registry
from .lines import Delimited, Lines
from .model import Catalog, CatalogError, Cell, Change, Entry, Group, PathPiece, Proof, Syntax
from .plist_tree import PlistSyntax
from .sqlite import SqliteSyntax
from .text_catalog import TextSyntax
from .xml_tree import XmlDocument

SYNTAXES: dict[str, Syntax] = {
    "sqlite": SqliteSyntax(),
    "xml": TextSyntax(XmlDocument),
    "json": TextSyntax(read_json),
    "plist": PlistSyntax(),
    "lines": TextSyntax(Lines),
    "delimited": TextSyntax(Delimited),
    "ini": TextSyntax(read_ini),
    "reg": TextSyntax(read_registry),
}

__all__ = [
    "SYNTAXES",
    "Catalog",
    "CatalogError",
    "Cell",
    "Change",
    "Entry",
    "Group",
    "PathPiece",
    "Proof",
    "Syntax",
    "read_changes",
    "write_changes",
]
