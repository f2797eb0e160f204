"""Hive files, read by the published description of their form ("Windows registry file format specification").

The reader is bounded: it believes no offset and no length that leads out of the file, and no list within itself.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from dataclasses import dataclass

from .tree import Value

_BASE_BYTES = 4096  # of the block before the cells
_NONE = 0xFFFFFFFF
_LATIN_NAME = 0x20  # of a key: one byte a character
_LATIN_VALUE = 0x1  # and of a value
_INLINE = 0x80000000  # a value of up to four bytes stands where others have its place
_SEGMENT_BYTES = 16_344  # longer values are in several cells
_MOST_VALUES = 100_000  # of one key
_DEEPEST_LIST = 4


class HiveFormatError(ValueError):
    """What is wrong with a hive."""


@dataclass(frozen=True, slots=True)
class HiveKey:
    """A key: its name, and where what is in it is told of."""

    name: str
    subkeys: int
    subkeys_at: int
    values: int
    values_at: int


class HiveFile:
    """A whole hive in memory. Raises `HiveFormatError`."""

    def __init__(self, content: bytes) -> None:
        self._content = content
        if content[:4] != b"regf" or len(content) < _BASE_BYTES + 32:
            raise HiveFormatError("it does not begin as one")
        (self._root,) = struct.unpack_from("<I", content, 36)

    @property
    def is_unfinished(self) -> bool:
        """Whether Windows was stopped while it wrote: the latest changes are in a log beside it."""
        first, second = struct.unpack_from("<II", self._content, 4)
        return bool(first != second)

    def root(self) -> HiveKey:
        """The key around all."""
        return self._key(self._root)

    def subkeys(self, key: HiveKey) -> Iterator[HiveKey]:
        """The keys right below one, in the order of the hive."""
        if key.subkeys:
            yield from (self._key(each) for each in self._listed(key.subkeys_at, _DEEPEST_LIST))

    def values(self, key: HiveKey) -> Iterator[tuple[str, Value]]:
        """The values of a key; the one without a name is its default."""
        if not key.values:
            return
        if key.values > _MOST_VALUES:
            raise HiveFormatError(f"the key {key.name} says that it has {key.values:,} values")
        for offset in self._numbers(self._cell(key.values_at), 0, key.values):
            yield self._value(offset)

    def _cell(self, offset: int) -> bytes:
        """What a cell in use holds."""
        at = _BASE_BYTES + offset
        if offset == _NONE or at + 4 > len(self._content):
            raise HiveFormatError(f"a cell at {offset} is out of it")
        (size,) = struct.unpack_from("<i", self._content, at)
        if size >= 0 or at - size > len(self._content):
            raise HiveFormatError(f"there is no cell at {offset}")
        return self._content[at + 4 : at - size]

    def _key(self, offset: int) -> HiveKey:
        cell = self._cell(offset)
        if cell[:2] != b"nk" or len(cell) < 76:
            raise HiveFormatError(f"there is no key at {offset}")
        (flags,) = struct.unpack_from("<H", cell, 2)
        subkeys, _, subkeys_at, _, values, values_at = struct.unpack_from("<6I", cell, 20)
        (length,) = struct.unpack_from("<H", cell, 72)
        return HiveKey(_name(cell, 76, length, latin=flags & _LATIN_NAME), subkeys, subkeys_at, values, values_at)

    def _listed(self, offset: int, deepest: int) -> Iterator[int]:
        """The places of subkeys; a list may be one of lists."""
        cell = self._cell(offset)
        kind, number = cell[:2], int.from_bytes(cell[2:4], "little")
        if kind in (b"lf", b"lh"):
            yield from self._numbers(cell, 4, number, step=8)
        elif kind == b"li":
            yield from self._numbers(cell, 4, number)
        elif kind == b"ri" and deepest:
            for each in self._numbers(cell, 4, number):
                yield from self._listed(each, deepest - 1)
        else:
            raise HiveFormatError(f"there is no list of keys at {offset}")

    @staticmethod
    def _numbers(cell: bytes, start: int, number: int, step: int = 4) -> Iterator[int]:
        if start + number * step > len(cell):
            raise HiveFormatError("a list is longer than its cell")
        for at in range(start, start + number * step, step):
            yield int.from_bytes(cell[at : at + 4], "little")

    def _value(self, offset: int) -> tuple[str, Value]:
        cell = self._cell(offset)
        if cell[:2] != b"vk" or len(cell) < 20:
            raise HiveFormatError(f"there is no value at {offset}")
        length, size, place, kind, flags = struct.unpack_from("<HIIIH", cell, 2)
        name = _name(cell, 20, length, latin=flags & _LATIN_VALUE)
        if size & _INLINE:
            return name, Value(kind, cell[8 : 8 + min(size & ~_INLINE, 4)])
        return name, Value(kind, self._data(place, size) if size else b"")

    def _data(self, offset: int, size: int) -> bytes:
        cell = self._cell(offset)
        if size > _SEGMENT_BYTES and cell[:2] == b"db":
            number, listed = struct.unpack_from("<HI", cell, 2)
            segments = self._numbers(self._cell(listed), 0, number)
            cell = b"".join(self._cell(each)[:_SEGMENT_BYTES] for each in segments)
        if size > len(cell):
            raise HiveFormatError(f"a value says {size:,} bytes, and has {len(cell):,}")
        return cell[:size]


def _name(cell: bytes, start: int, length: int, *, latin: int) -> str:
    if start + length > len(cell):
        raise HiveFormatError("a name is longer than its cell")
    raw = cell[start : start + length]
    return raw.decode("latin-1") if latin else raw.decode("utf-16-le", "surrogatepass")
