"""How a path, or a piece of one, is written: read it, and write another one in the same way.

What a writer does not decide (which characters to encode, how to open a URL, whether to close with a separator) is
remembered in a `Style`, so that the new text looks as if the same program had written it.
"""

from __future__ import annotations

import re
from dataclasses import replace

from .errors import PathError, UnclearPathError
from .machine_path import MachinePath
from .native import DRIVE, read_posix, read_windows, separator_in
from .piece import SpelledPiece, Spelling, Style
from .reference import read_reference, relative_text
from .systems import System
from .url import decoded, encoded, read_url, url_root_text
from .variables import NO_VARIABLES, Variables, read_from_volume, read_variable, variable_text, with_variable

_NATIVE = (Spelling.NATIVE, Spelling.RELATIVE, Spelling.WITH_VARIABLES, Spelling.FROM_VOLUME)


_WITH_BACKSLASHES = (Spelling.NATIVE, Spelling.WITH_VARIABLES, Spelling.FROM_VOLUME)


def read_path(
    text: str,
    system: System,
    spelling: Spelling,
    base: MachinePath | None = None,
    variables: Variables = NO_VARIABLES,
) -> SpelledPiece:
    """Take apart a whole recorded path; ``base`` is the folder of the document it is in.

    Raises `PathError` when ``text`` is empty, is not of this spelling, or is relative and must not be, and
    `UnclearPathError` when it is more than one path.
    """
    if not text:
        raise PathError(f"A path was expected, and {text!r} was found.")
    if _is_several(text, system, spelling):
        raise UnclearPathError(f"One path was expected, and {text!r} looks like several paths.")
    if spelling.is_relative:
        return read_reference(text, system, spelling, base)
    if spelling is Spelling.FILE_URL:
        return read_url(text, system)
    if spelling is Spelling.FROM_VOLUME:
        return read_from_volume(text, system, variables)
    if spelling is Spelling.WITH_VARIABLES and (piece := read_variable(text, system, variables)):
        return piece
    return read_windows(text, spelling) if system is System.WINDOWS else read_posix(text, system, spelling)


# Where a path begins: no Windows name holds a colon. Names of other systems may, so there a text only seems a list.
_WINDOWS_START = re.compile(r"[A-Za-z]:[\\/]|(?<=[;|\n])\s*\\\\")
_BETWEEN_PATHS = frozenset(";|\n")
_POSIX_START = re.compile(r"[^/][:;|\n]\s*/(?!/)")


def _is_several(text: str, system: System, spelling: Spelling) -> bool:
    if "\0" in text:
        return True
    if spelling.is_url or text[:5].lower() == "file:":
        return text.lower().count("file:") > 1
    if system is not System.WINDOWS or (text.count(":") < 2 and _BETWEEN_PATHS.isdisjoint(text)):
        return False
    return len(_WINDOWS_START.findall(text)) > 1


def seems_several(text: str, system: System) -> bool:
    """Whether a text looks like a list of paths, though it may be the path of a file with an odd name."""
    return system is not System.WINDOWS and _POSIX_START.search(text) is not None


def read_inner(text: str, system: System, spelling: Spelling) -> SpelledPiece:
    """Take apart an inner piece: the names between an outer piece and the next."""
    either = spelling is Spelling.RELATIVE_EITHER or (system is System.WINDOWS and not spelling.is_url)
    separators = "\\/" if either else "/"
    names = text.strip(separators)
    opening = text[: len(text) - len(text.lstrip(separators))]
    closing = text[len(text.rstrip(separators)) :] if names else ""
    style = Style(spelling, separator_in(names, system, spelling), opening, closing)
    parts = tuple(part for part in re.split(f"[{re.escape(separators)}]", names) if part)
    if spelling.is_url:
        parts, style = decoded(names, style)
    return SpelledPiece(system, "", parts, style)


def write_piece(piece: SpelledPiece) -> str:
    """The text of a piece, in its own style. Inverse of reading, where the text had single separators."""
    style = piece.style
    if style.base is not None:
        return relative_text(piece, style.base)
    if style.variable:
        return variable_text(piece)
    names = [encoded(name, style) if style.spelling.is_url else name for name in piece.parts]
    body = style.separator.join(names)
    if not piece.root:
        return style.opening + body + style.closing
    if not body:
        return _root_text(piece) + ("" if piece.root == "/" else style.closing)
    return _root_text(piece) + ("" if piece.root == "/" else style.separator) + body + style.closing


def respell(
    piece: SpelledPiece,
    root: str,
    parts: tuple[str, ...],
    system: System,
    base: MachinePath | None = None,
    variables: Variables = NO_VARIABLES,
) -> SpelledPiece:
    """The same writer's piece with other content, on ``system``: separators and openings follow the new system.

    What was relative stays so, to the folder ``base`` that the document is in now; on another root it becomes absolute,
    since nothing else can say it.
    """
    style = piece.style
    if style.variable:
        return with_variable(piece, root, parts, system, variables)
    if style.base is not None:
        stays = base if base is not None and base.root == root else None
        opening = style.opening if stays else "file://" * style.spelling.is_url
        # Forward slashes are good on every system, so what was written with them stays as it is.
        either = stays is not None and (style.separator == "/" or style.spelling is Spelling.RELATIVE_EITHER)
        separator = "/" if style.spelling.is_url else style.separator if either else system.separator
        fresh = replace(style, base=stays, opening=opening, separator=separator)
        return SpelledPiece(system, root, parts, fresh)
    if style.spelling.is_url:
        separator = style.separator if system is System.WINDOWS else "/"
        return replace(piece, system=system, root=root, parts=parts, style=replace(style, separator=separator))
    separator = style.separator
    absolute = bool(root) and style.spelling is Spelling.RELATIVE_EITHER
    if (absolute or style.spelling in _NATIVE) and system is not piece.system:
        separator = system.separator
    opening = "" if root else re.sub(r"[\\/]", lambda _: separator, style.opening)
    if root and system is piece.system:
        opening = style.opening
    closing = separator * len(style.closing)
    if root and not parts and piece.parts:
        closing = separator  # a bare "E:" would mean the folder that drive happens to be in
    return SpelledPiece(system, root, parts, replace(style, separator=separator, opening=opening, closing=closing))


def join_pieces(texts: list[str], system: System, spelling: Spelling) -> str:
    """One recorded path from the texts of its pieces, outermost first; empty pieces say nothing."""
    whole = ""
    for text in texts:
        if not text:
            continue
        # What another system wrote and nobody translated is still joined in that system's way.
        windows = system is System.WINDOWS or bool(DRIVE.match(whole)) or whole.startswith("\\\\")
        windows = windows or spelling is Spelling.RELATIVE_EITHER
        separators = "/\\" if windows else "/"
        if whole and whole[-1] not in separators and text[0] not in separators:
            whole += "\\" if windows and spelling in _WITH_BACKSLASHES else "/"
        whole += text
    return whole


def _root_text(piece: SpelledPiece) -> str:
    style, root = piece.style, piece.root
    if style.spelling.is_url:
        return url_root_text(root, style)
    if root == "/":
        return "/"
    if root.startswith("\\\\"):
        if style.opening:
            return style.opening + "UNC" + root[1:]
        return root if style.separator == "\\" else root.replace("\\", "/")
    return style.opening + (root.lower() if style.lower_letter else root)
