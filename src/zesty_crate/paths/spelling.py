"""How a path, or a piece of one, is written: read it, and write another one in the same way.

File URLs follow RFC 8089 and percent-encoding RFC 3986; Windows forms follow Microsoft's "Naming Files, Paths, and
Namespaces". What a writer does not decide (which characters to encode, how to open a URL, whether to close with a
separator) is remembered in a `Style`, so that the new text looks as if the same program had written it.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from enum import StrEnum
from urllib.parse import quote, unquote_to_bytes

from .errors import PathError
from .machine_path import MachinePath
from .systems import System


class Spelling(StrEnum):
    """The way a catalog writes its paths."""

    NATIVE = "native"
    SLASHES = "slashes"
    FILE_URL = "file-url"


@dataclass(frozen=True, slots=True)
class Style:
    """What one writer chose where the spelling leaves a choice."""

    spelling: Spelling
    separator: str
    opening: str = ""  # before the root (``file:///``, ``\\\\?\\``), or before an inner piece's first name
    closing: str = ""  # separators after the last name
    safe: str = ""  # file URLs: characters that this writer leaves bare although quoting them is usual
    bare_unicode: bool = False
    lower_hex: bool = False
    lower_letter: bool = False  # a drive letter in lower case
    written: dict[str, str] = field(default_factory=dict, hash=False)  # file URLs: name -> as it was written


@dataclass(frozen=True, slots=True)
class Piece:
    """A recorded path taken apart, or an inner piece of one that is kept in several cells (``root`` is then empty)."""

    system: System
    root: str
    parts: tuple[str, ...]
    style: Style

    @property
    def path(self) -> MachinePath:
        """The path this piece is, given that it starts at a root."""
        return MachinePath(self.system, self.root, self.parts)


_DRIVE = re.compile(r"([A-Za-z]):(?=[\\/]|$)")
_UNC = re.compile(r"[\\/]{2}([^\\/?.]+|[^\\/]{2,})[\\/]+([^\\/]+)")
_LONG = re.compile(r"\\\\\?\\(UNC\\)?", re.IGNORECASE)
_URL = re.compile(r"(file:)(?://([^/]*))?(?=/)", re.IGNORECASE)
_URL_DRIVE = re.compile(r"/([A-Za-z])[:|](?=/|$)")
_USUALLY_BARE = "!$&'()*+,;=:@-._~"


def read_path(text: str, system: System, spelling: Spelling) -> Piece:
    """Take apart a whole recorded path.

    Raises `PathError` when ``text`` is empty, relative, holds a NUL, or is not of this spelling.
    """
    if not text or "\0" in text:
        raise PathError(f"A path was expected, and {text!r} was found.")
    if spelling is Spelling.FILE_URL:
        return _read_url(text, system)
    return _read_windows(text, spelling) if system is System.WINDOWS else _read_posix(text, system, spelling)


def read_inner(text: str, system: System, spelling: Spelling) -> Piece:
    """Take apart an inner piece: the names between an outer piece and the next."""
    separators = "\\/" if system is System.WINDOWS and spelling is not Spelling.FILE_URL else "/"
    names = text.strip(separators)
    opening = text[: len(text) - len(text.lstrip(separators))]
    closing = text[len(text.rstrip(separators)) :] if names else ""
    style = Style(spelling, _separator_in(names, system, spelling), opening, closing)
    parts = tuple(part for part in re.split(f"[{re.escape(separators)}]", names) if part)
    if spelling is Spelling.FILE_URL:
        parts, style = _decoded(names, style)
    return Piece(system, "", parts, style)


def write_piece(piece: Piece) -> str:
    """The text of a piece, in its own style. Inverse of reading, where the text had single separators."""
    style = piece.style
    names = [_encoded(name, style) if style.spelling is Spelling.FILE_URL else name for name in piece.parts]
    body = style.separator.join(names)
    if not piece.root:
        return style.opening + body + style.closing
    if not body:
        return _root_text(piece) + ("" if piece.root == "/" else style.closing)
    return _root_text(piece) + ("" if piece.root == "/" else style.separator) + body + style.closing


def respell(piece: Piece, root: str, parts: tuple[str, ...], system: System) -> Piece:
    """The same writer's piece with other content, on ``system``: separators and openings follow the new system."""
    style = piece.style
    if style.spelling is Spelling.FILE_URL:
        return replace(piece, system=system, root=root, parts=parts)
    separator = style.separator
    if style.spelling is Spelling.NATIVE and system is not piece.system:
        separator = system.separator
    opening = "" if root else re.sub(r"[\\/]", lambda _: separator, style.opening)
    if root and system is piece.system:
        opening = style.opening
    closing = separator * len(style.closing)
    if root and not parts and piece.parts:
        closing = separator  # a bare "E:" would mean the folder that drive happens to be in
    return Piece(system, root, parts, replace(style, separator=separator, opening=opening, closing=closing))


def join_pieces(texts: list[str], system: System, spelling: Spelling) -> str:
    """One recorded path from the texts of its pieces, outermost first; empty pieces say nothing."""
    whole = ""
    for text in texts:
        if not text:
            continue
        # What another system wrote and nobody translated is still joined in that system's way.
        windows = system is System.WINDOWS or bool(_DRIVE.match(whole)) or whole.startswith("\\\\")
        separators = "/\\" if windows else "/"
        if whole and whole[-1] not in separators and text[0] not in separators:
            whole += "\\" if windows and spelling is Spelling.NATIVE else "/"
        whole += text
    return whole


def _separator_in(text: str, system: System, spelling: Spelling) -> str:
    if spelling is not Spelling.NATIVE or system is not System.WINDOWS:
        return "/"
    found = re.search(r"[\\/]", text)
    return found.group() if found else "\\"


def _read_windows(text: str, spelling: Spelling) -> Piece:
    long = _LONG.match(text)
    opening = long.group() if long else ""
    rest = text[len(opening) :]
    if long and long.group(1):
        opening, rest = opening[:-4], "\\\\" + rest
    if drive := _DRIVE.match(rest):
        root, lower = drive.group(1).upper() + ":", drive.group(1).islower()
        body = rest[2:]
    elif unc := _UNC.match(rest):
        root, lower = f"\\\\{unc.group(1)}\\{unc.group(2)}", False
        body = rest[unc.end() :]
    else:
        raise PathError(
            f"{text!r} is not an absolute Windows path.", next_step="Expected a drive letter or \\\\server\\share."
        )
    closing = body[len(body.rstrip("\\/")) :]
    parts = _resolved([part for part in re.split(r"[\\/]", body) if part])
    style = Style(spelling, _separator_in(body, System.WINDOWS, spelling), opening, closing, lower_letter=lower)
    return Piece(System.WINDOWS, root, parts, style)


def _read_posix(text: str, system: System, spelling: Spelling) -> Piece:
    if not text.startswith("/"):
        raise PathError(f"{text!r} is not an absolute {system} path.", next_step="Expected a path that starts with /.")
    parts = _resolved([part for part in text.split("/") if part])
    return Piece(system, "/", parts, Style(spelling, "/", closing=text[len(text.rstrip("/")) :]))


def _read_url(text: str, system: System) -> Piece:
    match = _URL.match(text)
    if not match:
        raise PathError(f"{text!r} is not a file URL.", next_step="Expected a text that starts with file:/.")
    host = match.group(2)
    body = text[match.end() :]
    style = Style(Spelling.FILE_URL, "/", opening=match.group())
    root = "/"
    if system is System.WINDOWS:
        root, body, style = _url_windows_root(text, host or "", body, style)
    elif host and host.lower() != "localhost":
        raise PathError(f"{text!r} names the host {host!r}, and a {system} path on this computer was expected.")
    names = body.strip("/")
    parts, style = _decoded(names, replace(style, closing=body[len(body.rstrip("/")) :]))
    if any(re.search(r"[/\\\0]" if system is System.WINDOWS else r"[/\0]", part) for part in parts):
        raise PathError(f"{text!r} has an encoded separator or NUL inside a name, which no {system} file can have.")
    return Piece(system, root, _resolved(list(parts)), style)


def _url_windows_root(text: str, host: str, body: str, style: Style) -> tuple[str, str, Style]:
    """The Windows root that a file URL means: a letter (RFC 8089 E.2), or a host with its share (E.3)."""
    if drive := _URL_DRIVE.match(body):
        letter = drive.group(1)
        return letter.upper() + ":", body[drive.end() :], replace(style, lower_letter=letter.islower())
    share = re.match(r"/([^/]+)", body)
    if host and host.lower() != "localhost" and share:
        root = f"\\\\{host}\\{unquote_to_bytes(share.group(1)).decode('utf-8', 'surrogateescape')}"
        return root, body[share.end() :], style
    raise PathError(f"{text!r} has no drive letter and no server with a share, as a Windows file URL must.")


def _decoded(names: str, style: Style) -> tuple[tuple[str, ...], Style]:
    """Percent-decode names, and learn from them what their writer encodes."""
    raw = [name for name in names.split("/") if name]
    parts = tuple(unquote_to_bytes(name).decode("utf-8", "surrogateescape") for name in raw)
    safe = "".join(sorted({c for name in raw for c in name if c.isascii() and not c.isalnum() and c != "%"}))
    quoted = {chr(int(code, 16)) for code in re.findall(r"%([0-7][0-9A-Fa-f])", names)}
    return parts, replace(
        style,
        safe="".join(c for c in {*safe, *_USUALLY_BARE} if c not in quoted),
        bare_unicode=not names.isascii(),
        lower_hex=bool(re.search(r"%(?=[0-9]*[a-f])[0-9a-f]{2}", names)),
        written=dict(zip(parts, raw, strict=True)),
    )


def _encoded(name: str, style: Style) -> str:
    if name in style.written:
        return style.written[name]
    safe = style.safe or _USUALLY_BARE
    if style.bare_unicode:
        chunks = re.split(r"([^\x00-\x7f]+)", name)
        text = "".join(c if c and not c.isascii() else quote(c, safe=safe) for c in chunks)
    else:
        text = quote(name, safe=safe, errors="surrogateescape")
    return re.sub("%[0-9A-F]{2}", lambda m: m.group().lower(), text) if style.lower_hex else text


def _root_text(piece: Piece) -> str:
    style, root = piece.style, piece.root
    if style.spelling is Spelling.FILE_URL:
        return _url_root_text(root, style)
    if root == "/":
        return "/"
    if root.startswith("\\\\"):
        if style.opening:
            return style.opening + "UNC" + root[1:]
        return root if style.separator == "\\" else root.replace("\\", "/")
    return style.opening + (root.lower() if style.lower_letter else root)


def _url_root_text(root: str, style: Style) -> str:
    scheme = style.opening.split("/", 1)[0] or "file:"
    host = style.opening[len(scheme) :].removeprefix("//") if style.opening.startswith(scheme + "//") else None
    if root.startswith("\\\\"):
        server, share = root[2:].split("\\", 1)
        return f"{scheme}//{server}/{_encoded(share, style)}"
    local = host if host and host.lower() == "localhost" else ""
    start = scheme if host is None else f"{scheme}//{local}"
    if root == "/":
        return start + "/"
    return f"{start}/{root.lower() if style.lower_letter else root}"


def _resolved(parts: list[str]) -> tuple[str, ...]:
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
