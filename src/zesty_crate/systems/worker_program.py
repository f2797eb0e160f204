"""What is done with many folders and small files: in this process, and, as a program of its own, by one beside it.

It is run by itself, so it imports nothing of ours but what systems do differently, and of the standard library only
what starts at once. What it is asked and tells is marshalled: plain texts and numbers, for the very Python that asked.
"""

from __future__ import annotations

import hashlib
import io
import marshal
import operator
import os
import stat
from collections.abc import Iterator
from typing import IO, Any

from .this import this_system

# What is at a name: kind, size in bytes, date in ns, mode, and where a link leads; or, where it may not be looked at,
# the number of the error and its text.
Facts = tuple[str, int, int, int, str]
Fault = tuple[int, str]
Names = tuple[tuple[str, ...], tuple["Facts | Fault", ...]]  # in a folder: the names, and what is at each
Listed = tuple[str, "Fault | None", Names]  # a folder, why it cannot be listed, and what is in it

# A small file to copy: where it is, where to put it together, its place (or none, to stay there), what it must be like
# by its facts or its digest, and the date and the mode it gets.
Copy = tuple[str, str, str, "Facts | None", str, int, "int | None"]
Read = tuple[str, bool]  # a small file to digest, and whether from the drive itself
Naming = tuple[str, str, str]  # what was put together, its place, where nothing may be yet, and its digest
Order = Copy | Read | Naming

SMALL_BYTES = 1 << 20
_BINARY = getattr(os, "O_BINARY", 0)
_KIND_BITS = 0o170000  # what stat.S_IFMT leaves, without the call
_KINDS = {stat.S_IFDIR: "folder", stat.S_IFLNK: "link"}
_PACKET_NAMES = 2_000
_LENGTH_BYTES = 4  # before each packet
_first = operator.itemgetter(0)


def facts_of(found: os.stat_result, path: str | os.DirEntry[str]) -> Facts:
    """What the system said about one thing; of a link, where it leads."""
    mode = found.st_mode
    bits = mode & _KIND_BITS
    if bits == stat.S_IFREG:  # by far the most
        return "file", found.st_size, found.st_mtime_ns, mode & ~_KIND_BITS, ""
    kind = _KINDS.get(bits, "other")
    target = os.readlink(path) if kind == "link" else ""
    return kind, found.st_size, found.st_mtime_ns, mode & ~_KIND_BITS, target


def names_in(folder: str) -> Names:
    """The names in a folder, sorted, each with what is there. Raises `OSError` when it cannot be listed."""
    found: list[tuple[str, Facts | Fault]] = []
    with os.scandir(this_system().reach(folder)) as entries:
        for entry in entries:
            try:
                found.append((entry.name, facts_of(entry.stat(follow_symlinks=False), entry)))
            except FileNotFoundError:
                continue  # it went while we looked
            except OSError as error:
                found.append((entry.name, fault_of(error)))
    found.sort(key=_first)
    names, facts = zip(*found, strict=True) if found else ((), ())
    return names, facts


def fault_of(error: OSError) -> Fault:
    """What an error says, as it can be told to another process."""
    return error.errno or 0, error.strerror or str(error)


def names_below(pile: list[str], skipped: frozenset[str]) -> Iterator[Listed]:
    """Each folder of a pile, its last one first, and all below, before the next of the pile; with what is in it.

    Folders that are ``skipped`` are told where they are and not listed.
    """
    while pile:
        folder = pile.pop()
        try:
            names, facts = names_in(folder)
        except OSError as error:
            yield folder, fault_of(error), ((), ())
            continue
        yield folder, None, (names, facts)
        inner = [name for name, each in zip(names, facts, strict=True) if each[0] == "folder"]
        below = (os.path.join(folder, name) for name in reversed(inner))
        pile += [each for each in below if each not in skipped]


def read_small(path: str, *, from_drive: bool = False) -> tuple[bytes, Facts]:
    """A small file as long as it was at first, and its facts afterwards; ``from_drive`` where one may ask for that.

    Of one that is not small (any more), nothing but the facts.
    """
    handle = os.open(this_system().reach(path), os.O_RDONLY | _BINARY)
    try:
        if from_drive:
            this_system().forget(handle)
        size = os.fstat(handle).st_size
        if size > SMALL_BYTES:
            return b"", facts_of(os.fstat(handle), path)
        content = os.read(handle, size)
        while len(content) < size and (more := os.read(handle, size - len(content))):
            content += more
        return content, facts_of(os.fstat(handle), path)
    finally:
        os.close(handle)


def write_small(path: str, content: bytes, modified_ns: int, *, settled: bool = False) -> None:
    """Write a new small file with a date; ``settled``, on the disk itself."""
    handle = os.open(this_system().reach(path), os.O_WRONLY | os.O_CREAT | os.O_EXCL | _BINARY, 0o666)
    try:
        left = memoryview(content)
        while left:
            left = left[os.write(handle, left) :]
        if os.utime in os.supports_fd:
            os.utime(handle, ns=(modified_ns, modified_ns))
        if settled or not this_system().flushes_volumes:
            this_system().flush(handle)
    finally:
        os.close(handle)
    if os.utime not in os.supports_fd:
        os.utime(this_system().reach(path), ns=(modified_ns, modified_ns))


def carry_out(order: Order) -> str:
    """Do what is ordered, and say the SHA-512; where anything has the wrong form, leave nothing and say nothing."""
    try:
        if len(order) == 2:
            content, facts = read_small(order[0], from_drive=order[1])
            return hashlib.sha512(content).hexdigest() if facts[1] == len(content) else ""
        return _name(*order) if len(order) == 3 else _copy(*order)
    except OSError:
        return ""  # whoever ordered it does it again, and sees what is the matter


def _copy(
    source: str, part: str, target: str, wanted: Facts | None, sha512: str, modified_ns: int, mode: int | None
) -> str:
    content, facts = read_small(source)
    digest = hashlib.sha512(content).hexdigest()
    if (wanted and (facts != wanted or len(content) != wanted[1])) or (sha512 and digest != sha512):
        return ""
    try:
        write_small(part, content, modified_ns)
    except FileExistsError:
        return ""  # somebody else's
    except OSError:
        this_system().remove(part)
        return ""
    try:
        if mode is not None:
            this_system().give_to_owner_of(os.path.dirname(part), part)
            os.chmod(this_system().reach(part), mode)
        if target:
            this_system().rename_to_free_name(part, target)
    except OSError:
        this_system().remove(part)
        return ""
    return digest


def _name(part: str, place: str, sha512: str) -> str:
    this_system().rename_to_free_name(part, place)
    return sha512


def serve() -> None:
    """Serve whoever started this process, until that ends."""
    try:
        _serve()
    except (BrokenPipeError, KeyboardInterrupt):
        os._exit(1)  # whoever asked is gone, or was told to stop


def _serve() -> None:
    """Read packets from standard input: folders to list and those to skip, or else orders. Write what comes of them."""
    with open(0, "rb") as asked, open(1, "wb") as told:
        while packet := receive(asked):
            if isinstance(packet[0], str):
                _list(packet, frozenset(receive(asked)), told)
                send([], told)
            else:
                send([carry_out(order) for order in packet], told)


def _list(pile: list[str], skipped: frozenset[str], told: io.BufferedWriter) -> None:
    """Tell all that is in a pile, many folders at a time."""
    packet: list[Listed] = []
    size = 0
    for each in names_below(pile, skipped):
        packet.append(each)
        size += len(each[2][0]) + 1
        if size > _PACKET_NAMES:
            send(packet, told)
            packet, size = [], 0
    send(packet, told)


def send(packet: list[Any], stream: IO[bytes]) -> None:
    """Send a packet; one of nothing is the last."""
    content = marshal.dumps(packet)
    stream.write(len(content).to_bytes(_LENGTH_BYTES, "big") + content)
    stream.flush()


def receive(stream: IO[bytes]) -> list[Any]:
    """The next packet; nothing at the end. Raises `EOFError` or `ValueError` when it breaks off."""
    length = stream.read(_LENGTH_BYTES)
    packet: list[Any] = marshal.loads(stream.read(int.from_bytes(length, "big"))) if length else []
    return packet
