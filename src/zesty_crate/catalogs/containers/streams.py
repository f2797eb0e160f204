"""Documents that are compressed or encoded as a whole: gzip (RFC 1952), zlib (RFC 1950) and base64 (RFC 4648)."""

from __future__ import annotations

import base64
import binascii
import re
import struct
import zlib
from collections.abc import Mapping

from ..model import CatalogError
from .layers import LARGEST_BYTES, unreadable

_GZIP_MAGIC, _DEFLATE = b"\x1f\x8b", 8
_HEADER_SUM, _EXTRA, _NAME, _COMMENT = 0x02, 0x04, 0x08, 0x10
_LEVELS = {2: 9, 4: 1}  # what XFL says of the level
_ZLIB_LEVELS = (1, 5, 6, 9)  # what FLEVEL says of it


class Gzip:
    """A gzip stream of one member. Its header (name, time, comment) stays; what it holds is compressed anew."""

    def documents(self, content: bytes, title: str) -> dict[str, bytes]:
        """What is compressed."""
        body = content[self._header_bytes(content, title) :]
        plain, rest = _inflated(body, title, "gzip")
        if len(rest) < 8 or struct.unpack_from("<II", rest) != (zlib.crc32(plain), len(plain) & 0xFFFFFFFF):
            raise unreadable(title, "gzip", "its sums do not fit its content")
        if rest[8:].strip(b"\0"):
            raise unreadable(title, "gzip", "it has several members")
        return {"": plain}

    def put(self, content: bytes, new: Mapping[str, bytes], title: str) -> bytes:
        """Compress the new content behind the header that was there."""
        header = content[: self._header_bytes(content, title)]
        _, rest = _inflated(content[len(header) :], title, "gzip")
        plain = new[""]
        ends = struct.pack("<II", zlib.crc32(plain), len(plain) & 0xFFFFFFFF)
        return header + _deflated(plain, _LEVELS.get(header[8], 6)) + ends + rest[8:]

    def names(self, content: bytes, title: str) -> frozenset[str]:  # noqa: ARG002  it holds one thing
        """It holds one document."""
        return frozenset()

    def _header_bytes(self, content: bytes, title: str) -> int:
        """How long the header is."""
        if content[:2] != _GZIP_MAGIC or len(content) < 18 or content[2] != _DEFLATE:
            raise unreadable(title, "gzip", f"it begins with {content[:3].hex(' ')}, not with 1f 8b 08")
        flags, at = content[3], 10
        if flags & _EXTRA:
            at += 2 + struct.unpack_from("<H", content, at)[0]
        for flag in (_NAME, _COMMENT):
            if flags & flag:
                end = content.find(b"\0", at)
                if end < 0:
                    raise unreadable(title, "gzip", "its header does not end")
                at = end + 1
        return at + (2 if flags & _HEADER_SUM else 0)


class Zlib:
    """A zlib stream without a dictionary."""

    def documents(self, content: bytes, title: str) -> dict[str, bytes]:
        """What is compressed."""
        if len(content) < 6 or content[0] & 0x0F != _DEFLATE or struct.unpack(">H", content[:2])[0] % 31:
            raise unreadable(title, "zlib", f"it begins with {content[:2].hex(' ')}")
        plain, rest = _inflated(content[2:], title, "zlib")
        if rest != struct.pack(">I", zlib.adler32(plain)):
            raise unreadable(title, "zlib", "its sum does not fit its content, or something follows it")
        return {"": plain}

    def put(self, content: bytes, new: Mapping[str, bytes], title: str) -> bytes:  # noqa: ARG002  it was read before
        """Compress the new content."""
        plain, level = new[""], _ZLIB_LEVELS[content[1] >> 6]
        return content[:2] + _deflated(plain, level) + struct.pack(">I", zlib.adler32(plain))

    def names(self, content: bytes, title: str) -> frozenset[str]:  # noqa: ARG002  it holds one thing
        """It holds one document."""
        return frozenset()


class Base64:
    """A text in base64, with the alphabet, the line length, the line ends and the padding that it has."""

    def documents(self, content: bytes, title: str) -> dict[str, bytes]:
        """What is encoded."""
        bare = b"".join(content.split()).rstrip(b"=")
        if not re.fullmatch(rb"[A-Za-z0-9+/]*|[A-Za-z0-9_-]*", bare):
            raise unreadable(title, "base64", "it has other characters")
        try:
            plain = base64.b64decode(bare + b"=" * (-len(bare) % 4), altchars=_other_characters(bare), validate=True)
        except binascii.Error as error:
            raise unreadable(title, "base64", str(error)) from error
        return {"": plain}

    def put(self, content: bytes, new: Mapping[str, bytes], title: str) -> bytes:
        """Encode the new content in the form of the old one. Raises `CatalogError` for a form that is not kept."""
        if self._encoded(content, self.documents(content, title)[""]) != content:
            raise CatalogError(
                f"The text in base64 in {title} has lines of several lengths, and cannot be written in the same form.",
                next_step="Nothing was changed. Place its files where it says already, with routes.",
            )
        return self._encoded(content, new[""])

    def names(self, content: bytes, title: str) -> frozenset[str]:  # noqa: ARG002  it holds one thing
        """It holds one document."""
        return frozenset()

    def _encoded(self, like: bytes, plain: bytes) -> bytes:
        before = like[: len(like) - len(like.lstrip())]
        after = like[len(like.rstrip()) :]
        body = like.strip()
        made = base64.b64encode(plain, _other_characters(body))
        if not body.endswith(b"=") and len(b"".join(body.split())) % 4:
            made = made.rstrip(b"=")
        line_end = re.search(rb"\s+", body)
        if line_end:
            width = line_end.start()
            made = line_end.group().join(made[at : at + width] for at in range(0, len(made), width))
        return before + made + after


def _other_characters(text: bytes) -> bytes:
    return b"-_" if b"-" in text or b"_" in text else b"+/"


def _inflated(body: bytes, title: str, kind: str) -> tuple[bytes, bytes]:
    """What a deflate stream (RFC 1951) holds, and what follows it. Raises `CatalogError`."""
    reader = zlib.decompressobj(-zlib.MAX_WBITS)
    try:
        plain = reader.decompress(body, LARGEST_BYTES)
    except zlib.error as error:
        raise unreadable(title, kind, f"it is damaged ({error})") from error
    if reader.unconsumed_tail:
        raise unreadable(title, kind, "it holds more than 256 MiB")
    if not reader.eof:
        raise unreadable(title, kind, "it ends too soon")
    return plain, reader.unused_data


def _deflated(plain: bytes, level: int) -> bytes:
    packer = zlib.compressobj(level, wbits=-zlib.MAX_WBITS)
    return packer.compress(plain) + packer.flush()
