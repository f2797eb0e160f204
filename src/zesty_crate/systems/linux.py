"""Linux: calls that Python does not offer, and extended attributes (xattr(7))."""

from __future__ import annotations

import contextlib
import errno
import os
import sys
from collections.abc import Callable, Mapping
from functools import cached_property
from typing import Any

from .access_lists import has_own_entries
from .model import CREATED, MARKS, AnyPath, created_mark, within_bounds

_HERE = -100  # AT_FDCWD: paths are relative to the working folder
_NEVER_REPLACE = 1  # RENAME_NOREPLACE
_BEGIN_WRITING = 2  # SYNC_FILE_RANGE_WRITE
_USERS = "user."
_POSIX_LISTS = ("system.posix_acl_access", "system.posix_acl_default")
_NTFS_LIST = "system.ntfs_acl"
_NTFS_CREATED = "system.ntfs_crtime"  # a count of ticks since 1601 (MS-DTYP, FILETIME)
_TICKS, _FROM_1601_TO_1970_S = 10_000_000, 11_644_473_600
_NONE_HERE = (errno.ENOTSUP, errno.EOPNOTSUPP, errno.ENODATA)
_NO_ROOM = (errno.ENOSPC, errno.E2BIG, errno.ERANGE)
_LACKING = (errno.ENOSYS, errno.EINVAL)  # the kernel, or the file system, does not know the call

if sys.platform == "linux":
    from .posix import Posix

    class Linux(Posix):
        """Linux."""

        name = "linux"

        @cached_property
        def _library(self) -> Any:
            import ctypes

            return ctypes.CDLL(None, use_errno=True)

        @cached_property
        def _rename(self) -> Callable[[bytes, bytes], int] | None:
            """renameat2(2); what it comes to is 0, or the number of the error."""
            import ctypes

            call = getattr(self._library, "renameat2", None)
            if call is None:
                return None

            def rename(source: bytes, target: bytes) -> int:
                failed = call(_HERE, source, _HERE, target, _NEVER_REPLACE)
                return ctypes.get_errno() if failed else 0

            return rename

        def _renamed(self, source: AnyPath, target: AnyPath) -> bool:
            if self._rename is None:
                return False
            code = self._rename(os.fsencode(source), os.fsencode(target))
            if code and code not in _LACKING:
                raise OSError(code, os.strerror(code), str(target if code == errno.EEXIST else source))
            return not code

        def flush_volume(self, folder: AnyPath) -> None:
            """syncfs(2)."""
            import ctypes

            handle = os.open(folder, os.O_RDONLY)
            try:
                if self._library.syncfs(handle) != 0:
                    code = ctypes.get_errno()
                    raise OSError(code, os.strerror(code), str(folder))
            finally:
                os.close(handle)

        def begin_writing_out(self, handle: int) -> None:
            """sync_file_range(2). It only saves time: what it comes to is not asked for, since flushing tells."""
            if self._write_out is not None:
                self._write_out(handle, 0, 0, _BEGIN_WRITING)

        @cached_property
        def _write_out(self) -> Callable[..., object] | None:
            import ctypes

            call: Any = getattr(self._library, "sync_file_range", None)
            if call is not None:
                call.argtypes = [ctypes.c_int, ctypes.c_int64, ctypes.c_int64, ctypes.c_uint]
            found: Callable[..., object] | None = call
            return found

        def forget(self, handle: int) -> None:
            """posix_fadvise(2)."""
            os.posix_fadvise(handle, 0, 0, os.POSIX_FADV_DONTNEED)

        def attributes(self, path: AnyPath) -> dict[str, bytes]:
            """Those of the user, without the ``user.`` before their names."""
            try:
                names = [name for name in os.listxattr(path, follow_symlinks=False) if name.startswith(_USERS)]
                found = {name[len(_USERS) :]: os.getxattr(path, name, follow_symlinks=False) for name in names}
            except OSError as error:
                if error.errno in _NONE_HERE:  # the volume knows none, or it went while we looked
                    return {}
                raise
            return within_bounds(found) | self._created(path)

        @staticmethod
        def _created(path: AnyPath) -> dict[str, bytes]:
            """When a file of a mounted NTFS disk was created, as its driver tells it."""
            try:
                ticks = int.from_bytes(os.getxattr(path, _NTFS_CREATED, follow_symlinks=False), "little")
                return created_mark(ticks / _TICKS - _FROM_1601_TO_1970_S, os.lstat(path).st_mtime)
            except OSError:  # of another file system
                return {}

        def has_access_list(self, path: AnyPath) -> bool:
            """A list of POSIX (acl(5)), or that of a mounted NTFS disk, as its driver tells it."""
            try:
                names = os.listxattr(path, follow_symlinks=False)
                if any(name in _POSIX_LISTS for name in names):
                    return True
                return has_own_entries(os.getxattr(path, _NTFS_LIST, follow_symlinks=False))
            except OSError:  # most have none, and what may not be looked at is not told of here
                return False

        def set_attributes(self, path: AnyPath, attributes: Mapping[str, bytes]) -> bool:
            """The same; marks of other systems cannot be kept."""
            try:
                for name, value in attributes.items():
                    if name == CREATED:
                        self._set_created(path, int(value))
                    elif name not in MARKS:
                        os.setxattr(path, _USERS + name, value, follow_symlinks=False)
            except OSError as error:
                if error.errno in (*_NONE_HERE, *_NO_ROOM):
                    return False
                raise
            return not (set(attributes) & MARKS - {CREATED})

        @staticmethod
        def _set_created(path: AnyPath, seconds: int) -> None:
            """On a mounted NTFS disk; nowhere else can a program say it, which a plan has told."""
            ticks = (seconds + _FROM_1601_TO_1970_S) * _TICKS
            with contextlib.suppress(OSError):
                os.setxattr(path, _NTFS_CREATED, ticks.to_bytes(8, "little"), follow_symlinks=False)
