"""A proxy for the standard module ``winreg``, which only Windows has: the calls that are used, on a dictionary."""

from __future__ import annotations

from types import TracebackType
from typing import Any

HKEY_CURRENT_USER, HKEY_LOCAL_MACHINE = "HKEY_CURRENT_USER", "HKEY_LOCAL_MACHINE"
KEY_READ, KEY_WRITE, KEY_WOW64_64KEY = 0x20019, 0x20006, 0x0100
REG_SZ, REG_EXPAND_SZ, REG_BINARY, REG_DWORD, REG_MULTI_SZ, REG_QWORD = 1, 2, 3, 4, 7, 11


class FakeWinreg:
    """Keys by folded name, each with its own name and its values. ``calls`` are what was asked to change."""

    HKEY_CURRENT_USER, HKEY_LOCAL_MACHINE = HKEY_CURRENT_USER, HKEY_LOCAL_MACHINE
    KEY_READ, KEY_WRITE, KEY_WOW64_64KEY = KEY_READ, KEY_WRITE, KEY_WOW64_64KEY

    def __init__(self) -> None:
        self.keys: dict[str, tuple[str, dict[str, tuple[str, Any, int]]]] = {}
        self.denied: set[str] = set()
        self.calls: list[tuple[str, ...]] = []

    def OpenKey(self, root: str, below: str, reserved: int, access: int) -> _Handle:  # noqa: N802, ARG002
        assert access & KEY_WOW64_64KEY
        return _Handle(self._there(root, below))

    def CreateKeyEx(self, root: str, below: str, reserved: int, access: int) -> _Handle:  # noqa: N802, ARG002
        assert access & KEY_WOW64_64KEY
        names = below.split("\\")
        for depth in range(1, len(names) + 1):
            name = "\\".join([root, *names[:depth]])
            self._allow(name)
            self.keys.setdefault(name.upper(), (name, {}))
        self.calls.append(("create", below))
        return _Handle(f"{root}\\{below}".upper())

    def DeleteKeyEx(self, root: str, below: str, access: int, reserved: int) -> None:  # noqa: N802, ARG002
        name = self._there(root, below)
        if any(each.startswith(name + "\\") for each in self.keys):
            raise PermissionError(13, "a key with keys in it is not deleted")
        self.calls.append(("delete", below))
        del self.keys[name]

    def QueryInfoKey(self, handle: _Handle) -> tuple[int, int, int]:  # noqa: N802
        return len(self._inside(handle)), len(self.keys[handle.name][1]), 0

    def EnumKey(self, handle: _Handle, index: int) -> str:  # noqa: N802
        return self._inside(handle)[index]

    def EnumValue(self, handle: _Handle, index: int) -> tuple[str, Any, int]:  # noqa: N802
        return list(self.keys[handle.name][1].values())[index]

    def SetValueEx(self, handle: _Handle, name: str, reserved: int, kind: int, value: Any) -> None:  # noqa: N802, ARG002
        expected = {REG_SZ: str, REG_EXPAND_SZ: str, REG_DWORD: int, REG_QWORD: int, REG_MULTI_SZ: list}
        assert isinstance(value, expected.get(kind, bytes)), (kind, value)
        self.keys[handle.name][1][name.upper()] = (name, value, kind)

    def DeleteValue(self, handle: _Handle, name: str) -> None:  # noqa: N802
        if name.upper() not in self.keys[handle.name][1]:
            raise FileNotFoundError(2, "no such value")
        del self.keys[handle.name][1][name.upper()]

    def _inside(self, handle: _Handle) -> list[str]:
        depth = handle.name.count("\\") + 1
        return [
            name.rpartition("\\")[2]
            for folded, (name, _) in self.keys.items()
            if folded.startswith(handle.name + "\\") and folded.count("\\") == depth
        ]

    def _there(self, root: str, below: str) -> str:
        name = f"{root}\\{below}".upper()
        self._allow(name)
        if name not in self.keys:
            raise FileNotFoundError(2, "no such key")
        return name

    def _allow(self, name: str) -> None:
        if name.upper() in self.denied:
            raise PermissionError(13, "Access is denied")


class _Handle:
    def __init__(self, name: str) -> None:
        self.name = name

    def __enter__(self) -> _Handle:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        pass
