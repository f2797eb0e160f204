"""How binary files hold texts: in an encoding, with zeros at the end or without. Raw is one character a byte."""

from __future__ import annotations

from dataclasses import dataclass

from .model import CatalogError

_ENCODINGS = ("utf-8", "utf-16-le", "utf-16-be", "latin-1", "cp1252", "mac-roman")


@dataclass(frozen=True, slots=True)
class BytesQuoting:
    """A text in an encoding. More than one zero at its end fill a field whose size stays."""

    name: str
    encoding: str

    def decode(self, raw: str) -> str:
        """The text, without zeros at its end; empty for what is no text in this encoding."""
        try:
            return raw.encode("latin-1").decode(self.encoding).rstrip("\0")
        except UnicodeError:
            return ""

    def rewrite(self, raw: str, new: str) -> str:
        """Another text with as many zeros; a field that has several keeps its size."""
        try:
            whole = raw.encode("latin-1").decode(self.encoding)
            zeros = len(whole) - len(whole.rstrip("\0"))
            if zeros > 1:
                zeros += len(whole.rstrip("\0")) - len(new)
            written = (new + "\0" * max(zeros, 0)).encode(self.encoding)
        except UnicodeError as error:
            raise CatalogError(f"The path {new!r} cannot be written in {self.encoding}, as it must be.") from error
        if zeros < 0 or "\0" in new:
            raise CatalogError(
                f"The path {new!r} is longer than its field, which cannot hold it.",
                next_step="Place these files elsewhere with a route.",
            )
        return written.decode("latin-1")


def bytes_quoting(encoding: str) -> str:
    """The name of the quoting for an encoding."""
    return f"bytes-{encoding}"


BYTES_QUOTINGS = tuple(BytesQuoting(bytes_quoting(each), each) for each in _ENCODINGS)
