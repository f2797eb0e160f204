"""Paths that may be relative to the document they are in."""

from __future__ import annotations

import re
from dataclasses import replace

from .errors import PathError
from .machine_path import MachinePath
from .native import STARTS_AT_ROOT, read_posix, read_windows, resolved
from .piece import SpelledPiece, Spelling, Style
from .systems import System
from .url import URL, decoded, encoded, read_url


def read_reference(text: str, system: System, spelling: Spelling, base: MachinePath | None) -> SpelledPiece:
    """A text that may be relative to its document, absolute, or a file URL; many programs write all three."""
    if URL.match(text):
        return read_url(text, system)
    native = not spelling.is_url
    windows = system is System.WINDOWS and native
    either = windows or spelling is Spelling.RELATIVE_EITHER
    if native and (STARTS_AT_ROOT.match(text) if windows else text.startswith("/")):
        return read_windows(text, spelling) if windows else read_posix(text, system, spelling)
    if not native and text.startswith("/"):
        piece = read_url("file:" + text, system)
        return replace(piece, style=replace(piece.style, opening=""))
    foreign = re.match(r"[A-Za-z][A-Za-z0-9+.-]+:(//)?", text)
    if base is None or (windows and text[0] in "\\/") or (foreign and (foreign.group(1) or not native)):
        raise PathError(f"{text!r} is neither a path nor relative to its document.")
    separator = "\\" if either and "/" not in text and (windows or "\\" in text) else "/"
    style = Style(spelling, separator, opening=text[:2] if text[:2] in ("./", ".\\") else "", base=base)
    names = [name for name in re.split(r"[\\/]" if either else "/", text) if name]
    if not native:
        steps = [name for name in names if name in (".", "..")]
        read, style = decoded("/".join(name for name in names if name not in steps), style)
        told = iter(read)
        names = [name if name in steps else next(told) for name in names]
    return SpelledPiece(system, base.root, resolved([*base.parts, *names]), replace(style, base=base))


def relative_text(piece: SpelledPiece, base: MachinePath) -> str:
    """A path as seen from the folder ``base`` (RFC 3986, section 5, for URI references)."""
    style, shared = piece.style, 0
    for mine, theirs in zip(piece.parts, base.parts, strict=False):
        if mine != theirs:
            break
        shared += 1
    up = [".."] * (len(base.parts) - shared)
    down = piece.parts[shared:]
    names = [*up, *(encoded(name, style) if style.spelling.is_url else name for name in down)]
    opening = style.opening if not up else ""
    if (
        not up
        and names
        and re.match(r"[A-Za-z][A-Za-z0-9+.-]*:", names[0])
        and (style.spelling.is_url or len(names) > 1)
    ):
        opening = "./"  # or the first name would be taken for a scheme
    return opening.replace("\\", style.separator).replace("/", style.separator) + style.separator.join(names)
