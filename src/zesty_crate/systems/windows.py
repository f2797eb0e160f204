"""Windows (Win32: File Management, and Naming Files, Paths, and Namespaces).

The calls that change or ask something are given to it, so that its rules can be tried anywhere.
"""

from __future__ import annotations

import contextlib
import ntpath
import os
import re
import stat
from collections.abc import Callable, Mapping
from typing import Protocol, TypeVar
from urllib.parse import quote

from .access_lists import has_own_entries
from .model import (
    CREATED,
    HIDDEN,
    LARGEST_ATTRIBUTE_BYTES,
    OF_SYSTEM,
    TOO_LARGE,
    AnyPath,
    OperatingSystem,
    created_mark,
    is_open_elsewhere,
)

_LONGEST = 240  # with what is put beside a path, within the 260 of MAX_PATH
_DEVICE = re.compile(r"(?:CON|PRN|AUX|NUL|CONIN\$|CONOUT\$|(?:COM|LPT)[0-9¹²³])(?:[ .].*)?", re.IGNORECASE)
_PATIENCE_S = (0.05, 0.1, 0.2, 0.4, 0.8)  # how long a virus scanner or an indexer may have a file open
_FLAGS = {HIDDEN: 0x2, OF_SYSTEM: 0x4}  # FILE_ATTRIBUTE_HIDDEN and FILE_ATTRIBUTE_SYSTEM
_STREAMS_OF_SYSTEM = ("Zone.Identifier",)  # streams that say where a file came from
_Result = TypeVar("_Result")


class WindowsCalls(Protocol):
    """What Windows is asked. All raise `OSError` with its ``winerror``."""

    def rename(self, source: AnyPath, target: AnyPath) -> None:
        """MoveFileEx without its flag to replace: raises `FileExistsError` when something is there."""

    def replace(self, source: AnyPath, target: AnyPath) -> None:
        """MoveFileEx with its flag to replace."""

    def remove(self, path: AnyPath) -> None:
        """DeleteFile."""

    def mode(self, path: AnyPath) -> int:
        """The permissions; without the one to write, a file is read-only."""

    def set_mode(self, path: AnyPath, mode: int) -> None:
        """Set or clear the read-only attribute."""

    def flush(self, path: AnyPath) -> None:
        """FlushFileBuffers of a file, which must be opened for writing."""

    def is_mount_point(self, path: AnyPath) -> bool:
        """Whether a path is the root of a drive or a share, or a volume is mounted at it (GetVolumePathName)."""

    def block_bytes(self, folder: AnyPath) -> int:
        """The bytes of a cluster (GetDiskFreeSpace)."""

    def streams(self, path: AnyPath) -> list[tuple[str, int]]:
        """Names and sizes of the alternate streams of a file or folder (FindFirstStream); none where there are none."""

    def read_stream(self, path: AnyPath, name: str) -> bytes:
        """The content of an alternate stream."""

    def write_stream(self, path: AnyPath, name: str, content: bytes) -> None:
        """Write an alternate stream."""

    def attributes(self, path: AnyPath) -> int:
        """GetFileAttributes."""

    def set_attributes(self, path: AnyPath, attributes: int) -> None:
        """SetFileAttributes."""

    def dates(self, path: AnyPath) -> tuple[float, float]:
        """When it was created and last changed, in seconds since 1970."""

    def set_created(self, path: AnyPath, seconds: int) -> None:
        """SetFileTime."""

    def descriptor(self, path: AnyPath) -> bytes:
        """The security descriptor with the access list (GetFileSecurity), in self-relative form."""

    def lock(self, handle: int) -> None:
        """Lock the first byte of an open file."""

    def sleep(self, seconds: float) -> None:
        """Wait."""


class Windows(OperatingSystem):
    """Windows."""

    name = "windows"
    sets_creation = True
    flushes_volumes = False
    dates_on_closing = True
    line_goes_on = " `"

    def __init__(self, calls: WindowsCalls) -> None:
        self._calls = calls

    # -- names and places -------------------------------------------------------------------------------------------

    def reach(self, path: AnyPath) -> AnyPath:
        r"""With ``\\?\`` before it where it is long, or has a name that Windows would change or take for a device."""
        text = os.fspath(path)
        if text.startswith("\\\\?\\") or (len(text) < _LONGEST and not _is_odd(text)):
            return path
        whole = text.replace("/", "\\")
        if not ntpath.isabs(whole):
            whole = ntpath.join(os.getcwd(), whole)
        whole = _without_dots(whole)
        return f"\\\\?\\UNC\\{whole[2:]}" if whole.startswith("\\\\") else f"\\\\?\\{whole}"

    def database_uri(self, path: str) -> str:
        r"""All of it escaped, since ``\\nas\share`` would become a URI of another host, and ``\\?\`` one of none."""
        return "file:" + quote(os.fspath(self.reach(path)), safe="", errors="surrogatepass")

    def is_mount_point(self, folder: AnyPath) -> bool:
        """As the system tells it; Python 3.11 only knows that for other systems."""
        return self._calls.is_mount_point(self.reach(folder))

    def block_bytes(self, folder: AnyPath) -> int:
        """As the system tells it."""
        return self._calls.block_bytes(self.reach(folder))

    # -- changing ---------------------------------------------------------------------------------------------------

    def rename_to_free_name(self, source: AnyPath, target: AnyPath) -> None:
        """As the system does it."""
        self._patiently(lambda: self._calls.rename(self.reach(source), self.reach(target)))

    def replace(self, source: AnyPath, target: AnyPath) -> None:
        """A read-only file that is there is made writable first, and is so again if it could not be replaced."""
        self._writable(target, lambda: self._calls.replace(self.reach(source), self.reach(target)))

    def remove(self, path: AnyPath) -> None:
        """A read-only file is made writable first, and is so again if it could not be removed."""
        self._writable(path, lambda: self._calls.remove(self.reach(path)))

    def _writable(self, path: AnyPath, do: Callable[[], None]) -> None:
        try:
            self._patiently(do)
        except PermissionError as error:
            if is_open_elsewhere(error):
                raise
            try:
                mode = self._calls.mode(self.reach(path))
            except OSError:
                raise error from None
            if mode & stat.S_IWRITE:
                raise
            self._calls.set_mode(self.reach(path), mode | stat.S_IWRITE)
            try:
                self._patiently(do)
            except OSError:
                with contextlib.suppress(OSError):
                    self._calls.set_mode(self.reach(path), mode)
                raise

    def _patiently(self, do: Callable[[], _Result]) -> _Result:
        """Do something again, for a second and a half in all, while another program has the file open."""
        for wait_s in _PATIENCE_S:
            try:
                return do()
            except PermissionError as error:
                if not is_open_elsewhere(error):
                    raise
            self._calls.sleep(wait_s)
        return do()

    def give_to_owner_of(self, model: AnyPath, path: AnyPath) -> None:
        """New files belong to whom the folder says."""

    # -- on the disk itself -----------------------------------------------------------------------------------------

    def flush(self, handle: int) -> None:
        """FlushFileBuffers, through the drive's own memory."""
        os.fsync(handle)

    def flush_at(self, path: AnyPath) -> None:
        """A file must be writable for that; a folder's names are written through by themselves."""
        mode = self._calls.mode(self.reach(path))
        if stat.S_ISDIR(mode):
            return
        if mode & stat.S_IWRITE:
            self._patiently(lambda: self._calls.flush(self.reach(path)))
            return
        self._calls.set_mode(self.reach(path), mode | stat.S_IWRITE)
        try:
            self._patiently(lambda: self._calls.flush(self.reach(path)))
        finally:
            self._calls.set_mode(self.reach(path), mode)

    def flush_volume(self, folder: AnyPath) -> None:
        """Only administrators may; so each file is flushed as it is written."""

    # -- attributes -------------------------------------------------------------------------------------------------

    def attributes(self, path: AnyPath) -> dict[str, bytes]:
        """Alternate streams, and that a file is hidden, or the system's own."""
        place = self.reach(path)
        streams = [each for each in self._calls.streams(place) if each[0] not in _STREAMS_OF_SYSTEM]
        small = [name for name, size in streams if size <= LARGEST_ATTRIBUTE_BYTES]
        flags = self._calls.attributes(place)
        marks = [name for name, flag in _FLAGS.items() if flags & flag] + [TOO_LARGE] * (len(small) < len(streams))
        found = {name: self._calls.read_stream(place, name) for name in small}
        return found | dict.fromkeys(marks, b"") | created_mark(*self._calls.dates(place))

    def set_attributes(self, path: AnyPath, attributes: Mapping[str, bytes]) -> bool:
        """The same. A name that no stream can have, and a volume without streams or such dates, keep nothing."""
        place, kept = self.reach(path), True
        for name, value in attributes.items():
            if name in _FLAGS:
                self._calls.set_attributes(place, self._calls.attributes(place) | _FLAGS[name])
            elif name != CREATED and re.search(r'[\x00-\x1f/\\:*?"<>|]', name):
                kept = False
            else:
                try:
                    if name == CREATED:
                        self._calls.set_created(place, int(value))
                    else:
                        self._calls.write_stream(place, name, value)
                except OSError:
                    kept = False
        return kept

    def has_access_list(self, path: AnyPath) -> bool:
        """By its security descriptor."""
        try:
            return has_own_entries(self._calls.descriptor(self.reach(path)))
        except OSError:
            return False

    # -- locks and the command line ---------------------------------------------------------------------------------

    def lock(self, handle: int) -> None:
        """A lock of a byte, which ends with the process."""
        try:
            self._calls.lock(handle)
        except PermissionError as error:
            raise BlockingIOError(error.errno, "it is locked") from error

    def let_go(self, path: AnyPath, handle: int) -> None:
        """Closed first: what is open cannot be removed."""
        os.close(handle)
        with contextlib.suppress(OSError):
            self._calls.remove(path)

    def quoted(self, word: str) -> str:
        """As programs of Windows take it apart; what PowerShell would read otherwise is between single marks."""
        import subprocess

        if re.search(r"[$`'(){};,&|@#]", word) and '"' not in word:
            return "'" + word.replace("'", "''") + "'"
        return subprocess.list2cmdline([word])


def _is_odd(text: str) -> bool:
    """Whether a path has a name that Windows would shorten (trailing dots and spaces) or take for a device."""
    names = re.split(r"[\\/]", text)
    return any((each[-1:] in (".", " ") and each not in (".", "..")) or _DEVICE.fullmatch(each) for each in names)


def _without_dots(path: str) -> str:
    r"""An absolute path without ``.`` and ``..``, which behind ``\\?\`` are names; all other names stay as they are."""
    drive, rest = ntpath.splitdrive(path)
    kept = list[str]()
    for name in rest.split("\\"):
        if name == "..":
            del kept[-1:]
        elif name not in ("", "."):
            kept.append(name)
    return f"{drive}\\" + "\\".join(kept)
