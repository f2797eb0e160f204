"""The calls of Windows themselves: the standard library's where it has them, else by ctypes."""

from __future__ import annotations

import os
import sys
import time

from .model import AnyPath

if sys.platform == "win32":
    import ctypes
    import msvcrt
    from ctypes import wintypes
    from functools import cached_property
    from pathlib import Path
    from typing import Any

    _NONE = ctypes.c_void_p(-1).value
    _WRITE_ATTRIBUTES, _OPEN_EXISTING = 0x100, 3  # FILE_WRITE_ATTRIBUTES
    _FOLDERS_AND_LINKS = 0x02200000  # FILE_FLAG_BACKUP_SEMANTICS, FILE_FLAG_OPEN_REPARSE_POINT
    _FROM_1601_TO_1970_S = 11_644_473_600
    _WITH_LIST = 4  # DACL_SECURITY_INFORMATION
    _AT_END = (38, 87, 1, 50)  # ERROR_HANDLE_EOF; and a volume that knows no streams

    class _Stream(ctypes.Structure):
        _fields_ = (("size", ctypes.c_int64), ("name", ctypes.c_wchar * 296))

    class RealWindowsCalls:
        """Windows itself."""

        @cached_property
        def _kernel(self) -> Any:
            kernel = ctypes.WinDLL("kernel32", use_last_error=True)
            kernel.FindFirstStreamW.restype = ctypes.c_void_p
            kernel.FindFirstStreamW.argtypes = [wintypes.LPCWSTR, ctypes.c_int, ctypes.c_void_p, wintypes.DWORD]
            kernel.CreateFileW.restype = ctypes.c_void_p
            kernel.FindNextStreamW.argtypes = [ctypes.c_void_p, ctypes.c_void_p]
            kernel.FindClose.argtypes = [ctypes.c_void_p]
            kernel.GetFileAttributesW.restype = wintypes.DWORD
            return kernel

        def rename(self, source: AnyPath, target: AnyPath) -> None:
            """Python asks for no replacing here."""
            os.rename(source, target)

        def replace(self, source: AnyPath, target: AnyPath) -> None:
            """Python's own."""
            os.replace(source, target)

        def remove(self, path: AnyPath) -> None:
            """Python's own."""
            os.unlink(path)

        def mode(self, path: AnyPath) -> int:
            """Python's own."""
            return os.lstat(path).st_mode

        def set_mode(self, path: AnyPath, mode: int) -> None:
            """Python's own."""
            os.chmod(path, mode)

        def flush(self, path: AnyPath) -> None:
            """Open, flush and close."""
            handle = os.open(path, os.O_RDWR | os.O_BINARY)
            try:
                os.fsync(handle)
            finally:
                os.close(handle)

        def is_mount_point(self, path: AnyPath) -> bool:
            """Python's own, which asks GetVolumePathName."""
            return os.path.ismount(path)

        def block_bytes(self, folder: AnyPath) -> int:
            """Sectors by bytes."""
            sectors, size, free, total = (wintypes.DWORD() for _ in range(4))
            root = Path(os.fspath(folder)).absolute().anchor
            told = self._kernel.GetDiskFreeSpaceW(root, *map(ctypes.byref, (sectors, size, free, total)))
            return sectors.value * size.value if told else 4096

        def streams(self, path: AnyPath) -> list[tuple[str, int]]:
            """Those beside the content itself, which is named ``::$DATA``."""
            found, data = list[tuple[str, int]](), _Stream()
            handle = self._kernel.FindFirstStreamW(os.fspath(path), 0, ctypes.byref(data), 0)
            if handle == _NONE:
                code = ctypes.get_last_error()
                if code in _AT_END:
                    return []
                raise ctypes.WinError(code)
            try:
                while True:
                    name = data.name.split(":")[1]
                    if name:
                        found.append((name, data.size))
                    if not self._kernel.FindNextStreamW(handle, ctypes.byref(data)):
                        return found
            finally:
                self._kernel.FindClose(handle)

        def read_stream(self, path: AnyPath, name: str) -> bytes:
            """As a file whose name has a colon."""
            with open(f"{os.fspath(path)}:{name}", "rb") as stream:
                return stream.read()

        def write_stream(self, path: AnyPath, name: str, content: bytes) -> None:
            """As a file whose name has a colon."""
            with open(f"{os.fspath(path)}:{name}", "wb") as stream:
                stream.write(content)

        def attributes(self, path: AnyPath) -> int:
            """Raises `OSError` where there is nothing."""
            found: int = self._kernel.GetFileAttributesW(os.fspath(path))
            if found == 0xFFFFFFFF:
                raise ctypes.WinError(ctypes.get_last_error())
            return found

        def set_attributes(self, path: AnyPath, attributes: int) -> None:
            """Set all of them."""
            if not self._kernel.SetFileAttributesW(os.fspath(path), attributes):
                raise ctypes.WinError(ctypes.get_last_error())

        def dates(self, path: AnyPath) -> tuple[float, float]:
            """Python's own: here, its date of change of a file's record is that of its creation."""
            facts = os.lstat(path)
            return facts.st_ctime, facts.st_mtime

        def set_created(self, path: AnyPath, seconds: int) -> None:
            """Opened for its attributes alone, folders too."""
            handle = self._kernel.CreateFileW(
                os.fspath(path), _WRITE_ATTRIBUTES, 7, None, _OPEN_EXISTING, _FOLDERS_AND_LINKS, None
            )
            if handle == _NONE:
                raise ctypes.WinError(ctypes.get_last_error())
            try:
                moment = ctypes.c_int64((seconds + _FROM_1601_TO_1970_S) * 10_000_000)
                if not self._kernel.SetFileTime(ctypes.c_void_p(handle), ctypes.byref(moment), None, None):
                    raise ctypes.WinError(ctypes.get_last_error())
            finally:
                self._kernel.CloseHandle(ctypes.c_void_p(handle))

        def descriptor(self, path: AnyPath) -> bytes:
            """Asked for its size first."""
            call, size = ctypes.WinDLL("advapi32", use_last_error=True).GetFileSecurityW, wintypes.DWORD()
            call(os.fspath(path), _WITH_LIST, None, 0, ctypes.byref(size))
            buffer = ctypes.create_string_buffer(max(size.value, 1))
            if not call(os.fspath(path), _WITH_LIST, buffer, size, ctypes.byref(size)):
                raise ctypes.WinError(ctypes.get_last_error())
            return buffer.raw

        def lock(self, handle: int) -> None:
            """Its first byte, at once or not at all."""
            msvcrt.locking(handle, msvcrt.LK_NBLCK, 1)

        def sleep(self, seconds: float) -> None:
            """Wait."""
            time.sleep(seconds)
