"""Catalogs that are a member of a ZIP (APPNOTE.TXT 6.3): read through, and written without touching other members.

Every byte of the other members, compressed as they are, stays; so do the order, the dates and the comments. Only the
member itself is compressed anew, and the offsets and sums that depend on it are correct.
"""

from __future__ import annotations

import io
import struct
import zipfile
import zlib
from collections.abc import Mapping
from typing import NamedTuple

from .layers import LARGEST_BYTES, unreadable
from .names import matching

_LOCAL, _LOCAL_BYTES = b"PK\x03\x04", 30
_CENTRAL, _CENTRAL_BYTES = b"PK\x01\x02", 46
_HAS_DESCRIPTOR = 0x08
_ENCRYPTED = 0x01
_ZIP64 = 0xFFFFFFFF


class ZipMembers:
    """Members of a ZIP by a name, which may have wildcards."""

    def __init__(self, pattern: str) -> None:
        self._pattern = pattern

    def documents(self, content: bytes, title: str) -> dict[str, bytes]:
        """The members that are meant."""
        with _opened(content, title) as archive:
            listed = archive.infolist()
        found = matching(self._pattern, [info.filename for info in listed], title, "ZIP")
        infos = {info.filename: info for info in listed}
        return {name: _member(content, title, infos[name]) for name in found}

    def put(self, content: bytes, new: Mapping[str, bytes], title: str) -> bytes:
        """The ZIP with other contents of members. Raises `CatalogError` for what is not read back as it was written."""
        for name, document in new.items():
            content = _replaced(content, title, name, document)
            if _member(content, title, _listed(content, title, name)) != document:
                raise unreadable(title, "a ZIP", f"its member {name} is not read back as it was written")
        return content

    def names(self, content: bytes, title: str) -> frozenset[str]:
        """The names of all members."""
        with _opened(content, title) as archive:
            return frozenset(archive.namelist())


def _member(content: bytes, title: str, info: zipfile.ZipInfo) -> bytes:
    """The content of a member. Raises `CatalogError` when it is damaged, locked or absurdly large."""
    name = info.filename
    if max(info.file_size, info.compress_size) > LARGEST_BYTES:
        raise unreadable(title, "a ZIP", f"its member {name} is larger than 256 MiB")
    if info.flag_bits & _ENCRYPTED or info.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED):
        raise unreadable(title, "a ZIP", f"its member {name} is encrypted or compressed by an unsupported method")
    raw = content[slice(*_data_span(content, title, info))]
    try:
        plain = raw if info.compress_type == zipfile.ZIP_STORED else _inflated(raw)
    except zlib.error as error:
        raise unreadable(title, "a ZIP", f"its member {name} is damaged ({error})") from error
    if len(plain) != info.file_size or zlib.crc32(plain) != info.CRC:
        raise unreadable(title, "a ZIP", f"its member {name} is damaged, or is larger than it says")
    return plain


def _listed(content: bytes, title: str, name: str) -> zipfile.ZipInfo:
    with _opened(content, title) as archive:
        return archive.getinfo(name)


def _inflated(raw: bytes) -> bytes:
    return zlib.decompressobj(-zlib.MAX_WBITS).decompress(raw, LARGEST_BYTES)


def _opened(content: bytes, title: str) -> zipfile.ZipFile:
    try:
        return zipfile.ZipFile(io.BytesIO(content))
    except (zipfile.BadZipFile, ValueError, struct.error, OverflowError, NotImplementedError) as error:
        raise unreadable(title, "a ZIP", str(error)) from error


def _data_span(content: bytes, title: str, info: zipfile.ZipInfo) -> tuple[int, int]:
    start = info.header_offset
    if content[start : start + 4] != _LOCAL:
        raise unreadable(title, "a ZIP", f"its member {info.filename} is not where it is listed")
    name, extra = struct.unpack_from("<HH", content, start + 26)
    begin = start + _LOCAL_BYTES + name + extra
    return begin, begin + info.compress_size


def _replaced(content: bytes, title: str, name: str, new: bytes) -> bytes:
    """The ZIP with another content of one member."""
    info = _listed(content, title, name)
    begin, end = _data_span(content, title, info)
    packed = new if info.compress_type == zipfile.ZIP_STORED else _deflated(new)
    sums = _Sums(zlib.crc32(new), len(packed), len(new))
    header = bytearray(content[info.header_offset : begin])
    after = bytearray(content[end:])
    is_wide = sums.write(header, 14, _LOCAL_BYTES + struct.unpack_from("<H", header, 26)[0], title)
    if info.flag_bits & _HAS_DESCRIPTOR:
        header[14:] = content[info.header_offset + 14 : begin]  # which says nothing of sums, or what the writer chose
        mark = 4 if after[:4] == b"PK\x07\x08" else 0
        struct.pack_into("<IQQ" if is_wide else "<III", after, mark, *sums)
    shift = len(packed) - (end - begin)
    made = content[: info.header_offset] + bytes(header) + packed + bytes(after)
    return _with_offsets(made, title, info, shift, sums)


class _Sums(NamedTuple):
    """What a ZIP says about a member: its CRC-32, and its sizes in bytes."""

    crc: int
    packed: int
    plain: int

    def write(self, record: bytearray, at: int, extra: int, title: str) -> bool:
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
                    raise unreadable(title, "a ZIP", "a size in it is said to be elsewhere, and is not there")
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


def _with_offsets(made: bytes, title: str, info: zipfile.ZipInfo, shift: int, sums: _Sums) -> bytes:
    """Correct what the list at the end says about the member, and of where those behind it begin."""
    ending = made.rfind(b"PK\x05\x06")
    count, _, directory = struct.unpack_from("<HII", made, ending + 10)
    if directory == _ZIP64 or count == 0xFFFF or made[ending - 20 : ending - 16] == b"PK\x06\x07":
        raise unreadable(title, "a ZIP", "it is a ZIP64, which can be read but not written")
    result = bytearray(made)
    struct.pack_into("<I", result, ending + 16, directory + shift)
    at = directory + shift
    for _ in range(count):
        if result[at : at + 4] != _CENTRAL:
            raise unreadable(title, "a ZIP", "its list of members is not where it should be")
        offset = struct.unpack_from("<I", result, at + 42)[0]
        name, extra = struct.unpack_from("<HH", result, at + 28)
        if offset == _ZIP64:
            raise unreadable(title, "a ZIP", "it is a ZIP64, which can be read but not written")
        if offset == info.header_offset:
            record = result[at : at + _CENTRAL_BYTES + name + extra]
            sums.write(record, 16, _CENTRAL_BYTES + name, title)
            result[at : at + len(record)] = record
        elif offset > info.header_offset:
            struct.pack_into("<I", result, at + 42, offset + shift)
        at += _CENTRAL_BYTES + sum(struct.unpack_from("<HHH", result, at + 28))
    return bytes(result)


def _deflated(plain: bytes) -> bytes:
    packer = zlib.compressobj(wbits=-zlib.MAX_WBITS)
    return packer.compress(plain) + packer.flush()
