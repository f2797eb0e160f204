"""Paths that are kept as a JSON array with one name a member: ``["C:", "Users"]``, ``["", "home", "odile"]``."""

from __future__ import annotations

import json
import re

from ..paths import with_slashes

_STRING = re.compile(r'"(?:[^"\\]|\\.)*"', re.DOTALL)
_DRIVE = re.compile(r"[A-Za-z]:")


def joined_names(names: list[str]) -> str:
    """The path that names are. Where a first name ends with its separator (``"C:\\\\"``, ``"/"``), it has that."""
    if not names:
        return ""
    first, *rest = names
    if first == "" and len(names) == 1:
        return "/"
    return with_slashes(first + "/".join(rest) if first[-1:] in ("/", "\\") else "/".join(names))


class NameListQuoting:
    """RFC 8259, section 5: an array of strings. A name holds no separator, but for the first at its end."""

    name = "json-names"

    def decode(self, raw: str) -> str:
        """The path; empty for what is no array of strings."""
        try:
            return joined_names([str(each) for each in json.loads(raw)])
        except ValueError:
            return ""

    def rewrite(self, raw: str, new: str) -> str:
        """Another path, with as much white space between its names as there was; names that stay are as they were."""
        strings = list(_STRING.finditer(raw))
        old = [str(json.loads(each[0])) for each in strings]
        names = _names(new, is_closed=bool(old and old[0][-1:] in ("/", "\\")))
        written = {text: each[0] for text, each in zip(old, strings, strict=True)}
        start, end = (strings[0].start(), strings[-1].end()) if strings else (1, 1)
        between = raw[strings[0].end() : strings[1].start()] if len(strings) > 1 else ", "
        is_ascii = raw.isascii()
        texts = (written.get(each) or json.dumps(each, ensure_ascii=is_ascii) for each in names)
        return raw[:start] + between.join(texts) + raw[end:]


def _names(path: str, *, is_closed: bool) -> list[str]:
    """The names of a path; ``is_closed`` tells that a first one, which is a root, has its separator."""
    if path.startswith("//"):
        server, share, *rest = [*path[2:].split("/"), ""]
        return [f"\\\\{server}\\{share}", *rest[:-1]]
    first, *rest = path.split("/")
    if is_closed and (first == "" or _DRIVE.fullmatch(first)):
        first += "\\" if first else "/"
    return [first, *rest] if rest != [""] else [first]
