"""Sounds that are a stream of frames: is the last one there, and whole?

FLAC by RFC 9639, 9; MP3 by what its first frame says about all of them, as mutagen reads it.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path

from .containers import ContainerError

_TAIL_BYTES = 1 << 18
_ID3V1_BYTES = 128
_OF_WHOLE = 0.97  # bit rates are rounded


def check_flac_end(path: Path, first_frame: int, total_samples: int, block_samples: int) -> None:
    """Raise `ContainerError` unless the last frame is whole, and is the last one that the head mentions.

    ``first_frame`` is where frames begin, in bytes; ``block_samples`` how many samples all but the last one have.
    """
    with path.open("rb") as stream:
        end = stream.seek(0, 2)
        stream.seek(max(first_frame, end - _TAIL_BYTES))
        tail = stream.read()
    if tail[-_ID3V1_BYTES:][:3] == b"TAG":
        tail = tail[:-_ID3V1_BYTES]
    last = _last_whole_frame(tail, block_samples)
    if last is None:
        raise ContainerError("it is truncated: its last frame is incomplete")
    samples_before, samples = last
    if total_samples and samples_before + samples < total_samples:
        there = samples_before + samples
        raise ContainerError(f"it is truncated: {there:,} of {total_samples:,} samples")


def check_mp3_end(path: Path) -> float:
    """How long it plays, in seconds. Raises `ContainerError` when it is none, or shorter than its head says."""
    from mutagen import MutagenError
    from mutagen.mp3 import MP3

    try:
        info = MP3(path).info
    except (MutagenError, ValueError) as error:
        raise ContainerError(str(error)) from error
    if info is None or info.sketchy:
        raise ContainerError("it contains no sound frames")
    expected, found = info.length * info.bitrate / 8, path.stat().st_size
    if found < expected * _OF_WHOLE:
        raise ContainerError(f"it is truncated: {found:,} of about {expected:,.0f} bytes")
    return float(info.length)


def _last_whole_frame(tail: bytes, block_samples: int) -> tuple[int, int] | None:
    """The samples before the last frame, and those in it; None when what is at the end is no whole frame."""
    at = len(tail)
    while (at := tail.rfind(b"\xff", 0, at)) >= 0:
        header = _frame_header(tail[at : at + 17], block_samples)
        if header is not None and _crc16(tail[at:-2]) == int.from_bytes(tail[-2:]):
            return header
    return None


def _frame_header(head: bytes, block_samples: int) -> tuple[int, int] | None:
    """The samples before a frame and those in it, if a header stands here (RFC 9639, 9.1)."""
    if len(head) < 6 or head[1] & 0xFE != 0xF8:
        return None
    size_code, rate_code, at = head[2] >> 4, head[2] & 0x0F, 4
    number, length = _coded_number(head[at:])
    if not length or not size_code:
        return None
    at += length
    size_bytes, rate_bytes = {6: 1, 7: 2}.get(size_code, 0), {12: 1, 13: 2, 14: 2}.get(rate_code, 0)
    samples = int.from_bytes(head[at : at + size_bytes]) + 1 if size_bytes else _block_size(size_code)
    at += size_bytes + rate_bytes
    if len(head) <= at or _crc8(head[:at]) != head[at]:
        return None
    return number if head[1] & 1 else number * block_samples, samples  # numbered by samples, or by frames


def _block_size(code: int) -> int:
    """Samples of a frame by its code (RFC 9639, table 14)."""
    if code == 1:
        return 192
    return int(144 * 2**code) if code <= 5 else 1 << code


def _coded_number(data: bytes) -> tuple[int, int]:
    """A number written as UTF-8 writes characters, up to seven bytes long, and its length; length 0 when it is none."""
    if not data:
        return 0, 0
    first = data[0]
    if first < 0x80:
        return first, 1
    length = next((count for count in range(2, 8) if not first & (0x80 >> count)), 0)
    if not length or len(data) < length or first < 0xC0:
        return 0, 0
    value = first & (0x7F >> length)
    for each in data[1:length]:
        if each & 0xC0 != 0x80:
            return 0, 0
        value = value << 6 | each & 0x3F
    return value, length


@cache
def _table(polynomial: int, bits: int) -> tuple[int, ...]:
    top, mask, table = 1 << (bits - 1), (1 << bits) - 1, []
    for byte in range(256):
        value = byte << (bits - 8)
        for _ in range(8):
            value = (value << 1 ^ polynomial if value & top else value << 1) & mask
        table.append(value)
    return tuple(table)


def _crc8(data: bytes) -> int:
    table, value = _table(0x07, 8), 0
    for byte in data:
        value = table[value ^ byte]
    return value


def _crc16(data: bytes) -> int:
    table, value = _table(0x8005, 16), 0
    for byte in data:
        value = (value << 8 & 0xFFFF) ^ table[value >> 8 ^ byte]
    return value
