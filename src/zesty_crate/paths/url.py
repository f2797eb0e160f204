"""File URLs (RFC 8089) and percent-encoding (RFC 3986): read, and written as their writer would."""

from __future__ import annotations

import re
from dataclasses import replace
from urllib.parse import quote, unquote_to_bytes

from .errors import PathError
from .machine_path import MachinePath
from .native import resolved
from .piece import SpelledPiece, Spelling, Style
from .systems import System

URL = re.compile(r"(file:)(?://([^/]*))?(?=/)", re.IGNORECASE)
_URL_DRIVE = re.compile(r"/([A-Za-z])(?:[:|]|%3[Aa])(?=[/\\]|$)")
_USUALLY_BARE = "!$&'()*+,;=:@-._~"


def read_url(text: str, system: System) -> SpelledPiece:
    """A file URL of any form that RFC 8089 describes, its appendices included."""
    match = URL.match(text)
    if not match:
        raise PathError(f"{text!r} is not a file URL.", next_step="Expected a text that starts with file:/.")
    host = match.group(2)
    body = text[match.end() :]
    style = Style(Spelling.FILE_URL, "/", opening=match.group())
    root = "/"
    if system is System.WINDOWS:
        root, body, style = _url_windows_root(text, host or "", body, style)
        if body.startswith("\\"):  # as office programs write them
            body, style = body.replace("\\", "/"), replace(style, separator="\\")
    elif host and host.lower() != "localhost":
        raise PathError(f"{text!r} names the host {host!r}; expected a {system} path on this computer.")
    names = body.strip("/")
    parts, style = decoded(names, replace(style, closing=body[len(body.rstrip("/")) :]))
    if any(re.search(r"[/\\\0]" if system is System.WINDOWS else r"[/\0]", part) for part in parts):
        raise PathError(f"{text!r} has an encoded separator or NUL inside a name, which {system} does not allow.")
    return SpelledPiece(system, root, resolved(list(parts)), style)


def _url_windows_root(text: str, host: str, body: str, style: Style) -> tuple[str, str, Style]:
    """The Windows root that a file URL means: a letter (RFC 8089 E.2), or a host with its share (E.3)."""
    if drive := _URL_DRIVE.match(body):
        letter = drive.group(1)
        return letter.upper() + ":", body[drive.end() :], replace(style, lower_letter=letter.islower())
    share = re.match(r"/([^/]+)", body)
    if host and host.lower() != "localhost" and share:
        root = f"\\\\{host}\\{unquote_to_bytes(share.group(1)).decode('utf-8', 'surrogateescape')}"
        return root, body[share.end() :], style
    raise PathError(f"{text!r} has neither a drive letter nor a server with a share, as a Windows file URL must have.")


def decoded(names: str, style: Style) -> tuple[tuple[str, ...], Style]:
    """Percent-decode names, and learn from them what their writer encodes."""
    raw = [name for name in names.split("/") if name]
    parts = tuple(unquote_to_bytes(name).decode("utf-8", "surrogateescape") for name in raw)
    safe = "".join(sorted({c for name in raw for c in name if c.isascii() and not c.isalnum() and c != "%"}))
    quoted = {chr(int(code, 16)) for code in re.findall(r"%([0-7][0-9A-Fa-f])", names)}
    return parts, replace(
        style,
        safe="".join(c for c in {*safe, *_USUALLY_BARE} if c not in quoted),
        bare_unicode=not names.isascii(),
        lower_hex=bool(re.search("%(?:[0-9][a-f]|[a-f][0-9a-f])", names)),
        written=dict(zip(parts, raw, strict=True)),
    )


def encoded(name: str, style: Style) -> str:
    """A name as this writer would encode it; one that it has written is written so again."""
    if name in style.written:
        return style.written[name]
    safe = style.safe or _USUALLY_BARE
    if style.bare_unicode:
        chunks = re.split(r"([^\x00-\x7f]+)", name)
        text = "".join(c if c and not c.isascii() else quote(c, safe=safe) for c in chunks)
    else:
        text = quote(name, safe=safe, errors="surrogateescape")
    return re.sub("%[0-9A-F]{2}", lambda m: m.group().lower(), text) if style.lower_hex else text


def url_root_text(root: str, style: Style) -> str:
    """What comes before the first name."""
    if not style.opening and not root.startswith("\\\\"):
        return "/" if root == "/" else f"/{root}"  # an absolute path in a URI reference without a scheme
    scheme = style.opening.split("/", 1)[0] or "file:"
    host = style.opening[len(scheme) :].removeprefix("//") if style.opening.startswith(scheme + "//") else None
    if root.startswith("\\\\"):
        server, share = root[2:].split("\\", 1)
        return f"{scheme}//{server}/{encoded(share, style)}"
    local = host if host and host.lower() == "localhost" else ""
    start = scheme if host is None else f"{scheme}//{local}"
    if root == "/":
        return start + "/"
    return f"{start}/{root.lower() if style.lower_letter else root}"


def file_url(path: MachinePath) -> str:
    """A path as a file URL in its most usual form: ``file:///``, and encoded in UTF-8 where that must be."""
    names = "/".join(quote(name, safe=_USUALLY_BARE.replace(";", ""), errors="surrogateescape") for name in path.parts)
    if path.root.startswith("\\\\"):
        return "file:" + path.root.replace("\\", "/") + "/" + names
    return "file:///" + (names if path.root == "/" else f"{path.root}/{names}")
