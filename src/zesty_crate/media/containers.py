"""Containers of sound and video, gone through piece by piece: is each as long as it says, and how long do they play?

Chunks of RIFF (Multimedia Programming Interface 1.0) and IFF-85, boxes of ISO/IEC 14496-12, EBML (RFC 8794) with the
elements of Matroska (RFC 9559). Contents are skipped, not read.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO, NamedTuple

_SEGMENT, _INFO, _SCALE, _DURATION = 0x18538067, 0x1549A966, 0x2AD7B1, 0x4489
_EBML_HEAD = b"\x1a\x45\xdf\xa3"
_USUAL_SCALE_NS = 1_000_000
_UNKNOWN_BITS = 7
_TOLD_WHOLE = 1 << 20  # no head is longer


class ContainerError(ValueError):
    """A file is not what its kind must be; the text says how."""


class Chunk(NamedTuple):
    """One chunk, box or element: its name, where its content begins, and how many bytes it has."""

    name: str
    first: int
    size_bytes: int


def chunks(stream: BinaryIO) -> tuple[str, list[Chunk]]:
    """The form of a RIFF or IFF file, and its chunks. Raises `ContainerError` when one is cut short."""
    head = stream.read(12)
    if head[:4] not in (b"RIFF", b"RF64", b"FORM") or len(head) < 12:
        raise ContainerError("it does not begin like a file of its kind")
    order = ">" if head[:4] == b"FORM" else "<"
    end, at, found = _size_of(stream), 12, []
    while at + 8 <= end:
        stream.seek(at)
        name, size = struct.unpack(f"{order}4sI", stream.read(8))
        if size == 0xFFFFFFFF and head[:4] == b"RF64":
            size = end - at - 8
        piece = Chunk(name.decode("latin-1").strip(), at + 8, size)
        if piece.first + size > end:
            raise ContainerError(f"its part {piece.name!r} is truncated: {end - piece.first:,} of {size:,} bytes")
        found.append(piece)
        at = piece.first + size + size % 2
    return head[8:12].decode("latin-1"), found


def avi_duration_s(path: Path) -> float | None:
    """How long an AVI plays: frames by the time of each, as its main header says."""
    with path.open("rb") as stream:
        form, found = chunks(stream)
        if form != "AVI ":
            raise ContainerError("it does not begin like a file of its kind")
        header = next((each for each in found if each.name == "LIST"), None)
        stream.seek(header.first if header else 0)
        content = stream.read(min(header.size_bytes, _TOLD_WHOLE)) if header else b""
    at = content.find(b"avih")
    if at < 0 or len(content) < at + 28:
        raise ContainerError("it has no main header")
    microseconds, *_, frames = struct.unpack_from("<5I", content, at + 8)
    return float(microseconds * frames / 1_000_000) or None


def boxes(stream: BinaryIO, first: int, end: int) -> Iterator[Chunk]:
    """The boxes between two places. Raises `ContainerError` when one is cut short."""
    at = first
    while at + 8 <= end:
        stream.seek(at)
        size, name = struct.unpack(">I4s", stream.read(8))
        head = 8
        if size == 1:
            (size,) = struct.unpack(">Q", stream.read(8))
            head = 16
        size = size or end - at
        piece = Chunk(name.decode("latin-1"), at + head, size - head)
        if size < head or at + size > end:
            raise ContainerError(f"its part {piece.name!r} is truncated: {end - at:,} of {size:,} bytes")
        yield piece
        at += size


def mp4_duration_s(path: Path) -> float | None:
    """How long an MP4 or QuickTime file plays, as its movie header says."""
    with path.open("rb") as stream:
        found = {each.name: each for each in boxes(stream, 0, _size_of(stream))}
        if "moov" not in found:
            raise ContainerError("it has no movie header and cannot play")
        movie = found["moov"]
        inner = {each.name: each for each in boxes(stream, movie.first, movie.first + movie.size_bytes)}
        if "mvhd" not in inner:
            raise ContainerError("its movie header is empty")
        stream.seek(inner["mvhd"].first)
        content = stream.read(32)
    scale, length = (
        struct.unpack_from(">IQ", content, 20) if content[0] == 1 else struct.unpack_from(">II", content, 12)
    )
    return length / scale if scale else None


def matroska_duration_s(path: Path) -> float | None:
    """How long a Matroska or WebM file plays, as its segment says."""
    with path.open("rb") as stream:
        if stream.read(4) != _EBML_HEAD:
            raise ContainerError("it does not begin like a file of its kind")
        stream.seek(0)
        end = _size_of(stream)
        segment = next((each for each in _elements(stream, 0, end) if each.name == hex(_SEGMENT)), None)
        if segment is None:
            raise ContainerError("it has no segment")
        inner = _elements(stream, segment.first, segment.first + segment.size_bytes)
        info = next((each for each in inner if each.name == hex(_INFO)), None)
        if info is None:
            raise ContainerError("its segment has no description")
        values = {}
        for each in _elements(stream, info.first, info.first + info.size_bytes):
            stream.seek(each.first)
            values[each.name] = stream.read(each.size_bytes)
    scale = int.from_bytes(values.get(hex(_SCALE), b"")) or _USUAL_SCALE_NS
    length = values.get(hex(_DURATION), b"")
    if len(length) not in (4, 8):
        return None
    return float(struct.unpack(">f" if len(length) == 4 else ">d", length)[0] * scale / 10**9)


def _elements(stream: BinaryIO, first: int, end: int) -> Iterator[Chunk]:
    at = first
    while at < end:
        stream.seek(at)
        name, _ = _number(stream, keep_mark=True)
        size, unknown = _number(stream, keep_mark=False)
        content = stream.tell()
        size = end - content if unknown else size
        if content + size > end:
            raise ContainerError(f"its part {hex(name)} is truncated: {end - content:,} of {size:,} bytes")
        yield Chunk(hex(name), content, size)
        at = content + size


def _number(stream: BinaryIO, *, keep_mark: bool) -> tuple[int, bool]:
    """A number of EBML, and whether it represents an unknown size (RFC 8794, 4 and 6.2)."""
    first = stream.read(1)
    if not first or not first[0]:
        raise ContainerError("it is truncated")
    length = 9 - first[0].bit_length()
    rest = stream.read(length - 1)
    value = int.from_bytes(first + rest)
    bits = _UNKNOWN_BITS * length
    plain = value & ((1 << bits) - 1)
    return (value if keep_mark else plain), plain == (1 << bits) - 1


def _size_of(stream: BinaryIO) -> int:
    at = stream.tell()
    size = stream.seek(0, 2)
    stream.seek(at)
    return size
