"""Small hive files, written by the published description of the format ("Windows registry file format specification",
sections "Base block", "Hive bins data", "Key node", "Key values")."""

from __future__ import annotations

import struct
from collections.abc import Mapping
from functools import reduce
from typing import Union

Key = Mapping[str, Union[str, int, bytes, "Key"]]  # what has names inside is a key, all else a value

_NONE = 0xFFFFFFFF
_BIN_HEADER = 32
_VALUES = (str, int, bytes)
_TEXT, _BYTES, _NUMBER = 1, 3, 4


class _Cells:
    def __init__(self) -> None:
        self.content = bytearray()

    def add(self, data: bytes) -> int:
        offset = _BIN_HEADER + len(self.content)
        size = -(-(len(data) + 4) // 8) * 8
        self.content += struct.pack("<i", -size) + data.ljust(size - 4, b"\0")
        return offset

    def security(self) -> int:
        """A cell of who may do what, the only one; its descriptor lists nobody."""
        own = _BIN_HEADER + len(self.content)
        descriptor = struct.pack("<BBHIIII", 1, 0, 0x8000, 0, 0, 0, 0)
        return self.add(struct.pack("<2sHIIII", b"sk", 0, own, own, 1, len(descriptor)) + descriptor)

    def value(self, name: str, value: str | int | bytes) -> int:
        if isinstance(value, int):
            kind, size, data = _NUMBER, 0x80000004, value
        elif isinstance(value, bytes):
            kind, size, data = _BYTES, len(value), self.add(value)
        else:
            text = (value + "\0").encode("utf-16-le")
            kind, size, data = _TEXT, len(text), self.add(text)
        return self.add(struct.pack("<2sHIIIHH", b"vk", len(name), size, data, kind, 1, 0) + name.encode("latin-1"))

    def key(self, name: str, content: Key, around: int = 0, security: int = _NONE) -> int:
        root = not around
        place = self.add(bytes(76 + len(name)))  # before what is in it: readers look for the root at the beginning
        values = [self.value(each, value) for each, value in content.items() if isinstance(value, _VALUES)]
        inner = [
            (each, self.key(each, value, place, security))
            for each, value in content.items()
            if not isinstance(value, _VALUES)
        ]
        listed = self.add(struct.pack(f"<{len(values)}I", *values)) if values else _NONE
        pairs = b"".join(struct.pack("<I4s", offset, each[:4].encode("latin-1")) for each, offset in inner)
        subkeys = self.add(struct.pack("<2sH", b"lf", len(inner)) + pairs) if inner else _NONE
        numbers = (0, around, len(inner), 0, subkeys, _NONE, len(values), listed, security, _NONE, 0, 0, 0, 0, 0)
        head = struct.pack("<2sHQ15IHH", b"nk", 0x2C if root else 0x20, 0, *numbers, len(name), 0)
        start = place - _BIN_HEADER + 4
        self.content[start : start + len(head) + len(name)] = head + name.encode("latin-1")
        return place


def hive(content: Key) -> bytes:
    """A hive with these keys and values at its root."""
    cells = _Cells()
    root = cells.key("ROOT", content, security=cells.security())
    size = -(-(_BIN_HEADER + len(cells.content)) // 4096) * 4096
    left = size - _BIN_HEADER - len(cells.content)
    if left:
        cells.content += struct.pack("<i", left).ljust(left, b"\0")
    head = struct.pack("<4sIIQIIIIIII", b"regf", 1, 1, 0, 1, 3, 0, 1, root, size, 1).ljust(508, b"\0")
    total = reduce(lambda one, other: one ^ other, struct.unpack("<127I", head))
    base = (head + struct.pack("<I", total)).ljust(4096, b"\0")
    return base + struct.pack("<4sIIQQI", b"hbin", 0, size, 0, 0, 0) + bytes(cells.content)
