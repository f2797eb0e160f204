"""The beginning of a path by a name: a variable (``%APPDATA%\\x``, ``$HOME/x``, ``~/x``), or that of a volume."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import NamedTuple

from .errors import PathError
from .machine_path import MachinePath
from .native import separator_in
from .piece import SpelledPiece, Spelling, Style
from .systems import System

_VARIABLE = re.compile(r"(?:%(?P<percent>[A-Za-z][\w()]*)%|\$\{?(?P<dollar>[A-Za-z_]\w*)\}?|(?P<tilde>~))(?=[\\/]|$)")
_TILDE = "HOME"


class NamedVolume(NamedTuple):
    """A volume of a computer, and the names by which a catalog may know it; empty where it has none."""

    anchor: MachinePath
    label: str = ""
    serial: str = ""
    uuid: str = ""

    def holds(self, root: str, parts: tuple[str, ...]) -> bool:
        """Whether a path is on this volume, or on one that is mounted on it."""
        return self.anchor.root == root and parts[: len(self.anchor.parts)] == self.anchor.parts

    def has_name(self, name: str) -> bool:
        """Whether this is one of its names."""
        mine = (self.label.casefold(), _bare(self.serial), _bare(self.uuid))
        return name.casefold() == mine[0] or _bare(name) in mine[1:]

    def name_like(self, name: str) -> str:
        """Its name of the kind of another one's: a UUID, a serial number or a label."""
        if _UUID.fullmatch(name):
            return self.uuid
        return self.serial if _SERIAL.fullmatch(name) and self.serial else self.label


_UUID = re.compile(r"[0-9A-Fa-f]{8}(?:-?[0-9A-Fa-f]{4}){3}-?[0-9A-Fa-f]{12}")
_SERIAL = re.compile(r"[0-9A-Fa-f]{4}-?[0-9A-Fa-f]{4}|[0-9A-Fa-f]{16}")


def _bare(name: str) -> str:
    return name.replace("-", "").lower()


@dataclass(frozen=True, eq=False)
class Variables:
    """What variables represent on one computer, by their names in capitals; and its volumes. Compared by identity."""

    values: Mapping[str, MachinePath]
    volumes: tuple[NamedVolume, ...] = ()

    def volume_called(self, name: str) -> NamedVolume | None:
        """The volume of a name, if it is the only one."""
        found = [each for each in self.volumes if each.has_name(name)]
        return found[0] if len(found) == 1 else None

    def volume_of(self, root: str, parts: tuple[str, ...]) -> NamedVolume | None:
        """The volume that a path is on."""
        around = (
            each
            for each in self.volumes
            if each.anchor.root == root and parts[: len(each.anchor.parts)] == each.anchor.parts
        )
        return max(around, key=lambda each: len(each.anchor.parts), default=None)

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


def read_from_volume(text: str, system: System, variables: Variables) -> SpelledPiece:
    """A path that begins with the name of a volume. Raises `PathError` for one that is not known on that computer."""
    separators = r"\\/" if system is System.WINDOWS else "/"
    found = re.fullmatch(rf"([{separators}]*)([^{separators}]+)(.*)", text, re.DOTALL)
    volume = variables.volume_called(found[2]) if found else None
    if found is None or volume is None:
        name = found[2] if found else text
        raise PathError(
            f"{text!r} begins with the volume {name!r}, which is not known on that computer.",
            next_step="Give that volume its label, serial or uuid in the sheet.",
        )
    names = tuple(name for name in re.split(f"[{separators}]", found[3]) if name)
    style = Style(
        Spelling.FROM_VOLUME,
        separator_in(found[3], system, Spelling.FROM_VOLUME),
        opening=found[1],
        closing=found[3][len(found[3].rstrip("\\/")) :],
        variable=found[2],
        covered=len(volume.anchor.parts),
    )
    return SpelledPiece(system, volume.anchor.root, volume.anchor.parts + names, style)


def variable_text(piece: SpelledPiece) -> str:
    """The text of a path that begins with a variable."""
    style = piece.style
    names = piece.parts[style.covered :]
    closing = style.closing if names or style.spelling is Spelling.FROM_VOLUME else ""
    return style.opening + style.separator.join([style.variable, *names]) + closing


def with_variable(
    piece: SpelledPiece, root: str, parts: tuple[str, ...], system: System, variables: Variables
) -> SpelledPiece:
    """The piece with other content: by the same variable where it represents the beginning of it, else absolute.

    What began with the name of a volume begins with that of the volume where it is now.
    """
    if piece.style.spelling is Spelling.FROM_VOLUME:
        return _from_volume(piece, root, parts, system, variables)
    value = variables.value_of(piece.style.variable)
    starts = value is not None and value.root == root and parts[: len(value.parts)] == value.parts
    if value is None or not starts or system is not piece.system:
        absolute = replace(piece.style, variable="", covered=0, separator=system.separator, closing="")
        return SpelledPiece(system, root, parts, absolute)
    return SpelledPiece(system, root, parts, replace(piece.style, covered=len(value.parts)))


def _from_volume(
    piece: SpelledPiece, root: str, parts: tuple[str, ...], system: System, variables: Variables
) -> SpelledPiece:
    volume = variables.volume_of(root, parts)
    name = volume.name_like(piece.style.variable) if volume else ""
    separator = piece.style.separator if system is piece.system else system.separator
    style = replace(
        piece.style,
        separator=separator,
        opening=separator * len(piece.style.opening),
        closing=separator * len(piece.style.closing),
        variable="",
        covered=0,
    )
    if volume is not None and name:
        same = piece.style.variable if volume.has_name(piece.style.variable) else name
        style = replace(style, variable=same, covered=len(volume.anchor.parts))
    return SpelledPiece(system, root, parts, style)
