"""A crate as one file, to send by mail or through a cloud drive: a tar with the bag's folder at its top.

The form is pax (POSIX.1-2001), not compressed: most of what a crate holds is compressed already. Nothing of a move is
in it. Reading trusts nothing: all of it is looked at before anything is written.
"""

from __future__ import annotations

import hashlib
import io
import tarfile
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from typing import NamedTuple

from ..errors import ZestyError
from ..machines import Cut, Disk, DiskError, FileFacts, make_folders, working_folder
from ..machines.texts import restored
from ..progress import Tell
from .bag import PAYLOAD_MANIFEST, TAG_MANIFEST, DamagedCrate, fault_of_name, read_manifest
from .crate import Crate, open_part
from .distribution import Sum
from .naming import carrier_key
from .records import readable_size
from .watch import Watch

_BLOCK = tarfile.BLOCKSIZE
_MAGIC_AT, _MAGIC = 257, b"ustar"
_MOST_HEADER_BYTES = 1 << 20  # of an extended header: names and dates take some hundred
_EXTENDED = (b"x", b"g", b"L", b"K", b"X")
_COMPRESSED = {b"\x1f\x8b": "gzip", b"BZ": "bzip2", b"\xfd7": "xz", b"\x28\xb5": "zstd", b"PK": "ZIP"}
_LATEST_S = 1 << 33  # the year 2242
_TAMPERED = "Nothing was written. Have it sent again; somebody may have tampered with it."


@dataclass(frozen=True, slots=True)
class CrateFile:
    """A crate that was written into one file, and read back. The size is in bytes."""

    file: str
    files: int
    size_bytes: int
    sha512: str


@dataclass(frozen=True, slots=True)
class CrateFiles:
    """A packed crate and its parts as files."""

    crate: str
    written: tuple[CrateFile, ...]


class _Member(NamedTuple):
    """A file in a tar: its name in the crate, and where its content is."""

    name: str
    first: int
    facts: FileFacts


# -- writing ----------------------------------------------------------------------------------------------------------


def write_one_file(crate: Crate, disk: Disk, tell: Tell) -> CrateFile:
    """Write a finished crate into a file beside it; an earlier one is replaced.

    Raises `DamagedCrate` when anything is not what its manifests say, and `ZestyError` when the carrier lacks room.
    """
    open_part(crate.root, disk)
    listed = [*_records(crate, disk), *read_manifest(disk, crate.root / PAYLOAD_MANIFEST)]
    total = Sum(len(listed), sum(_facts(crate, disk, name).size_bytes for name, _ in listed))
    target = crate.root.with_name(f"{crate.name}.tar")
    _require_room(disk, target.parent, total)
    part = target.with_name(f".{target.name}.part")
    disk.remove(part)
    watch, done, written = Watch("writing one file", total, tell), Sum(0, 0), hashlib.sha512()
    try:
        with disk.new_file(part) as writer:
            for name, digest in listed:
                facts = _facts(crate, disk, name)
                _put(writer, _header(f"{crate.name}/{name}", facts), written)
                copied = disk.append(writer, crate.root / name, running=written, moved=watch.moved)
                if (copied.sha512, copied.size_bytes) != (digest or copied.sha512, facts.size_bytes):
                    raise DamagedCrate(f"{name} in {crate.root} is not what was carried.", next_step="Pack it again.")
                _put(writer, bytes(-facts.size_bytes % _BLOCK), written)
                done = Sum(done.files + 1, done.size_bytes + facts.size_bytes)
                watch.flush(done, facts.size_bytes)
            size = writer.tell() + 2 * _BLOCK
            _put(writer, bytes(2 * _BLOCK + -size % tarfile.RECORDSIZE), written)
        read = disk.digest(part, from_drive=True)
        if read.sha512 != written.hexdigest():
            raise DamagedCrate(f"{target} was not read back as it was written.", next_step="Try another carrier.")
    except BaseException:
        disk.remove(part)
        raise
    disk.rename(part, target)
    disk.flush(target.parent)
    return CrateFile(str(target), total.files, read.size_bytes, read.sha512)


def _records(crate: Crate, disk: Disk) -> Iterator[tuple[str, str]]:
    """The crate's own files with their digests; those that may still change without."""
    yield from read_manifest(disk, crate.root / TAG_MANIFEST)
    for path in (crate.root / TAG_MANIFEST, crate.manual_steps_path):
        if disk.facts(path) is not None:
            yield path.relative_to(crate.root).as_posix(), ""


def _facts(crate: Crate, disk: Disk, name: str) -> FileFacts:
    facts = disk.facts(crate.root / name)
    if facts is None or not facts.is_file:
        raise DamagedCrate(f"{name} is not in {crate.root}.", next_step="Pack it again, or use another copy.")
    return facts


def _header(name: str, facts: FileFacts) -> bytes:
    info = tarfile.TarInfo(name)
    info.size, info.mtime, info.mode = facts.size_bytes, facts.modified_ns // 10**9, 0o644
    return info.tobuf(tarfile.PAX_FORMAT, "utf-8", "surrogateescape")


def _put(writer: io.FileIO, content: bytes, running: hashlib._Hash) -> None:
    writer.write(content)
    running.update(content)


def _require_room(disk: Disk, folder: Path, total: Sum) -> None:
    needed, free = total.size_bytes + (total.files + 1) * 3 * _BLOCK, disk.free_bytes(folder)
    if free < needed:
        raise ZestyError(
            f"{folder} has {readable_size(free)} free; {readable_size(needed)} are needed.",
            next_step="Free some room, or copy it to another disk first. Nothing was written.",
        )


def parts_here(crate: Crate, disk: Disk) -> list[Crate]:
    """The crate, and its other parts that are where they were packed."""
    with closing(crate.open_survey(disk)) as survey:
        rows = list(survey.database.execute("SELECT root FROM bag WHERE NOT earlier AND number > 1 ORDER BY number"))
    parts = [Crate(Path(restored(root))) for (root,) in rows]
    return [crate, *(each for each in parts if disk.facts(each.root) is not None)]


# -- reading ----------------------------------------------------------------------------------------------------------


def is_crate_file(path: Path, disk: Disk) -> bool:
    """Whether a path is a file in the form of tar."""
    facts = disk.facts(path)
    if facts is None or not facts.is_file:
        return False
    return disk.read_start(path, _MAGIC_AT + len(_MAGIC)).endswith(_MAGIC)


def open_one_file(path: Path, folder: Path, disk: Disk, tell: Tell) -> Path:
    """The crate in a file as a folder in another ``folder``; written out if it is not there already.

    Raises `DamagedCrate` for a file that is no crate, is cut short, or holds what must not be in one, and `ZestyError`
    when another crate is there, or room lacks. What was written by then is taken back.
    """
    with tarfile_of(path, disk) as archive:
        top, total, mark = _looked_through(archive, path)
    target = folder / top
    if disk.facts(target) is not None:
        there = target / TAG_MANIFEST
        if disk.facts(there) is None or disk.read_bytes(there) != mark:
            raise ZestyError(
                f"{path} holds the crate {top}, and another {target} is there already.",
                next_step="Rename or move that one, or copy the file elsewhere first.",
            )
        return target
    _require_room(disk, folder, total)
    watch, done, made = Watch("writing out", total, tell), Sum(0, 0), set[Path]()
    with working_folder(disk, folder / f".{top}.part") as work:
        with tarfile_of(path, disk) as archive:
            for member in _members(archive, path):
                place = work / member.name
                if place.parent not in made:
                    make_folders(disk, place.parent)
                    made.add(place.parent)
                size = member.facts.size_bytes
                disk.copy(path, place, member.facts, settled=False, cut=Cut(member.first, size), moved=watch.moved)
                done = Sum(done.files + 1, done.size_bytes + size)
                watch.flush(done, size)
        disk.flush_all(work)
        disk.rename(work / top, target)
    disk.flush(folder)
    return target


def tarfile_of(path: Path, disk: Disk) -> tarfile.TarFile:
    """A file as tar. Raises `DamagedCrate` when it is none."""
    start = disk.read_start(path, 2)
    if start in _COMPRESSED:
        raise DamagedCrate(
            f"{path} is compressed ({_COMPRESSED[start]}); a crate as one file is a tar without compression.",
            next_step="Uncompress it first.",
        )
    try:
        _require_small_headers(path)
        return tarfile.open(path, "r:", encoding="utf-8", errors="surrogateescape")
    except (tarfile.TarError, ValueError, OverflowError) as error:
        raise _no_crate(path, f"it cannot be read as tar ({error})") from error
    except OSError as error:
        raise DiskError("Reading", path, error) from error


def _looked_through(archive: tarfile.TarFile, path: Path) -> tuple[str, Sum, bytes]:
    """The name of the folder at the top, what is in it, and its last manifest, by which it is known again."""
    tops, keys, total, mark = set[str](), set[int](), Sum(0, 0), b""
    for member in _members(archive, path):
        top, _, name = member.name.partition("/")
        tops.add(top)
        if (key := hash(carrier_key(member.name))) in keys:
            raise _no_crate(path, f"it names {member.name!r} a second time")
        keys.add(key)
        total = Sum(total.files + 1, total.size_bytes + member.facts.size_bytes)
        if name == TAG_MANIFEST and member.facts.size_bytes <= _MOST_HEADER_BYTES:
            mark = _content(path, member)
    if len(tops) != 1 or not mark:
        raise _no_crate(path, f"it has no folder at its top with a {TAG_MANIFEST} of a usual size")
    return tops.pop(), total, mark


def _members(archive: tarfile.TarFile, path: Path) -> Iterator[_Member]:
    """Every file, with nothing else between; no list of them is kept."""
    size = path.stat().st_size
    try:
        while (info := archive.next()) is not None:
            vars(archive)["members"].clear()  # a million of them take a gigabyte
            name = info.name.removesuffix("/")
            if fault := fault_of_name(name):
                raise _no_crate(path, f"it names {name!r}, {fault}")
            if info.isdir():
                continue
            if not info.isreg() or info.issparse():
                raise _no_crate(path, f"{name!r} is no plain file")
            if "/" not in name:
                raise _no_crate(path, f"{name!r} is in no folder")
            if info.size < 0 or info.offset_data + info.size > size:
                raise _no_crate(path, f"it is cut short: {name!r} goes beyond its end")
            facts = FileFacts("file", info.size, min(max(int(info.mtime), 0), _LATEST_S) * 10**9, 0o644)
            yield _Member(name, info.offset_data, facts)
    except (tarfile.TarError, ValueError, OverflowError) as error:
        raise _no_crate(path, f"it is damaged, or cut short ({error})") from error
    except OSError as error:
        raise DiskError("Reading", path, error) from error


def _require_small_headers(path: Path) -> None:
    """Refuse headers that are read whole and would fill the memory, before anybody reads them."""
    with path.open("rb") as stream:
        size = stream.seek(0, io.SEEK_END)
        at = 0
        while at + _BLOCK <= size:
            stream.seek(at)
            block = stream.read(_BLOCK)
            if not any(block):
                return
            length = tarfile.TarInfo.frombuf(block, "utf-8", "surrogateescape").size
            if length < 0 or (block[156:157] in _EXTENDED and length > _MOST_HEADER_BYTES):
                raise _no_crate(path, f"a header in it says that it has {length:,} bytes")
            at += _BLOCK + -(-length // _BLOCK) * _BLOCK


def _content(path: Path, member: _Member) -> bytes:
    with path.open("rb") as stream:
        stream.seek(member.first)
        return stream.read(member.facts.size_bytes)


def _no_crate(path: Path, why: str) -> DamagedCrate:
    return DamagedCrate(f"{path} cannot be taken for a crate: {why}.", next_step=_TAMPERED)
