"""Small, real pictures from the standard library alone: a painted backdrop whose colours follow from a number.

PNG, 8-bit truecolour, one filtered row after the other (ISO/IEC 15948, sections 9 and 11).
"""

from __future__ import annotations

import math
import struct
import zlib

_SIGNATURE = b"\x89PNG\r\n\x1a\n"
_INKS = ((24, 28, 56), (120, 46, 40), (34, 92, 74), (150, 110, 40), (70, 52, 110), (38, 84, 120), (96, 96, 88))


def backdrop(number: int, width: int = 48, height: int = 30) -> bytes:
    """A PNG of hills before a sky with a lamp; the same ``number`` always gives the same bytes."""
    ink, lamp = _INKS[number % len(_INKS)], (number * 37) % width
    hills = (0.62 + 0.12 * math.sin((x + 5 * number) / 7) + 0.07 * math.sin(x / 2.3 + number) for x in range(width))
    ridges = [height * hill for hill in hills]
    rows = []
    for y in range(height):
        row = bytearray(b"\0")  # each row begins with its filter: none
        for x, ridge in enumerate(ridges):
            glow = max(0, 110 - 9 * math.hypot(x - lamp, y - height / 4))
            shade = 0.35 if y > ridge else 1.0 - 0.5 * y / height
            row += bytes(min(255, int((each + glow) * shade)) for each in ink)
        rows.append(bytes(row))
    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return _SIGNATURE + _chunk(b"IHDR", head) + _chunk(b"IDAT", zlib.compress(b"".join(rows), 9)) + _chunk(b"IEND", b"")


def _chunk(kind: bytes, content: bytes) -> bytes:
    return struct.pack(">I", len(content)) + kind + content + struct.pack(">I", zlib.crc32(kind + content))
