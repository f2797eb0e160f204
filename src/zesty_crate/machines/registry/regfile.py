r"""Registry exports as text: "Windows Registry Editor Version 5.00" in UTF-16, and "REGEDIT4" in an 8-bit code page.

Source: Microsoft, "How to add, modify, or delete registry subkeys and values by using a .reg file" (310516).
"""

from __future__ import annotations

import re
import struct
from collections.abc import Iterable, Iterator

from ...errors import ZestyError
from .tree import Block, Value

TEXT, EXPANDABLE, BINARY, NUMBER, TEXTS = 1, 2, 3, 4, 7
_WIDE, _NARROW = "Windows Registry Editor Version 5.00", "REGEDIT4"
_STRING = r'"((?:\\.|[^"\\])*)"'
_VALUE = re.compile(rf"(?:@|{_STRING})\s*=\s*(.*)", re.DOTALL)
_HEX = re.compile(r"hex(?:\(([0-9a-fA-F]+)\))?:([0-9a-fA-F,\s]*)")
_PER_LINE = 25


class RegistryError(ZestyError):
    """A registry cannot be read or written."""


def read_export(content: bytes, title: str) -> list[Block]:
    """What an export says, in its order. Raises `RegistryError` that names the line of what cannot be understood."""
    try:
        text, wide = _decoded(content)
    except UnicodeDecodeError as error:
        raise RegistryError(f"{title} is cut off: {error}.", next_step="Use another copy of it.") from error
    lines = _whole_lines(text)
    _, head = next(lines, (0, ""))
    if head.strip() not in (_WIDE, _NARROW):
        raise _fault(title, 1, head, f"{_WIDE!r} or {_NARROW!r}")
    blocks: list[Block] = []
    for number, line in lines:
        if not line.strip() or line.lstrip().startswith(";"):
            continue
        if line.startswith("[") and line.rstrip().endswith("]"):
            name = line.rstrip()[1:-1]
            blocks.append(Block(name.removeprefix("-"), name.startswith("-"), ()))
            continue
        found = _value_of(line, wide=wide)
        if found is None or not blocks:
            raise _fault(title, number, line, "a key in square brackets" if not blocks else '"name"=value')
        blocks[-1] = blocks[-1]._replace(values=(*blocks[-1].values, found))
    return blocks


def write_export(blocks: Iterable[Block]) -> bytes:
    """An export of version 5.00 that says this: UTF-16 with a byte-order mark, line ends as on Windows."""
    lines = [_WIDE, ""]
    for block in blocks:
        lines.append(f"[{'-' if block.removed else ''}{block.key}]")
        lines += (_value_line(name, value) for name, value in block.values)
        lines.append("")
    return b"\xff\xfe" + "\r\n".join([*lines, ""]).encode("utf-16-le", "surrogatepass")


def _decoded(content: bytes) -> tuple[str, bool]:
    if content.startswith(b"\xff\xfe"):
        return content[2:].decode("utf-16-le", "surrogatepass"), True
    if content.startswith(b"\xef\xbb\xbf"):
        return content[3:].decode("utf-8", "replace"), True
    return content.decode("cp1252", "replace"), not content.startswith(_NARROW.encode())


def _whole_lines(text: str) -> Iterator[tuple[int, str]]:
    """Lines with their numbers; one that ends with a backslash outside quotes continues in the next."""
    begun, start = "", 0
    for number, line in enumerate(re.split(r"\r\n|\r|\n", text), start=1):
        whole, start = begun + (line.strip() if begun else line), start or number
        if re.search(r"hex(\([0-9a-fA-F]+\))?:[^\"]*\\\s*$", whole):
            begun = whole.rstrip()[:-1]
            continue
        yield start, whole
        begun, start = "", 0
    if begun:
        yield start, begun


def _value_of(line: str, *, wide: bool) -> tuple[str, Value | None] | None:
    match = _VALUE.fullmatch(line.strip())
    if match is None:
        return None
    name, said = _unquoted(match.group(1) or ""), match.group(2).strip()
    if said == "-":
        return name, None
    if text := re.fullmatch(_STRING, said, re.DOTALL):
        return name, Value(TEXT, _kept(_unquoted(text.group(1))))
    if number := re.fullmatch(r"dword:([0-9a-fA-F]{1,8})", said):
        return name, Value(NUMBER, struct.pack("<I", int(number.group(1), 16)))
    found = _HEX.fullmatch(said)
    if found is None:
        return None
    kind = int(found.group(1), 16) if found.group(1) else BINARY
    try:
        data = bytes(int(each, 16) for each in found.group(2).replace(" ", "").split(",") if each)
    except ValueError:
        return None
    if not wide and kind in (EXPANDABLE, TEXTS):  # the older form has these in its own code page
        data = data.decode("cp1252", "replace").encode("utf-16-le")
    return name, Value(kind, data)


def _value_line(name: str, value: Value | None) -> str:
    left = f'"{_quoted(name)}"=' if name else "@="
    if value is None:
        return left + "-"
    text = _plain_text(value)
    if text is not None:
        return f'{left}"{_quoted(text)}"'
    if value.kind == NUMBER and len(value.data) == 4:
        return f"{left}dword:{struct.unpack('<I', value.data)[0]:08x}"
    left += "hex:" if value.kind == BINARY else f"hex({value.kind:x}):"
    pairs = [f"{byte:02x}" for byte in value.data]
    rows = [",".join(pairs[start : start + _PER_LINE]) for start in range(0, len(pairs), _PER_LINE)]
    return left + ",\\\r\n  ".join(rows)


def _plain_text(value: Value) -> str | None:
    """A text that can be in quotes: it ends as texts do, and has no line end in it."""
    if value.kind != TEXT or len(value.data) % 2 or not value.data.endswith(b"\0\0"):
        return None
    text = value.data[:-2].decode("utf-16-le", "surrogatepass")
    return None if any(mark in text for mark in "\0\r\n") else text


def _kept(text: str) -> bytes:
    return (text + "\0").encode("utf-16-le", "surrogatepass")


def _quoted(text: str) -> str:
    return text.replace("\\", "\\\\").replace('"', '\\"')


def _unquoted(text: str) -> str:
    return re.sub(r"\\(.)", r"\1", text, flags=re.DOTALL)


def _fault(title: str, number: int, line: str, expected: str) -> RegistryError:
    return RegistryError(
        f"{title} is not a registry export: line {number} is {line.strip()[:60]!r}, expected {expected}.",
        next_step="Export the branch again with the registry editor of the system.",
    )
