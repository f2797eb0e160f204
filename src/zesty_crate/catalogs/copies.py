"""What programs keep beside a path and make of it: the same in small letters, its name alone, a digest."""

from __future__ import annotations

import hashlib
import re
import zlib
from collections.abc import Callable

from ..guides import CopyPart
from ..paths import PathError, Spelling, System, file_url, read_path, with_slashes
from .model import Copied, Entry
from .reading import Reading

_DIGESTS: dict[str, Callable[[bytes], bytes]] = {
    "crc32": lambda content: zlib.crc32(content).to_bytes(4, "big"),
    "md5": lambda content: hashlib.md5(content, usedforsecurity=False).digest(),
    "sha1": lambda content: hashlib.sha1(content, usedforsecurity=False).digest(),
    "sha256": lambda content: hashlib.sha256(content).digest(),
}


def renewed(copy: Copied, old: str, new: str) -> str | None:
    """The text of what was made of an ``old`` path, made of a new one; None for what was not made of the old one."""
    is_so_made = bool(old and new) and made_copy(copy.part, old) == copy.text
    return made_copy(copy.part, new) if is_so_made else None


def note_besides(reading: Reading, entry: Entry) -> None:
    """Count an entry with something beside its path that cannot be followed, or was not made of it."""
    reading.pointers += bool(entry.pointers)
    reading.stale += any(renewed(copy, entry.recorded, entry.recorded) is None for copy in entry.copies)


def made_copy(part: CopyPart, path: str) -> str:
    """What a program makes of a path by the steps of a guide."""
    text, content = path, b""
    for step in part.steps:
        if step in _DIGESTS:
            content = _DIGESTS[step](text.encode(part.encoding, "replace"))
            text = content.hex()
        elif step in ("number", "signed-number"):
            text = str(int.from_bytes(content, "big", signed=step == "signed-number"))
        else:
            text = _STEPS[step](text)
    return text


def _name(path: str) -> str:
    return re.split(r"[\\/]", path)[-1]


def _folder(path: str) -> str:
    return path[: len(path) - len(_name(path))].rstrip("\\/") if _name(path) != path else ""


def _file_url(path: str) -> str:
    is_windows = re.match(r"[A-Za-z]:|\\\\", path) is not None
    try:
        return file_url(read_path(path, System.WINDOWS if is_windows else System.LINUX, Spelling.NATIVE).path)
    except PathError:
        return ""  # of what is relative, which no file URL says


_STEPS: dict[str, Callable[[str], str]] = {
    "slashes": with_slashes,
    "file-url": _file_url,
    "lower": str.lower,
    "upper": str.upper,
    "name": _name,
    "folder": _folder,
    "stem": lambda path: _name(path).rpartition(".")[0] or _name(path),
}
