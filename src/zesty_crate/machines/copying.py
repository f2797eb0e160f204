"""Copying the content of files: small ones in as few calls to the system as can be, others piece by piece."""

from __future__ import annotations

import contextlib
import hashlib
import io
import os
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from ..systems import this_system
from ..systems.worker_program import SMALL_BYTES, read_small, write_small
from .files import AnyPath, Copied, Cut, DiskError, FileFacts, Moved, opened, pump

if TYPE_CHECKING:
    from hashlib import _Hash as Hash


def copy_small(source: AnyPath, target: AnyPath, facts: FileFacts, *, settled: bool) -> Copied | None:
    """Copy a small file with the date of ``facts``; None where it turns out to be no small one."""
    with named("Copying", source):
        content, found = read_small(str(source))
    if found[1] > SMALL_BYTES:
        return None
    with named("Writing", target):
        write_small(str(target), content, facts.modified_ns, settled=settled)
    return Copied(hashlib.sha512(content).hexdigest(), len(content), FileFacts(*found))


def digest_small(path: AnyPath, *, from_drive: bool) -> Copied | None:
    """Digest a small file; None where it turns out to be no small one."""
    with named("Reading", path):
        content, found = read_small(str(path), from_drive=from_drive)
    if found[1] > SMALL_BYTES:
        return None
    return Copied(hashlib.sha512(content).hexdigest(), len(content), FileFacts(*found))


def copy_through(
    source: AnyPath,
    targets: Sequence[AnyPath],
    facts: FileFacts,
    *,
    settled: bool,
    cut: Cut,
    running: Hash | None,
    moved: Moved | None,
) -> Copied:
    """Copy any file, or a part of it, into new files at once. See `Disk.copy`."""
    streams = [opened("Copying", source, "rb")]
    try:
        streams += (opened("Writing", each, "xb") for each in targets)
        reader, *writers = streams
        if cut.first:
            reader.seek(cut.first)
        length = cut.of(os.fstat(reader.fileno()).st_size)
        copied = pump(reader, source, writers, length, running, moved)
        for each, writer in zip(targets, writers, strict=True):
            date(each, writer, facts, settled=settled or not this_system().flushes_volumes)
    except OSError as error:
        raise DiskError("Writing", targets[0], error) from error
    finally:
        for stream in streams:
            stream.close()
    for each in targets if this_system().dates_on_closing else ():
        os.utime(this_system().reach(each), ns=(facts.modified_ns, facts.modified_ns))
    return copied


def date(path: AnyPath, writer: io.FileIO, facts: FileFacts, *, settled: bool) -> None:
    """Give an open file the date of ``facts``; ``settled``, have it on the disk."""
    where = writer.fileno() if os.utime in os.supports_fd else this_system().reach(path)
    os.utime(where, ns=(facts.modified_ns, facts.modified_ns))
    if settled:
        this_system().flush(writer.fileno())


@contextlib.contextmanager
def named(doing: str, path: AnyPath) -> Iterator[None]:
    """What the system refuses in here arises as `DiskError`, with what was being done."""
    try:
        yield
    except OSError as error:
        raise DiskError(doing, path, error) from error
