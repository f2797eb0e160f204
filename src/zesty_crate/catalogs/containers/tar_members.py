"""Documents that are members of a tar archive (POSIX.1-1988 ustar, and its relatives)."""

from __future__ import annotations

import io
import tarfile
from collections.abc import Mapping

from ..model import CatalogError
from .layers import LARGEST_BYTES, unreadable
from .names import matching

_BLOCK = 512
_SIZE, _SUM = slice(124, 136), slice(148, 156)


class TarMembers:
    """Members of a tar by a name, which may have wildcards. Other members stay to the byte."""

    def __init__(self, pattern: str) -> None:
        self._pattern = pattern

    def documents(self, content: bytes, title: str) -> dict[str, bytes]:
        """The members that are meant."""
        members = self._members(content, title)
        found = matching(self._pattern, list(members), title, "tar")
        return {name: content[each.offset_data : each.offset_data + each.size] for name, each in _of(members, found)}

    def put(self, content: bytes, new: Mapping[str, bytes], title: str) -> bytes:
        """Put other contents behind the headers of members, and correct the sizes in these."""
        members, made = self._members(content, title), content
        for name, each in sorted(_of(members, new), key=lambda pair: -pair[1].offset_data):
            if each.pax_headers.get("size") or each.size > LARGEST_BYTES:
                raise CatalogError(f"The member {name} of {title} has its size elsewhere, and cannot be written.")
            begin, plain = each.offset_data, new[name]
            end = begin + _padded(each.size)
            header = bytearray(made[begin - _BLOCK : begin])
            header[_SIZE] = b"%011o\0" % len(plain)
            header[_SUM] = b" " * 8
            header[_SUM] = b"%06o\0 " % sum(header)
            padding = bytes(_padded(len(plain)) - len(plain))
            made = made[: begin - _BLOCK] + bytes(header) + plain + padding + made[end:]
        return made

    def names(self, content: bytes, title: str) -> frozenset[str]:
        """The names of all files in it."""
        return frozenset(self._members(content, title))

    def _members(self, content: bytes, title: str) -> dict[str, tarfile.TarInfo]:
        try:
            with tarfile.open(fileobj=io.BytesIO(content), mode="r:") as archive:
                files = [each for each in archive if each.isreg() and not each.issparse()]
        except (tarfile.TarError, ValueError, EOFError, OverflowError) as error:
            raise unreadable(title, "tar", str(error)) from error
        if any(each.offset_data + each.size > len(content) for each in files):
            raise unreadable(title, "tar", "it ends too soon")
        return {each.name: each for each in files}


def _of(
    members: Mapping[str, tarfile.TarInfo], names: Mapping[str, object] | list[str]
) -> list[tuple[str, tarfile.TarInfo]]:
    return [(name, members[name]) for name in names]


def _padded(size: int) -> int:
    return -(-size // _BLOCK) * _BLOCK
