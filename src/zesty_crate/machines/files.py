"""What a disk says about files, and the calls to the system that are not the same everywhere."""

from __future__ import annotations

import errno
import hashlib
import io
import os
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from ..errors import ZestyError
from ..systems import is_open_elsewhere, this_system, worker_program

if TYPE_CHECKING:
    from hashlib import _Hash as Hash

CHUNK_BYTES = 1 << 20
_WRITE_OUT_BYTES = 8 << 20  # what is handed to the disk at a time, while more is on its way


Moved = Callable[[int], None]
AnyPath = str | Path  # where many small files go by, a text costs less


class DiskError(ZestyError):
    """The disk did not do what was asked: no room, no permission, read-only, gone."""

    def __init__(self, doing: str, path: AnyPath, error: OSError) -> None:
        why = error.strerror or str(error)
        super().__init__(f"{doing} {path} failed: {why}.", next_step=_advice(error))
        self.path = str(path)
        self.errno = error.errno


def usual_mode(kind: str) -> int:
    """The permissions of a file or folder that this user makes, where none are carried."""
    mask = os.umask(0o077)  # it can only be read by setting it
    os.umask(mask)
    return (0o777 if kind == "folder" else 0o666) & ~mask


class FileFacts(NamedTuple):
    """What a disk says about one thing. ``modified_ns`` is in nanoseconds since 1970; a link is never followed."""

    kind: str  # file | folder | link | other
    size_bytes: int
    modified_ns: int
    mode: int
    target: str = ""

    @property
    def plain(self) -> tuple[str, int, int, int, str]:
        """The same as no more than texts and numbers, to be told to another process."""
        return self.kind, self.size_bytes, self.modified_ns, self.mode, self.target

    @property
    def is_file(self) -> bool:
        """Whether this is an ordinary file."""
        return self.kind == "file"


class Copied(NamedTuple):
    """What went through while a file was copied or read, and what the file was at the end of that."""

    sha512: str
    size_bytes: int
    facts: FileFacts


@dataclass(frozen=True, slots=True)
class Cut:
    """A part of a file, in bytes; without a length, all that follows."""

    first: int = 0
    length: int | None = None

    def of(self, size_bytes: int) -> int:
        """How many bytes that is, of a file of this size."""
        rest = max(0, size_bytes - self.first)
        return rest if self.length is None else min(rest, self.length)


WHOLE = Cut()


def pump(
    reader: io.FileIO,
    source: AnyPath,
    writers: Sequence[io.FileIO],
    expected_bytes: int,
    running: Hash | None = None,
    moved: Moved | None = None,
) -> Copied:
    """Read so many bytes, digest, and write wherever that is asked; a fault in reading names the source.

    ``running`` is a digest that continues from here; ``moved`` is told from time to time how many bytes went. A file
    that has grown is noticed by its facts afterwards, and need not be read to an end that moves. Where the source is
    known to have holes, so have the copies.
    """
    digest, size, found = hashlib.sha512(), 0, os.fstat(reader.fileno())
    holes = found.st_size - getattr(found, "st_blocks", found.st_size) * 512 > CHUNK_BYTES
    buffer = memoryview(bytearray(min(CHUNK_BYTES, expected_bytes)))
    while size < expected_bytes:
        try:
            count = reader.readinto(buffer[: expected_bytes - size]) or 0
        except OSError as error:
            raise DiskError("Reading", source, error) from error
        if not count:
            break
        chunk = buffer[:count]
        digest.update(chunk)
        if running is not None:
            running.update(chunk)
        for writer in writers:
            _write(writer, chunk, skip=holes and not any(chunk[::4096]) and chunk == bytes(count))
        if writers and size // _WRITE_OUT_BYTES != (size + count) // _WRITE_OUT_BYTES:
            for writer in writers:  # so that the disk is at work, too, before all is flushed
                this_system().begin_writing_out(writer.fileno())
        size += count
        if moved is not None:
            moved(count)
    for writer in writers if holes else ():
        writer.truncate()  # what was skipped last counts, too
    return Copied(digest.hexdigest(), size, facts_of(os.fstat(reader.fileno()), ""))


def _write(writer: io.FileIO, chunk: memoryview, *, skip: bool) -> None:
    if skip:
        writer.seek(len(chunk), os.SEEK_CUR)
        return
    while chunk:
        chunk = chunk[writer.write(chunk) :]


def opened(doing: str, path: AnyPath, mode: str) -> io.FileIO:
    """A file, open for its bytes. Raises `DiskError` that says what was being done."""
    try:
        return io.FileIO(Path(this_system().reach(path)), mode)
    except OSError as error:
        raise DiskError(doing, path, error) from error


def facts_of(found: os.stat_result, path: str) -> FileFacts:
    """What the system said about one thing; of a link, where it leads."""
    return FileFacts(*worker_program.facts_of(found, path))


def _advice(error: OSError) -> str:
    if is_open_elsewhere(error):
        return "Another program has it open. Close that, then run the command again; it continues where it stopped."
    return {
        errno.ENOSPC: "Free some room there, then run the command again; it continues where it stopped.",
        errno.EROFS: "The volume is read-only; make it writable, then run the command again.",
        errno.EACCES: "Give this user permission for it, then run the command again.",
        errno.EPERM: "Give this user permission for it, then run the command again.",
        errno.ENOENT: "Check that the volume is still connected, then run the command again.",
        errno.EIO: "The drive reports an error. Check the drive and its cable, then run the command again.",
    }.get(error.errno or 0, "Clear the cause, then run the command again.")
