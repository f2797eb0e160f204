"""Keys and values of a registry, as a value: what an export says, and what merging it makes of another one."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from typing import NamedTuple

_SHORT = {
    "HKCR": "HKEY_CLASSES_ROOT",
    "HKCU": "HKEY_CURRENT_USER",
    "HKLM": "HKEY_LOCAL_MACHINE",
    "HKU": "HKEY_USERS",
    "HKCC": "HKEY_CURRENT_CONFIG",
}


class Value(NamedTuple):
    """A value: the number of its type (REG_SZ is 1, REG_BINARY 3, REG_DWORD 4, ...) and its bytes as they are kept."""

    kind: int
    data: bytes


class Block(NamedTuple):
    """What an export says about one key: to be removed with all in it, or the values to set; None removes a value."""

    key: str
    removed: bool
    values: tuple[tuple[str, Value | None], ...]


@dataclass(slots=True)
class _Key:
    name: str
    values: dict[str, tuple[str, Value]] = field(default_factory=dict)


class Tree:
    """All keys, in the order in which they came, with their values. Case does not count, and is kept."""

    def __init__(self, blocks: Iterable[Block] = ()) -> None:
        self._keys: dict[str, _Key] = {}
        self.merge(blocks)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Tree) and self._plain() == other._plain()

    def merge(self, blocks: Iterable[Block]) -> None:
        """Do what an export says, in its order: create, replace, and remove where it is marked so."""
        for block in blocks:
            key = whole_name(block.key)
            if block.removed:
                self.remove(key)
                continue
            values = self._made(key).values
            for name, value in block.values:
                if value is None:
                    values.pop(name.upper(), None)
                else:
                    values[name.upper()] = (name, value)

    def remove(self, key: str) -> None:
        """Remove a key with all in it."""
        folded = whole_name(key).upper()
        gone = [each for each in self._keys if each == folded or each.startswith(folded + "\\")]
        for each in gone:
            del self._keys[each]

    def branch(self, key: str) -> list[Block]:
        """A key with all in it, as blocks; nothing when there is no such key."""
        folded = whole_name(key).upper()
        return [
            block
            for name, block in zip(self._keys, self.blocks(), strict=True)
            if name == folded or name.startswith(folded + "\\")
        ]

    def blocks(self) -> Iterator[Block]:
        """Everything, as blocks that make it anew."""
        for key in self._keys.values():
            yield Block(key.name, removed=False, values=tuple(key.values.values()))

    def _made(self, key: str) -> _Key:
        """The key of this name; those above it are made with it, as a registry does."""
        names = key.split("\\")
        for depth in range(1, len(names) + 1):
            name = "\\".join(names[:depth])
            if depth > 1 or len(names) == 1:  # a root is no key that anybody makes
                self._keys.setdefault(name.upper(), _Key(name))
        return self._keys[key.upper()]

    def _plain(self) -> dict[str, dict[str, Value]]:
        return {name: {each: value for each, (_, value) in key.values.items()} for name, key in self._keys.items()}


class Difference(NamedTuple):
    """A value that two registries have and that differs: its key and name, and either content as a text."""

    value: str
    carried: str
    there: str
    key: str
    name: str


def differences_of(carried: Iterable[Block], there: Iterable[Block]) -> Iterator[Difference]:
    """The values of one that another registry has under the same key and name, with another type or content."""
    known = {
        (whole_name(block.key).upper(), name.upper()): value
        for block in there
        for name, value in block.values
        if value is not None
    }
    for block in carried:
        for name, value in block.values:
            other = known.get((whole_name(block.key).upper(), name.upper()))
            if value is not None and other is not None and value != other:
                full = value_name(block.key, name)
                yield Difference(full, shown_value(value), shown_value(other), block.key, name)


def value_name(key: str, name: str) -> str:
    """A value by its key and name; a key's own is called (default)."""
    return f"{whole_name(key)}\\{name or '(default)'}"


def shown_value(value: Value) -> str:
    """A value for people: a text as it is, a number, or bytes."""
    if value.kind in (1, 2):
        return value.data.decode("utf-16-le", "replace").removesuffix("\0")
    if value.kind == 7:
        return "; ".join(each for each in value.data.decode("utf-16-le", "replace").split("\0") if each)
    if value.kind in (4, 11) and len(value.data) in (4, 8):
        return str(int.from_bytes(value.data, "little"))
    return f"{len(value.data)} bytes: {value.data[:16].hex(' ')}"


def whole_name(key: str) -> str:
    """A key's name with its root spelled out."""
    root, separator, rest = key.partition("\\")
    return _SHORT.get(root.upper(), root) + separator + rest
