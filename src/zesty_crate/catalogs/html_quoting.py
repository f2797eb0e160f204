"""How HTML writes texts: between either kind of quotation marks, without any, and between tags (section 13.1)."""

from __future__ import annotations

import re
from html import unescape

from .quoting_units import AnyQuoting, Quoting

DOUBLE, SINGLE, BARE, TEXT = "html-double", "html-single", "html-bare", "html-text"
_UNIT = re.compile(r"&(?:#[0-9]+|#[xX][0-9A-Fa-f]+|[A-Za-z][A-Za-z0-9]*);?|.", re.DOTALL)
_NOT_BARE = re.compile(r"[\s\"'=<>`]")


def _read(unit: str) -> str:
    return unescape(unit) if len(unit) > 1 else unit


def _escaping(marks: str) -> Quoting:
    names = {"&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;", "'": "&#39;"}

    def escape(character: str, _: str) -> str | None:
        if character in marks:
            return names[character]
        return None if character == "\0" else character

    return Quoting({'&"': DOUBLE, "&'": SINGLE, "&<>": TEXT}[marks], "&", _UNIT, _read, escape)


_DOUBLE = _escaping('&"')


class BareQuoting:
    """A value without quotation marks; a new one gets some where it needs them."""

    name = BARE

    def decode(self, raw: str) -> str:
        """What a raw text represents."""
        return _DOUBLE.decode(raw[1:-1] if len(raw) > 1 and raw[0] == raw[-1] == '"' else raw)

    def rewrite(self, raw: str, new: str) -> str:
        """Another value in its place."""
        written = _DOUBLE.rewrite(raw, new)
        return f'"{written}"' if not new or _NOT_BARE.search(written) else written


HTML_QUOTINGS: tuple[AnyQuoting, ...] = (_DOUBLE, _escaping("&'"), _escaping("&<>"), BareQuoting())
