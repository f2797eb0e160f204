"""List folders: in this process, and, as a program of its own, beside it.

This file is run by itself, so it imports nothing of ours, and of the standard library only what starts at once. What it
tells is marshalled: plain texts and numbers, for the very Python that asked.
"""

from __future__ import annotations

import io
import marshal
import operator
import os
import stat
from collections.abc import Iterator

# What is at a name: kind, size in bytes, date in ns, mode, and where a link leads; or, where it may not be looked at,
# the number of the error and its text.
Facts = tuple[str, int, int, int, str]
Fault = tuple[int, str]
Names = list[tuple[str, "Facts | Fault"]]

_KIND_BITS = 0o170000  # what stat.S_IFMT leaves, without the call
_KINDS = {stat.S_IFDIR: "folder", stat.S_IFLNK: "link"}
_PACKET_NAMES = 2_000
LENGTH_BYTES = 4  # before each packet; one of nothing is the last
_first = operator.itemgetter(0)


def facts_of(found: os.stat_result, path: str | os.DirEntry[str]) -> Facts:
    """What the system said of one thing; of a link, where it leads."""
    mode = found.st_mode
    bits = mode & _KIND_BITS
    if bits == stat.S_IFREG:  # by far the most
        return "file", found.st_size, found.st_mtime_ns, mode & ~_KIND_BITS, ""
    kind = _KINDS.get(bits, "other")
    target = os.readlink(path) if kind == "link" else ""  # noqa: PTH115  a Path would tidy the text
    return kind, found.st_size, found.st_mtime_ns, mode & ~_KIND_BITS, target


def names_in(folder: str) -> Names:
    """The names in a folder, sorted, each with what is there. Raises `OSError` when it cannot be listed."""
    found: Names = []
    with os.scandir(folder) as entries:
        for entry in entries:
            try:
                found.append((entry.name, facts_of(entry.stat(follow_symlinks=False), entry)))
            except FileNotFoundError:
                continue  # it went while we looked
            except OSError as error:
                found.append((entry.name, fault_of(error)))
    found.sort(key=_first)
    return found


def fault_of(error: OSError) -> Fault:
    """What an error says, as it can be told to another process."""
    return error.errno or 0, error.strerror or str(error)


def names_below(pile: list[str]) -> Iterator[tuple[str, Names | Fault]]:
    """Each folder of a pile, its last one first, and all below, before the next of the pile; with what is in it."""
    while pile:
        folder = pile.pop()
        try:
            names = names_in(folder)
        except OSError as error:
            yield folder, fault_of(error)
            continue
        yield folder, names
        pile += [os.path.join(folder, name) for name, facts in reversed(names) if facts[0] == "folder"]  # noqa: PTH118


def _tell_all() -> None:
    """Read a pile from standard input; write what is in it to standard output, many folders at a time."""
    with open(0, "rb") as asked, open(1, "wb") as told:
        packet, size = [], 0
        for each in names_below(marshal.loads(asked.read())):
            packet.append(each)
            size += len(each[1]) + 1
            if size > _PACKET_NAMES:
                _send(packet, told)
                packet, size = [], 0
        _send(packet, told)
        _send([], told)


def _send(packet: list[tuple[str, Names | Fault]], told: io.BufferedWriter) -> None:
    content = marshal.dumps(packet)
    told.write(len(content).to_bytes(LENGTH_BYTES, "big"))
    told.write(content)


if __name__ == "__main__":
    try:
        _tell_all()
    except (BrokenPipeError, KeyboardInterrupt):
        os._exit(1)  # whoever asked is gone, or was told to stop
