"""Documents that hold recorded paths: one module a syntax, all behind the same protocol."""

from .changes import read_changes, write_changes
from .model import Catalog, CatalogError, Cell, Change, Entry, Group, PathPiece, Proof, Syntax
from .sqlite import SqliteSyntax

SYNTAXES: dict[str, Syntax] = {"sqlite": SqliteSyntax()}

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
