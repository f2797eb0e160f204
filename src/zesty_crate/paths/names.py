"""Names that a volume cannot hold, and a reversible way to write any name so that every carrier can hold it."""

from __future__ import annotations

import re

from .systems import NameRules, System

_WINDOWS_FORBIDDEN = re.compile(r'[<>:"/\\|?*\x00-\x1f]')
_DEVICES = re.compile(r"(con|prn|aux|nul|conin\$|conout\$|com[1-9¹²³]|lpt[1-9¹²³]) *(\..*)?$", re.IGNORECASE)
_ESCAPE = re.compile(r"~\(([0-9a-f]+)\)")
_SHORTENED_BYTES = 120
# The longest path that a system opens, in bytes: PATH_MAX of macOS and Linux, and of Windows in UTF-16 units.
_LONGEST_PATH = {System.WINDOWS: 32_767, System.MACOS: 1_024, System.LINUX: 4_096}


def name_fault(name: str, rules: NameRules) -> str:
    """Why a volume of these rules cannot hold ``name``; empty when it can."""
    if not name or name in (".", ".."):
        return "it is not a name"
    if "/" in name or "\0" in name:
        return "it contains a character that no volume allows"
    length = len(name)
    if not name.isascii():
        is_bytes = rules.name_unit == "bytes"
        written = name.encode("utf-8", "surrogateescape") if is_bytes else name.encode("utf-16-le", "surrogatepass")
        length = len(written) if is_bytes else len(written) // 2
    if length > rules.longest_name:
        return f"it is {length} {rules.name_unit} long, and {rules.format} allows {rules.longest_name}"
    return _windows_fault(name, rules) if rules.windows_names else ""


def _windows_fault(name: str, rules: NameRules) -> str:
    if found := _WINDOWS_FORBIDDEN.search(name):
        return f"it contains {found.group()!r}, which {rules.format} does not allow"
    if _DEVICES.match(name):
        return "Windows reserves this name for a device"
    if name[-1] in ". ":
        return "it ends with a dot or a space, which Windows drops"
    return ""


def escape_name(name: str) -> str:
    """A name that FAT, exFAT, NTFS, APFS and ext4 can all hold, from which `unescape_name` gives back ``name``.

    Only what must be is written as ``~(hexadecimal code point)``; everyday names stay as they are. ``%`` is always
    written so, because bag software disagrees about it (RFC 8493, 2.1.3).
    """
    text = re.sub(r'[<>:"/\\|?*%\x00-\x1f\x7f\ud800-\udfff]|~(?=\()', lambda m: _code(m.group()), name)
    if _DEVICES.match(text):
        text = _code(text[0]) + text[1:]
    if text[-1:] in (".", " "):
        text = text[:-1] + _code(text[-1])
    return text


def unescape_name(text: str) -> str:
    """The name that `escape_name` was given."""
    return _ESCAPE.sub(lambda m: chr(int(m.group(1), 16)), text)


def before_ending(name: str, more: str) -> str:
    """A name with something more before its ending: ``take.wav`` and `` (2)`` make ``take (2).wav``."""
    stem, dot, ending = name.rpartition(".")
    return f"{stem}{more}{dot}{ending}" if stem else name + more


def tell_apart(name: str) -> str:
    """A name in which everything that a volume may confuse, and always the first character, is a code point.

    `unescape_name` gives back ``name``.
    """
    first, rest = escape_name(name[0]), escape_name(name[1:])
    if first == name[0]:
        first = _code(name[0])
    return first + "".join(c if c.isascii() and c == c.lower() else _code(c) for c in rest)


def shortened(written: str, name: str) -> str:
    """The beginning of a name, and a digest of all of it that keeps it apart; the end of an escape is not lost."""
    import hashlib  # seldom needed, and slow to load for a command that only shows its help

    mark = hashlib.sha256(name.encode("utf-8", "surrogatepass")).hexdigest()[:16]
    beginning = written.encode("utf-8", "surrogateescape")[:_SHORTENED_BYTES].decode("utf-8", "ignore")
    return f"{beginning.rpartition('~(')[0] or beginning}~(and {mark})"


def fitting_name(name: str, rules: NameRules) -> str:
    """The name itself where a volume of these rules can hold it; else one that it can, made from it."""
    if not name_fault(name, rules):
        return name
    escaped = escape_name(name)
    return shortened(escaped, name) if name_fault(escaped, rules) else escaped


def length_fault(text: str, system: System) -> str:
    """Why a system cannot open a path that is so long; empty when it can."""
    length = len(text.encode("utf-16-le", "surrogatepass")) // 2 if system is System.WINDOWS else len(_bytes(text))
    longest = _LONGEST_PATH[system]
    return f"it is {length} long, and {system} allows {longest}" if length >= longest else ""


def _bytes(text: str) -> bytes:
    return text.encode("utf-8", "surrogateescape")


def _code(character: str) -> str:
    return f"~({ord(character):x})"
