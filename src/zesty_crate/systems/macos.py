"""macOS: calls that Python does not offer (rename(2), fcntl(2), getxattr(2), chflags(2)).

They are given to it, so that its rules can be tried anywhere.
"""

from __future__ import annotations

import errno
import os
import stat
import sys
from collections.abc import Mapping
from typing import Protocol

from .model import CREATED, HIDDEN, MARKS, AnyPath, created_mark, within_bounds

_NEVER_REPLACE = 4  # RENAME_EXCL
FULL_FLUSH = 51  # F_FULLFSYNC
_NO_ATTRIBUTE, _UNSUPPORTED = 93, 45  # ENOATTR and ENOTSUP, by the numbers that they have there
_NO_ROOM = (28, 7, 34, 63)  # ENOSPC, E2BIG, ERANGE, ENAMETOOLONG
_LACKING = (78, 22, _UNSUPPORTED)  # ENOSYS, EINVAL: the volume does not know the call

# What the system keeps for itself: where a file came from, when it was last opened, who may.
_SYSTEMS = (
    "com.apple.quarantine",
    "com.apple.provenance",
    "com.apple.macl",
    "com.apple.system.",
    "com.apple.lastuseddate",
)


class MacCalls(Protocol):
    """What macOS is asked. All raise `OSError` with the system's own number."""

    def rename(self, source: bytes, target: bytes, flags: int) -> None:
        """renamex_np(2)."""

    def control(self, handle: int, command: int) -> None:
        """fcntl(2)."""

    def attribute_names(self, path: bytes) -> list[str]:
        """listxattr(2), of a link itself."""

    def attribute(self, path: bytes, name: str) -> bytes:
        """getxattr(2), of a link itself."""

    def set_attribute(self, path: bytes, name: str, value: bytes) -> None:
        """setxattr(2), of a link itself."""

    def flags(self, path: bytes) -> int:
        """The flags of stat(2)."""

    def has_access_list(self, path: bytes) -> bool:
        """Whether acl_get_link_np(3) finds one."""

    def set_flags(self, path: bytes, flags: int) -> None:
        """chflags(2)."""

    def dates(self, path: bytes) -> tuple[float, float]:
        """When it was created and last changed (lstat(2)), in seconds since 1970."""

    def set_modified(self, path: bytes, seconds: float) -> None:
        """lutimes(2); a date before that of its creation becomes that, too."""


if sys.platform != "win32":
    from .posix import Posix

    class MacOs(Posix):
        """macOS."""

        name = "macos"
        sets_creation = True

        def __init__(self, calls: MacCalls) -> None:
            self._calls = calls

        def _renamed(self, source: AnyPath, target: AnyPath) -> bool:
            try:
                self._calls.rename(os.fsencode(source), os.fsencode(target), _NEVER_REPLACE)
            except OSError as error:
                if error.errno in _LACKING:
                    return False
                raise
            return True

        def flush(self, handle: int) -> None:
            """fsync(2) leaves it to the drive when it writes; this call waits. Shares do not know it."""
            try:
                self._calls.control(handle, FULL_FLUSH)
            except OSError as error:
                if error.errno not in (*_LACKING, errno.ENOTTY):
                    raise
                os.fsync(handle)

        def flush_volume(self, folder: AnyPath) -> None:
            """What sync(2) has begun is waited for by a full flush, which is for the whole drive."""
            os.sync()
            self.flush_at(folder)

        def attributes(self, path: AnyPath) -> dict[str, bytes]:
            """Tags, notes, labels, resource forks and those of programs."""
            raw, found = os.fsencode(path), dict[str, bytes]()
            try:
                for name in self._calls.attribute_names(raw):
                    if not name.startswith(_SYSTEMS):
                        found[name] = self._calls.attribute(raw, name)
                hidden = bool(self._calls.flags(raw) & stat.UF_HIDDEN)
                created = created_mark(*self._calls.dates(raw))
            except OSError as error:
                if error.errno in (_NO_ATTRIBUTE, _UNSUPPORTED):
                    return {}
                raise
            kept = within_bounds(found) | created
            return {**kept, HIDDEN: b""} if hidden else kept

        def has_access_list(self, path: AnyPath) -> bool:
            """An access list of its own; what is inherited is written there, too, and not told apart."""
            try:
                return self._calls.has_access_list(os.fsencode(path))
            except OSError:
                return False

        def set_attributes(self, path: AnyPath, attributes: Mapping[str, bytes]) -> bool:
            """The same."""
            raw, is_dated = os.fsencode(path), True
            try:
                for name, value in attributes.items():
                    if name == HIDDEN:
                        self._calls.set_flags(raw, self._calls.flags(raw) | stat.UF_HIDDEN)
                    elif name == CREATED:
                        is_dated = self._set_created(raw, int(value))
                    elif name not in MARKS:
                        self._calls.set_attribute(raw, name, value)
            except OSError as error:
                if error.errno in (_UNSUPPORTED, *_NO_ROOM):
                    return False
                raise
            return is_dated and not (set(attributes) & MARKS - {HIDDEN, CREATED})

        def _set_created(self, path: bytes, seconds: int) -> bool:
            """By a change before the creation, which takes that along; then the last change is what it was."""
            modified = self._calls.dates(path)[1]
            try:
                self._calls.set_modified(path, seconds)
                self._calls.set_modified(path, modified)
            except OSError:  # of somebody else, or locked
                return False
            return True
