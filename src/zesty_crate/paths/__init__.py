"""How systems write paths: parse, compare, translate, spell. Pure: nothing here touches a disk."""

from .errors import PathError, UnclearPathError
from .keys import folded_name, name_key, path_key
from .machine_path import MachinePath
from .mentions import Mention, Mentions
from .names import (
    before_ending,
    escape_name,
    fitting_name,
    length_fault,
    name_fault,
    shortened,
    tell_apart,
    unescape_name,
)
from .native import resolved, with_slashes
from .piece import SpelledPiece, Spelling, Style
from .routes import Route, RouteMap
from .spelling import join_pieces, read_inner, read_path, respell, seems_several, write_piece
from .split_name import Halves, name_splitter, split_name
from .systems import FORMATS, USUAL_FORMAT, Folding, NameRules, System, format_named
from .url import file_url
from .variables import NO_VARIABLES, NamedVolume, Variables

__all__ = [
    "FORMATS",
    "NO_VARIABLES",
    "USUAL_FORMAT",
    "Folding",
    "Halves",
    "MachinePath",
    "Mention",
    "Mentions",
    "NameRules",
    "NamedVolume",
    "PathError",
    "Route",
    "RouteMap",
    "SpelledPiece",
    "Spelling",
    "Style",
    "System",
    "UnclearPathError",
    "Variables",
    "before_ending",
    "escape_name",
    "file_url",
    "fitting_name",
    "folded_name",
    "format_named",
    "join_pieces",
    "length_fault",
    "name_fault",
    "name_key",
    "name_splitter",
    "path_key",
    "read_inner",
    "read_path",
    "resolved",
    "respell",
    "seems_several",
    "shortened",
    "split_name",
    "tell_apart",
    "unescape_name",
    "with_slashes",
    "write_piece",
]
