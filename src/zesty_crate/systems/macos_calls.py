"""The calls of macOS themselves, by ctypes."""

from __future__ import annotations

import ctypes
import os
import sys
from functools import cached_property
from typing import Any

_EXTENDED = 0x100  # ACL_TYPE_EXTENDED
_NOT_THROUGH = 1  # XATTR_NOFOLLOW: a link itself is meant

if sys.platform == "darwin":
    import fcntl

    class RealMacCalls:
        """Calls of the system library; its 64-bit types are declared, since ctypes would take them for smaller ones."""

        @cached_property
        def _library(self) -> Any:
            library = ctypes.CDLL(None, use_errno=True)
            text, size, flags = ctypes.c_char_p, ctypes.c_size_t, ctypes.c_int
            library.renamex_np.argtypes = [text, text, ctypes.c_uint]
            library.listxattr.argtypes = [text, ctypes.c_void_p, size, flags]
            library.listxattr.restype = ctypes.c_ssize_t
            library.getxattr.argtypes = [text, text, ctypes.c_void_p, size, ctypes.c_uint32, flags]
            library.getxattr.restype = ctypes.c_ssize_t
            library.setxattr.argtypes = [text, text, ctypes.c_void_p, size, ctypes.c_uint32, flags]
            library.acl_get_link_np.restype = ctypes.c_void_p
            library.acl_get_link_np.argtypes = [text, flags]
            library.acl_free.argtypes = [ctypes.c_void_p]
            library.lchflags.argtypes = [text, ctypes.c_uint]
            return library

        def rename(self, source: bytes, target: bytes, flags: int) -> None:
            """renamex_np(2)."""
            self._require(self._library.renamex_np(source, target, flags), target)

        def control(self, handle: int, command: int) -> None:
            """fcntl(2)."""
            fcntl.fcntl(handle, command)

        def attribute_names(self, path: bytes) -> list[str]:
            """listxattr(2)."""
            size = self._require(self._library.listxattr(path, None, 0, _NOT_THROUGH), path)
            buffer = ctypes.create_string_buffer(max(size, 1))
            size = self._require(self._library.listxattr(path, buffer, size, _NOT_THROUGH), path)
            return [each.decode("utf-8", "surrogateescape") for each in buffer.raw[:size].split(b"\0") if each]

        def attribute(self, path: bytes, name: str) -> bytes:
            """getxattr(2)."""
            raw = name.encode("utf-8", "surrogateescape")
            size = self._require(self._library.getxattr(path, raw, None, 0, 0, _NOT_THROUGH), path)
            buffer = ctypes.create_string_buffer(max(size, 1))
            size = self._require(self._library.getxattr(path, raw, buffer, size, 0, _NOT_THROUGH), path)
            return buffer.raw[:size]

        def set_attribute(self, path: bytes, name: str, value: bytes) -> None:
            """setxattr(2)."""
            raw = name.encode("utf-8", "surrogateescape")
            self._require(self._library.setxattr(path, raw, value, len(value), 0, _NOT_THROUGH), path)

        def flags(self, path: bytes) -> int:
            """The flags of lstat(2)."""
            return os.lstat(path).st_flags

        def has_access_list(self, path: bytes) -> bool:
            """acl_get_link_np(3)."""
            found = self._library.acl_get_link_np(path, _EXTENDED)
            if found:
                self._library.acl_free(found)
            return bool(found)

        def set_flags(self, path: bytes, flags: int) -> None:
            """lchflags(2)."""
            self._require(self._library.lchflags(path, flags), path)

        def dates(self, path: bytes) -> tuple[float, float]:
            """lstat(2)."""
            facts = os.lstat(path)
            return facts.st_birthtime, facts.st_mtime

        def set_modified(self, path: bytes, seconds: float) -> None:
            """Python's own; the date of the last use stays."""
            os.utime(path, (os.lstat(path).st_atime, seconds), follow_symlinks=False)

        @staticmethod
        def _require(result: int, path: bytes) -> int:
            if result < 0:
                code = ctypes.get_errno()
                raise OSError(code, os.strerror(code), os.fsdecode(path))
            return result
