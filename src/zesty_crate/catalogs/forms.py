"""How a value holds a path that is not simply its text: in the midst of more, or with another separator."""

from __future__ import annotations

import re
from typing import NamedTuple

from ..guides import PiecePart
from ..paths import with_slashes
from .reading import UnreadRecord


class Form(NamedTuple):
    """What is around a path in its value, and what separates its names there.

    ``in_names`` stands for a separator that is part of a name. By ``match`` the path is found in another value.
    """

    before: str = ""
    after: str = ""
    separator: str = ""
    in_names: str = ""
    match: str = ""

    def written(self, path: str) -> str:
        """The value that holds another path in this way. Raises `UnreadRecord` where it would be read otherwise."""
        value = f"{self.before}{self._separated(path)}{self.after}"
        if self.read(value) != (with_slashes(path) if self.separator else path):
            raise UnreadRecord(f"the path {path!r} would be read back otherwise from {value!r}")
        return value

    def _separated(self, path: str) -> str:
        if not self.separator:
            return path
        names = with_slashes(path).split("/")
        return self.separator.join(name.replace(self.separator, self.in_names or self.separator) for name in names)

    def read(self, value: str) -> str | None:
        """The path in a value of this form; None for none."""
        found = _found(self.match, value)
        return found and _with_slashes(found[1], self.separator, self.in_names)


def read_form(piece: PiecePart, value: str) -> tuple[str, Form | None]:
    """The path that a value holds, empty for none; and how it holds it, None where it is simply its text.

    Raises `UnreadRecord` for a path that could not be written again as it is.
    """
    if not piece.match and piece.separator is None:
        return value, None
    found = _found(piece.match or "", value)
    if found is None:
        return "", None
    before, text, after = found
    separator = piece.separator.text if piece.separator else ""
    in_names = (piece.separator.in_names if piece.separator else "") or ""
    form = Form(before, after, separator, in_names, piece.match or "")
    path = _with_slashes(text, separator, in_names)
    if form.written(path) != value:
        raise UnreadRecord(f"the names in {value!r} cannot be told apart by {separator!r}")
    return path, form


def _found(pattern: str, value: str) -> tuple[str, str, str] | None:
    """What is before a path in a value, the path, and what is after it."""
    if not pattern:
        return "", value, ""
    match = re.search(pattern, value)
    if match is None or match[1] is None:
        return None
    start, end = match.span(1)
    return value[:start], value[start:end], value[end:]


def _with_slashes(text: str, separator: str, in_names: str) -> str:
    """A path with ``/`` between its names."""
    if not separator:
        return text
    parts = re.split(f"({'|'.join(re.escape(each) for each in (in_names, separator) if each)})", text)
    return "".join("/" if part == separator else separator if part and part == in_names else part for part in parts)
