"""How YAML and TOML write a text: in one of several forms, of which each may hold other characters.

The raw text is the whole of it, with its quotation marks. A new one is written in the same form where that can hold it.
"""

from __future__ import annotations

import re
import tomllib

from .quoting_units import Quoting

_SHORT = {"0": "\0", "a": "\a", "b": "\b", "t": "\t", "n": "\n", "v": "\v", "f": "\f", "r": "\r", "e": "\x1b"}
_YAML_SHORT = {**_SHORT, "N": "\x85", "_": "\xa0", "L": "\u2028", "P": "\u2029", "\t": "\t"}
_CONTROL = re.compile(r"[\x00-\x08\x0a-\x1f\x7f-\x9f\u2028\u2029\ufeff\ud800-\udfff]")


class YamlQuoting:
    """YAML 1.2.2, sections 7.3.1 to 7.3.3: double-quoted, single-quoted and plain scalars."""

    name = "yaml"

    def decode(self, raw: str) -> str:
        """What a raw text represents; what is no scalar represents itself."""
        if raw[:1] not in ('"', "'") and _is_everyday(raw):
            return raw
        text = _yaml_text(raw)
        return raw if text is None and _yaml_kind(raw) else text or ""

    def rewrite(self, raw: str, new: str) -> str:
        """The new text in the form of the old one; else between single marks, and else between double ones.

        A number or a date in place of another stays one.
        """
        if (
            raw[:1] not in ('"', "'")
            and not _is_everyday(raw)
            and (kind := _yaml_kind(raw))
            and _yaml_kind(new) == kind
        ):
            return new
        if raw[:1] not in ('"', "'") and (_is_everyday(new) or _yaml_text(f"[{new}]") == new == _yaml_text(new)):
            return new
        if raw[:1] != '"' and not _CONTROL.search(new):
            return "'" + new.replace("'", "''") + "'"
        is_one_line = raw[:1] == '"' and "\n" not in raw and "\r" not in raw
        return f'"{_YAML_DOUBLE.rewrite_whole(raw[1:-1] if is_one_line else "", new)}"'


class TomlQuoting:
    """TOML 1.0.0, "String": basic and literal strings, in one line or several."""

    name = "toml"

    def decode(self, raw: str) -> str:
        """What a raw text represents; empty for what is no string."""
        try:
            return str(tomllib.loads(f"x = {raw}")["x"])
        except tomllib.TOMLDecodeError:
            return ""

    def rewrite(self, raw: str, new: str) -> str:
        """The new text between the same marks; where a literal string cannot hold it, as a basic one."""
        if raw[:1] == "'" and "'" not in new and not _CONTROL.search(new):
            return f"'{new}'"
        is_one_line = raw[:1] == '"' and "\n" not in raw and "\r" not in raw
        return f'"{_TOML_BASIC.rewrite_whole(raw[1:-1] if is_one_line else "", new)}"'


class TomlKeyQuoting:
    """TOML 1.0.0, "Keys": bare keys and quoted ones."""

    name = "toml-key"

    def decode(self, raw: str) -> str:
        """What a raw key represents; empty for what is none."""
        return raw if raw[:1] not in ('"', "'") else TomlQuoting().decode(raw)

    def rewrite(self, raw: str, new: str) -> str:
        """The new key as the old one is written, between marks where it must be."""
        if raw[:1] not in ('"', "'"):
            return new if re.fullmatch("[A-Za-z0-9_-]+", new) else TomlQuoting().rewrite("", new)
        return TomlQuoting().rewrite(raw, new)


def _read(unit: str) -> str:
    if len(unit) == 1:
        return unit
    if unit[1] in "xuU":
        return chr(min(int(unit[2:], 16), 0x10FFFF))
    return _YAML_SHORT.get(unit[1], unit[1])


def _escape(character: str, raw: str) -> str | None:
    """By the escapes that YAML and TOML have in common."""
    if character in '"\\':
        return "\\" + character
    if _CONTROL.match(character) or (not character.isascii() and raw.isascii() and "\\u" in raw.lower()):
        code = ord(character)
        return f"\\U{code:08X}" if code > 0xFFFF else f"\\u{code:04X}"
    return character


_UNIT = re.compile(r"\\x[0-9A-Fa-f]{2}|\\u[0-9A-Fa-f]{4}|\\U[0-9A-Fa-f]{8}|\\.|.", re.DOTALL)
_YAML_DOUBLE = Quoting("yaml-double", "\\", _UNIT, _read, _escape)
_TOML_BASIC = Quoting("toml-basic", "\\", _UNIT, _read, _escape)


def _is_everyday(text: str) -> bool:
    """Whether a text is surely a plain scalar of itself: a path of letters and other harmless characters."""
    return bool(re.fullmatch(r"(?:/|\.\.?/|[A-Za-z]:[\\/])[A-Za-z_/\\][\w/\\.() -]*[\w)]", text))


def _yaml_kind(raw: str) -> str:
    from .yaml_nodes import kind_of

    return kind_of(raw)


def _yaml_text(raw: str) -> str | None:
    from .yaml_nodes import text_of  # its library is imported where there is YAML

    return text_of(raw)
