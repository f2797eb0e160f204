"""Variables at the beginning of a path: ``%APPDATA%\\x``, ``$HOME/x``, ``${HOME}/x``, ``~/x``."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace

from .errors import PathError
from .machine_path import MachinePath
from .native import separator_in
from .piece import SpelledPiece, Spelling, Style
from .systems import System

_VARIABLE = re.compile(r"(?:%(?P<percent>[A-Za-z][\w()]*)%|\$\{?(?P<dollar>[A-Za-z_]\w*)\}?|(?P<tilde>~))(?=[\\/]|$)")
_TILDE = "HOME"


@dataclass(frozen=True, eq=False)
class Variables:
    """What variables represent on one computer, by their names in capitals. Compared by identity."""

    values: Mapping[str, MachinePath]

    def value_of(self, written: str) -> MachinePath | None:
        """What a variable represents, as it is written."""
        match = _VARIABLE.match(written)
        if match is None:
            return None
        name = match.group("percent") or match.group("dollar") or _TILDE
        return self.values.get(name.upper())


NO_VARIABLES = Variables({})


def read_variable(text: str, system: System, variables: Variables) -> SpelledPiece | None:
    """A path that begins with a variable; None when it does not. Raises `PathError` for one that is not known."""
    match = _VARIABLE.match(text)
    if match is None:
        return None
    value = variables.value_of(text)
    if value is None:
        raise PathError(f"{text!r} begins with the variable {match.group()}, which is not known on that computer.")
    body = text[match.end() :]
    names = tuple(name for name in re.split(r"[\\/]" if system is System.WINDOWS else "/", body) if name)
    closing = body[len(body.rstrip("\\/")) :]
    separator = separator_in(body, system, Spelling.NATIVE)
    style = Style(Spelling.WITH_VARIABLES, separator, closing=closing, variable=match.group(), covered=len(value.parts))
    return SpelledPiece(system, value.root, value.parts + names, style)


def variable_text(piece: SpelledPiece) -> str:
    """The text of a path that begins with a variable."""
    style = piece.style
    names = piece.parts[style.covered :]
    return style.separator.join([style.variable, *names]) + (style.closing if names else "")


def with_variable(
    piece: SpelledPiece, root: str, parts: tuple[str, ...], system: System, variables: Variables
) -> SpelledPiece:
    """The piece with other content: by the same variable where it represents the beginning of it, else absolute."""
    value = variables.value_of(piece.style.variable)
    starts = value is not None and value.root == root and parts[: len(value.parts)] == value.parts
    if value is None or not starts or system is not piece.system:
        absolute = replace(piece.style, variable="", covered=0, separator=system.separator, closing="")
        return SpelledPiece(system, root, parts, absolute)
    return SpelledPiece(system, root, parts, replace(piece.style, covered=len(value.parts)))
