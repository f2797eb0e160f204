"""Windows and macOS as their calls answer, so that our rules for them can be tried anywhere."""

from __future__ import annotations

import errno
import os
import stat
from pathlib import Path


def violation(path: str) -> PermissionError:
    """What Windows says of a file that another program has open."""
    error = PermissionError(errno.EACCES, "The process cannot access the file", path)
    error.winerror = 32  # type: ignore[attr-defined,unused-ignore]
    return error


class FakeWindows:
    """Files by their paths; how often each is busy; and which are read-only."""

    def __init__(self) -> None:
        self.files: dict[str, str] = {}
        self.folders: set[str] = set()
        self.read_only: set[str] = set()
        self.busy: dict[str, int] = {}
        self.beside: dict[tuple[str, str], bytes] = {}
        self.marks: dict[str, int] = {}
        self.flushed: list[str] = []
        self.descriptors: dict[str, bytes] = {}
        self.created: dict[str, float] = {}
        self.is_dated = True
        self.slept_s = 0.0
        self.knows_streams = True
        self.is_locked = False

    def _touch(self, path: object) -> str:
        text = str(path)
        if text not in self.files and text not in self.folders:
            raise FileNotFoundError(errno.ENOENT, "not found", text)
        if self.busy.get(text, 0) > 0:
            self.busy[text] -= 1
            raise violation(text)
        return text

    def rename(self, source: object, target: object) -> None:
        one = self._touch(source)
        if str(target) in self.files:
            raise FileExistsError(errno.EEXIST, "exists", str(target))
        self.files[str(target)] = self.files.pop(one)

    def replace(self, source: object, target: object) -> None:
        one, other = self._touch(source), str(target)
        if other in self.read_only:
            raise PermissionError(errno.EACCES, "access denied", other)
        if other in self.files:
            self._touch(other)
        self.files[other] = self.files.pop(one)

    def remove(self, path: object) -> None:
        one = self._touch(path)
        if one in self.read_only:
            raise PermissionError(errno.EACCES, "access denied", one)
        del self.files[one]

    def mode(self, path: object) -> int:
        if str(path) in self.folders:
            return stat.S_IFDIR | 0o777
        return stat.S_IFREG | (0o444 if str(path) in self.read_only else 0o666)

    def set_mode(self, path: object, mode: int) -> None:
        (self.read_only.discard if mode & stat.S_IWRITE else self.read_only.add)(str(path))

    def flush(self, path: object) -> None:
        one = self._touch(path)
        if one in self.read_only:
            raise PermissionError(errno.EACCES, "access denied", one)
        self.flushed.append(one)

    def is_mount_point(self, path: object) -> bool:
        return len(str(path)) == 3

    def block_bytes(self, folder: object) -> int:  # noqa: ARG002
        return 4096

    def streams(self, path: object) -> list[tuple[str, int]]:
        return [(name, len(value)) for (one, name), value in self.beside.items() if one == str(path)]

    def read_stream(self, path: object, name: str) -> bytes:
        return self.beside[str(path), name]

    def write_stream(self, path: object, name: str, content: bytes) -> None:
        if not self.knows_streams:
            raise OSError(errno.EINVAL, "The filename, directory name, or volume label syntax is incorrect", str(path))
        self.beside[str(path), name] = content

    def attributes(self, path: object) -> int:
        return self.marks.get(str(path), 0)

    def set_attributes(self, path: object, attributes: int) -> None:
        self.marks[str(path)] = attributes

    def lock(self, handle: int) -> None:  # noqa: ARG002
        if self.is_locked:
            raise PermissionError(errno.EACCES, "locked")

    def descriptor(self, path: object) -> bytes:
        if str(path) not in self.descriptors:
            raise FileNotFoundError(errno.ENOENT, "not found", str(path))
        return self.descriptors[str(path)]

    def dates(self, path: object) -> tuple[float, float]:
        return self.created.get(str(path), 9000.5), 2000.5

    def set_created(self, path: object, seconds: int) -> None:
        if not self.is_dated:
            raise PermissionError(errno.EACCES, "access denied", str(path))
        self.created[self._touch(path)] = seconds

    def sleep(self, seconds: float) -> None:
        self.slept_s += seconds


class FakeMac:
    """The calls of macOS on the files of this system; an ``old`` one lacks a call, and any may have a ``fault``."""

    def __init__(self, *, old: bool = False) -> None:
        self.kept: dict[str, bytes] = {}
        self.flagged = 0
        self.created_s = self.modified_s = 2000.5
        self.is_locked = False
        self.controls: list[int] = []
        self.fault = 0
        self._old = old

    def _answer(self) -> None:
        if self.fault:
            raise OSError(self.fault, "fault")

    def rename(self, source: bytes, target: bytes, flags: int) -> None:
        if self._old:
            raise OSError(45, "Operation not supported")
        assert flags == 4
        if os.path.lexists(target):
            raise FileExistsError(errno.EEXIST, "File exists", os.fsdecode(target))
        Path(os.fsdecode(source)).rename(os.fsdecode(target))

    def control(self, handle: int, command: int) -> None:
        if self._old:
            raise OSError(errno.ENOTTY, "Inappropriate ioctl for device")
        os.fsync(handle)
        self.controls.append(command)

    def attribute_names(self, path: bytes) -> list[str]:  # noqa: ARG002
        self._answer()
        return list(self.kept)

    def attribute(self, path: bytes, name: str) -> bytes:  # noqa: ARG002
        return self.kept[name]

    def set_attribute(self, path: bytes, name: str, value: bytes) -> None:  # noqa: ARG002
        self._answer()
        self.kept[name] = value

    def flags(self, path: bytes) -> int:  # noqa: ARG002
        return self.flagged

    def has_access_list(self, path: bytes) -> bool:
        self._answer()
        return path.endswith(b"listed")

    def set_flags(self, path: bytes, flags: int) -> None:  # noqa: ARG002
        self.flagged = flags

    def dates(self, path: bytes) -> tuple[float, float]:  # noqa: ARG002
        return self.created_s, self.modified_s

    def set_modified(self, path: bytes, seconds: float) -> None:
        if self.is_locked:
            raise PermissionError(errno.EPERM, "not permitted", os.fsdecode(path))
        self.modified_s = seconds
        self.created_s = min(self.created_s, seconds)
