"""Paths as the systems write them. Windows forms follow Microsoft's "Naming Files, Paths, and Namespaces"."""

from __future__ import annotations

import re

from .errors import PathError, UnclearPathError
from .piece import SpelledPiece, Spelling, Style
from .systems import System

DRIVE = re.compile(r"([A-Za-z]):(?=[\\/]|$)")
_SLASHED = re.compile(r"[\\/][A-Za-z]:(?=[\\/]|$)")
_HALF = re.compile(r"[A-Za-z]:[^\\/]")
_UNC = re.compile(r"[\\/]{2}([^\\/?.]+|[^\\/]{2,})[\\/]+([^\\/]+)")
_LONG = re.compile(r"\\\\\?\\(UNC\\)?", re.IGNORECASE)
_EITHER_SEPARATOR = re.compile(r"[\\/]")
STARTS_AT_ROOT = re.compile(r"[A-Za-z]:(?=[\\/]|$)|[\\/]{2}[^\\/]+[\\/]+[^\\/]|\\\\\?\\")


def read_windows(text: str, spelling: Spelling) -> SpelledPiece:
    """An absolute Windows path: by drive letter, by server and share, or of the long form."""
    long = _LONG.match(text)
    opening = long.group() if long else ""
    rest = text[len(opening) :]
    if long and long.group(1):
        opening, rest = opening[:-4], "\\\\" + rest
    if _SLASHED.match(rest):  # as a file URL without its scheme
        opening, rest = opening + rest[0], rest[1:]
    if drive := DRIVE.match(rest):
        root, lower = drive.group(1).upper() + ":", drive.group(1).islower()
        body = rest[2:]
    elif unc := _UNC.match(rest):
        root, lower = f"\\\\{unc.group(1)}\\{unc.group(2)}", False
        body = rest[unc.end() :]
    elif _HALF.match(rest):
        raise UnclearPathError(
            f"{text!r} begins with a drive and no separator follows: it depends on that drive's current folder, or is "
            "written with other separators.",
            next_step="Tell the guide how this program writes paths.",
        )
    else:
        raise PathError(
            f"{text!r} is not an absolute Windows path.", next_step="Expected a drive letter or \\\\server\\share."
        )
    closing = body[len(body.rstrip("\\/")) :]
    parts = resolved([part for part in _EITHER_SEPARATOR.split(body) if part])
    # Of a bare share there is no more than the root to tell the separator by.
    separator = separator_in(body or rest, System.WINDOWS, spelling)
    style = Style(spelling, separator, opening, closing, lower_letter=lower)
    return SpelledPiece(System.WINDOWS, root, parts, style)


def read_posix(text: str, system: System, spelling: Spelling) -> SpelledPiece:
    """An absolute path of macOS or Linux."""
    if not text.startswith("/"):
        raise PathError(f"{text!r} is not an absolute {system} path.", next_step="Expected a path that starts with /.")
    parts = resolved([part for part in text.split("/") if part])
    return SpelledPiece(system, "/", parts, Style(spelling, "/", closing=text[len(text.rstrip("/")) :]))


def separator_in(text: str, system: System, spelling: Spelling) -> str:
    """The separator that a writer uses: the first one in its text, else the usual one."""
    either = spelling is Spelling.RELATIVE_EITHER
    if not either and (
        spelling not in (Spelling.NATIVE, Spelling.RELATIVE, Spelling.WITH_VARIABLES, Spelling.FROM_VOLUME)
        or system is not System.WINDOWS
    ):
        return "/"
    found = _EITHER_SEPARATOR.search(text)
    return found.group() if found else system.separator


def resolved(parts: list[str]) -> tuple[str, ...]:
    """Names without ``.`` and ``..`` steps; a step above the root stays at the root."""
    if "." not in parts and ".." not in parts:
        return tuple(parts)
    kept: list[str] = []
    for part in parts:
        if part == ".." and kept:
            kept.pop()
        elif part not in (".", ".."):
            kept.append(part)
    return tuple(kept)


def with_slashes(text: str) -> str:
    """A path of any system with ``/`` between its names; in one that begins so, a backslash is part of a name."""
    return text if text.startswith("/") else text.replace("\\", "/")
