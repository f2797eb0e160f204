"""Small, real pictures: a painted backdrop whose colours follow from a number.

PNG, 8-bit truecolour, one filtered row after the other (ISO/IEC 15948, sections 9 and 11).
"""

from __future__ import annotations

import struct
import zlib

import numpy as np

_SIGNATURE = b"\x89PNG\r\n\x1a\n"
_INKS = ((24, 28, 56), (120, 46, 40), (34, 92, 74), (150, 110, 40), (70, 52, 110), (38, 84, 120), (96, 96, 88))


def backdrop(number: int, width: int = 48, height: int = 30) -> bytes:
    """A PNG of hills before a sky with a lamp; the same ``number`` always gives the same bytes."""
    ink, lamp = np.array(_INKS[number % len(_INKS)]), (number * 37) % width
    x, y = np.arange(width), np.arange(height)[:, np.newaxis]
    ridge = height * (0.62 + 0.12 * np.sin((x + 5 * number) / 7) + 0.07 * np.sin(x / 2.3 + number))
    glow = np.maximum(0, 110 - 9 * np.hypot(x - lamp, y - height / 4))
    shade = np.where(y > ridge, 0.35, 1.0 - 0.5 * y / height)
    pixels = np.minimum(255, (ink + glow[..., np.newaxis]) * shade[..., np.newaxis]).astype(np.uint8)
    rows = [b"\0" + row.tobytes() for row in pixels]  # each row begins with its filter: none
    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return _SIGNATURE + _chunk(b"IHDR", head) + _chunk(b"IDAT", zlib.compress(b"".join(rows), 9)) + _chunk(b"IEND", b"")


def _chunk(kind: bytes, content: bytes) -> bytes:
    return struct.pack(">I", len(content)) + kind + content + struct.pack(">I", zlib.crc32(kind + content))
