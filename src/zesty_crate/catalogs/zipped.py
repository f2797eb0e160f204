"""Catalogs that are a member of a ZIP (APPNOTE.TXT 6.3): read through, and written without touching other members.

Every byte of the other members, compressed as they are, stays; so do the order, the dates and the comments. Only the
member itself is compressed anew, and the offsets and sums that depend on it are correct.
"""

from __future__ import annotations

import io
import struct
import zipfile
import zlib
from pathlib import Path
from typing import NamedTuple

from ..guides import HoldingPart
from ..machines import Disk
from ..paths import MachinePath
from .model import Catalog, CatalogError, Proof, Syntax
from .text_file import read_whole

_LARGEST_BYTES = 1 << 28
_LOCAL, _LOCAL_BYTES = b"PK\x03\x04", 30
_CENTRAL, _CENTRAL_BYTES = b"PK\x01\x02", 46
_HAS_DESCRIPTOR = 0x08
_ENCRYPTED = 0x01
_ZIP64 = 0xFFFFFFFF


class ZippedSyntax:
    """Another syntax, inside a ZIP. Working copies of the member are beside the file that is written."""

    def __init__(self, inner: Syntax) -> None:
        self._inner = inner

    def companions(self, path: Path, disk: Disk) -> list[Path]:
        """It has no files beside it."""
        return self._inner.companions(path, disk)

    def open(self, path: Path, part: HoldingPart, at: MachinePath, disk: Disk, scratch: Path) -> Catalog:
        """Read the member."""
        copy = scratch / "member"
        disk.write_bytes(copy, _member(read_whole(path, disk), path, part))
        try:
            return self._inner.open(copy, part, at, disk, scratch)
        except CatalogError as error:
            message = error.message.replace(str(copy), f"{part.inside} in {path}")
            raise CatalogError(message, next_step=error.next_step, details=error.details) from error
        finally:
            disk.remove(copy)

    def copy_whole(self, path: Path, target: Path, disk: Disk) -> None:
        """Copy the whole ZIP."""
        self._inner.copy_whole(path, target, disk)

    def rewrite(self, target: Path, part: HoldingPart, changes: Path, disk: Disk) -> None:
        """Write the changes into the member, and put it in its place."""
        content = disk.read_bytes(target)
        old = _member(content, target, part)
        copy = target.with_name(f"{target.name}.member")
        disk.write_bytes(copy, old)
        try:
            self._inner.rewrite(copy, part, changes, disk)
            new = disk.read_bytes(copy)
        finally:
            disk.remove(copy)
        if new != old:
            disk.write_bytes(target, _replaced(content, target, part, new))

    def prove(self, original: Path, rewritten: Path, part: HoldingPart, changes: Path, disk: Disk) -> Proof:
        """The member is proved by its own syntax; of the others every compressed byte must be the same."""
        contents = [disk.read_bytes(path) for path in (original, rewritten)]
        copies = [changes.with_name(f"member-{number}") for number in (1, 2)]
        try:
            for content, path, copy in zip(contents, (original, rewritten), copies, strict=True):
                disk.write_bytes(copy, _member(content, path, part))
            proof = self._inner.prove(copies[0], copies[1], part, changes, disk)
            members = [disk.read_bytes(copy) for copy in copies]
        finally:
            for copy in copies:
                disk.remove(copy)
        expected = contents[0] if members[0] == members[1] else _replaced(contents[0], original, part, members[1])
        if contents[1] != expected:
            raise CatalogError(
                "The rewritten catalog is not the original with new paths: another member of the ZIP differs. It was "
                "discarded.",
                next_step="The catalog was not changed. Please report this fault to the makers of Zesty Crate.",
            )
        return proof


def take_out(path: Path, part: HoldingPart, target: Path, disk: Disk) -> None:
    """Write the member that a guide names into a file of its own. Raises `CatalogError`."""
    disk.write_bytes(target, _member(read_whole(path, disk), path, part))


def put_back(target: Path, part: HoldingPart, member: Path, disk: Disk) -> None:
    """Have the content of a file as that member of a ZIP, of which not a byte changes else. Raises `CatalogError`."""
    content, new = read_whole(target, disk), disk.read_bytes(member)
    if new != _member(content, target, part):
        made = _replaced(content, target, part, new)
        if _member(made, target, part) != new:
            raise _bad(target, f"its member {part.inside} is not read back as it was written")
        disk.write_bytes(target, made)


def member_names(path: Path, disk: Disk) -> frozenset[str]:
    """The names of all members of a ZIP."""
    with _opened(read_whole(path, disk), path) as archive:
        return frozenset(archive.namelist())


def _member(content: bytes, path: Path, part: HoldingPart) -> bytes:
    """The content of the member. Raises `CatalogError` when it is not there, damaged, locked or absurdly large."""
    info = _listed(content, path, part)
    if info.flag_bits & _ENCRYPTED or info.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED):
        raise _bad(path, f"its member {part.inside} is encrypted or compressed by an unsupported method")
    raw = content[slice(*_data_span(content, path, info))]
    try:
        plain = raw if info.compress_type == zipfile.ZIP_STORED else _inflated(raw)
    except zlib.error as error:
        raise _bad(path, f"its member {part.inside} is damaged ({error})") from error
    if len(plain) != info.file_size or zlib.crc32(plain) != info.CRC:
        raise _bad(path, f"its member {part.inside} is damaged, or is larger than it says")
    return plain


def _inflated(raw: bytes) -> bytes:
    return zlib.decompressobj(-zlib.MAX_WBITS).decompress(raw, _LARGEST_BYTES)


def _listed(content: bytes, path: Path, part: HoldingPart) -> zipfile.ZipInfo:
    with _opened(content, path) as archive:
        found = [info for info in archive.infolist() if info.filename == part.inside]
        names = archive.namelist()
    if len(found) != 1:
        near = ", ".join(names[:8]) or "nothing"
        raise _bad(path, f"it has {len(found)} members {part.inside}, expected exactly one; it holds {near}")
    if max(found[0].file_size, found[0].compress_size) > _LARGEST_BYTES:
        raise _bad(path, f"its member {part.inside} is larger than 256 MiB")
    return found[0]


def _opened(content: bytes, path: Path) -> zipfile.ZipFile:
    try:
        return zipfile.ZipFile(io.BytesIO(content))
    except (zipfile.BadZipFile, ValueError, struct.error, OverflowError, NotImplementedError) as error:
        raise _bad(path, str(error)) from error


def _data_span(content: bytes, path: Path, info: zipfile.ZipInfo) -> tuple[int, int]:
    start = info.header_offset
    if content[start : start + 4] != _LOCAL:
        raise _bad(path, f"its member {info.filename} is not where it is listed")
    name, extra = struct.unpack_from("<HH", content, start + 26)
    begin = start + _LOCAL_BYTES + name + extra
    return begin, begin + info.compress_size


def _replaced(content: bytes, path: Path, part: HoldingPart, new: bytes) -> bytes:
    """The ZIP with another content of one member."""
    info = _listed(content, path, part)
    begin, end = _data_span(content, path, info)
    packed = new if info.compress_type == zipfile.ZIP_STORED else _deflated(new)
    sums = _Sums(zlib.crc32(new), len(packed), len(new))
    header = bytearray(content[info.header_offset : begin])
    after = bytearray(content[end:])
    is_wide = sums.write(header, 14, _LOCAL_BYTES + struct.unpack_from("<H", header, 26)[0], path)
    if info.flag_bits & _HAS_DESCRIPTOR:
        header[14:] = content[info.header_offset + 14 : begin]  # which says nothing of sums, or what the writer chose
        mark = 4 if after[:4] == b"PK\x07\x08" else 0
        struct.pack_into("<IQQ" if is_wide else "<III", after, mark, *sums)
    shift = len(packed) - (end - begin)
    made = content[: info.header_offset] + bytes(header) + packed + bytes(after)
    return _with_offsets(made, path, info, shift, sums)


class _Sums(NamedTuple):
    """What a ZIP says about a member: its CRC-32, and its sizes in bytes."""

    crc: int
    packed: int
    plain: int

    def write(self, record: bytearray, at: int, extra: int, path: Path) -> bool:
        """Write into a header, where its sums begin ``at``, and its extra fields at ``extra``; whether these are wide.

        Sizes of 0xFFFFFFFF are in an extra field of 64 bits each (APPNOTE.TXT 4.5.3), the larger one first.
        """
        sizes = struct.unpack_from("<II", record, at + 4)
        wide = _wide_field(record, extra)
        struct.pack_into("<I", record, at, self.crc)
        place = 0 if wide is None else wide
        for number, (size, told) in enumerate(((self.packed, sizes[0]), (self.plain, sizes[1]))):
            if told != _ZIP64:
                struct.pack_into("<I", record, at + 4 + 4 * number, size)
        for size, told in ((self.plain, sizes[1]), (self.packed, sizes[0])):
            if told == _ZIP64:
                if wide is None:
                    raise _bad(path, "a size in it is said to be elsewhere, and is not there")
                struct.pack_into("<Q", record, place, size)
                place += 8
        return wide is not None


def _wide_field(record: bytearray, at: int) -> int | None:
    """Where the sizes of 64 bits begin among the extra fields of a header; None where there are none."""
    while at + 4 <= len(record):
        kind, length = struct.unpack_from("<HH", record, at)
        if kind == 1:
            return at + 4
        at += 4 + length
    return None


def _with_offsets(made: bytes, path: Path, info: zipfile.ZipInfo, shift: int, sums: _Sums) -> bytes:
    """Correct what the list at the end says about the member, and of where those behind it begin."""
    ending = made.rfind(b"PK\x05\x06")
    count, _, directory = struct.unpack_from("<HII", made, ending + 10)
    if directory == _ZIP64 or count == 0xFFFF or made[ending - 20 : ending - 16] == b"PK\x06\x07":
        raise _bad(path, "it is a ZIP64, which can be read but not written")
    result = bytearray(made)
    struct.pack_into("<I", result, ending + 16, directory + shift)
    at = directory + shift
    for _ in range(count):
        if result[at : at + 4] != _CENTRAL:
            raise _bad(path, "its list of members is not where it should be")
        offset = struct.unpack_from("<I", result, at + 42)[0]
        name, extra = struct.unpack_from("<HH", result, at + 28)
        if offset == _ZIP64:
            raise _bad(path, "it is a ZIP64, which can be read but not written")
        if offset == info.header_offset:
            record = result[at : at + _CENTRAL_BYTES + name + extra]
            sums.write(record, 16, _CENTRAL_BYTES + name, path)
            result[at : at + len(record)] = record
        elif offset > info.header_offset:
            struct.pack_into("<I", result, at + 42, offset + shift)
        at += _CENTRAL_BYTES + sum(struct.unpack_from("<HHH", result, at + 28))
    return bytes(result)


def _deflated(plain: bytes) -> bytes:
    packer = zlib.compressobj(wbits=-zlib.MAX_WBITS)
    return packer.compress(plain) + packer.flush()


def _bad(path: Path, why: str) -> CatalogError:
    return CatalogError(
        f"The catalog {path} cannot be read as a ZIP: {why}.",
        next_step="It may be damaged; open it in its program on the old computer.",
    )
