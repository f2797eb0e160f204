"""A registry that can be changed: the real one of a Windows computer, or an export that represents it."""

from __future__ import annotations

import contextlib
import struct
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any, Protocol

from ...systems import windows_registry
from ..disk import Disk
from .regfile import BINARY, EXPANDABLE, NUMBER, TEXT, TEXTS, RegistryError, read_export, write_export
from .tree import Block, Tree, Value, whole_name

_QUAD = 11


class SystemRegistry(Protocol):
    """A registry, by branches."""

    def branch(self, key: str) -> list[Block]:
        """A key with all in it; nothing when there is no such key. Raises `RegistryError`."""

    def merge(self, blocks: Sequence[Block]) -> None:
        """Do what an export says: create, replace, and remove where it is marked so. Raises `RegistryError`."""

    def saved(self, key: str) -> bytes:
        """All that `restore` needs to have this branch again as it is now."""

    def restore(self, key: str, saved: bytes) -> None:
        """Have a branch again as it was when it was saved."""


class ExportedRegistry:
    """A file with the export of a whole registry; it is replaced whole, or not at all."""

    def __init__(self, path: Path, disk: Disk) -> None:
        self._path = path
        self._disk = disk

    def branch(self, key: str) -> list[Block]:
        """A branch of the file."""
        return self._tree().branch(key)

    def merge(self, blocks: Sequence[Block]) -> None:
        """Write the file anew, unless that would change nothing."""
        tree = self._tree()
        tree.merge(blocks)
        if tree != self._tree():
            self._disk.write_bytes(self._path, write_export(tree.blocks()))

    def saved(self, key: str) -> bytes:  # noqa: ARG002  the file is more than its branches
        """The file as it is, to the byte."""
        return self._content()

    def restore(self, key: str, saved: bytes) -> None:
        """The file to the byte, where nothing else in it was changed since; else this branch of it alone."""
        before, now = Tree(read_export(saved, "what was saved")), self._tree()
        now.remove(key)
        now.merge(before.branch(key))
        self._disk.write_bytes(self._path, saved if now == before else write_export(now.blocks()))

    def _tree(self) -> Tree:
        return Tree(read_export(self._content(), str(self._path)))

    def _content(self) -> bytes:
        if self._disk.facts(self._path) is None:
            return write_export(())
        return self._disk.read_bytes(self._path)


class WindowsRegistry:
    """The registry of the Windows computer that the program runs on, through the standard module ``winreg``.

    64-bit keys are meant, whatever the program itself is.
    """

    def __init__(self, winreg: Any) -> None:
        self._reg = winreg

    def branch(self, key: str) -> list[Block]:
        """Read a branch."""
        return list(self._walk(whole_name(key)))

    def merge(self, blocks: Sequence[Block]) -> None:
        """Do what an export says, key by key."""
        for block in blocks:
            key = whole_name(block.key)
            if block.removed:
                self._remove(key)
            else:
                self._set(key, block)

    def saved(self, key: str) -> bytes:
        """An export of the branch."""
        return write_export(self.branch(key))

    def restore(self, key: str, saved: bytes) -> None:
        """Remove the branch, and make it anew."""
        self._remove(whole_name(key))
        self.merge(read_export(saved, "what was saved"))

    def _walk(self, key: str) -> Iterator[Block]:
        try:
            handle = self._open(key, self._reg.KEY_READ)
        except FileNotFoundError:
            return
        except OSError as error:
            raise _denied(key, error) from error
        with handle:
            subkeys, number, _ = self._reg.QueryInfoKey(handle)
            values = [self._reg.EnumValue(handle, each) for each in range(number)]
            names = [self._reg.EnumKey(handle, each) for each in range(subkeys)]
        yield Block(key, removed=False, values=tuple((name, _read(kind, said)) for name, said, kind in values))
        for name in names:
            yield from self._walk(f"{key}\\{name}")

    def _set(self, key: str, block: Block) -> None:
        root, _, below = key.partition("\\")
        access = self._reg.KEY_WRITE | self._reg.KEY_WOW64_64KEY
        try:
            with self._reg.CreateKeyEx(self._root(root), below, 0, access) as handle:
                for name, value in block.values:
                    if value is None:
                        with contextlib.suppress(FileNotFoundError):
                            self._reg.DeleteValue(handle, name)
                    else:
                        self._reg.SetValueEx(handle, name, 0, value.kind, _written(value))
        except OSError as error:
            raise _denied(key, error) from error

    def _remove(self, key: str) -> None:
        """Remove a key, those inside it first, as the system asks for."""
        root, _, below = key.partition("\\")
        for block in reversed(self.branch(key)):
            try:
                inner = below + block.key[len(key) :]
                self._reg.DeleteKeyEx(self._root(root), inner, self._reg.KEY_WOW64_64KEY, 0)
            except OSError as error:
                raise _denied(block.key, error) from error

    def _open(self, key: str, access: int) -> Any:
        root, _, below = key.partition("\\")
        return self._reg.OpenKey(self._root(root), below, 0, access | self._reg.KEY_WOW64_64KEY)

    def _root(self, name: str) -> Any:
        root = getattr(self._reg, name.upper(), None)
        if root is None:
            raise RegistryError(
                f"{name!r} is not a root of the registry.", next_step="Correct the branch in the guide."
            )
        return root


def windows_machine() -> str:
    """What a Windows installation calls itself; empty where it cannot be read."""
    registry = this_registry()
    blocks = registry.branch(r"HKEY_LOCAL_MACHINE\SOFTWARE\Microsoft\Cryptography") if registry is not None else []
    named = {name.casefold(): value for block in blocks for name, value in block.values}
    found = named.get("machineguid")
    return "" if found is None else found.data.decode("utf-16-le", "replace").rstrip("\0")


def this_registry() -> SystemRegistry | None:
    """The registry of the computer that the program runs on; None where there is none."""
    module = windows_registry()
    return None if module is None else WindowsRegistry(module)


def _read(kind: int, said: Any) -> Value:
    """A value as ``winreg`` tells it, as bytes."""
    if kind in (TEXT, EXPANDABLE):
        return Value(kind, ((said or "") + "\0").encode("utf-16-le", "surrogatepass"))
    if kind == TEXTS:
        texts = "".join(f"{each}\0" for each in said or ()) + "\0"
        return Value(kind, texts.encode("utf-16-le", "surrogatepass"))
    if kind in (NUMBER, _QUAD):
        return Value(kind, struct.pack("<I" if kind == NUMBER else "<Q", said or 0))
    return Value(kind, said or b"")


def _written(value: Value) -> Any:
    """A value as ``winreg`` takes it."""
    if value.kind in (TEXT, EXPANDABLE):
        return value.data.decode("utf-16-le", "surrogatepass").removesuffix("\0")
    if value.kind == TEXTS:
        texts = value.data.decode("utf-16-le", "surrogatepass").removesuffix("\0").split("\0")
        return [each for each in texts if each]
    if value.kind == NUMBER and len(value.data) == 4:
        return struct.unpack("<I", value.data)[0]
    if value.kind == _QUAD and len(value.data) == 8:
        return struct.unpack("<Q", value.data)[0]
    return value.data if value.kind == BINARY or value.data else None


def _denied(key: str, error: OSError) -> RegistryError:
    return RegistryError(
        f"The registry key {key} cannot be opened or changed: {error.strerror or error}.",
        next_step="Run the command as the user whose key it is, or as an administrator.",
    )
