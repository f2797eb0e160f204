"""How each syntax writes a text inside its own marks, and another one in the same place and manner."""

from __future__ import annotations

import re
from dataclasses import dataclass

from .bytes_quoting import BYTES_QUOTINGS
from .html_quoting import HTML_QUOTINGS
from .name_lists import NameListQuoting
from .quoting_units import UNESCAPED, AnyQuoting, Quoting, unwritable
from .value_quoting import TomlKeyQuoting, TomlQuoting, YamlQuoting
from .xml_quoting import XML_QUOTINGS


def _itself(text: str) -> str:
    return text


def _in_line(character: str, _: str) -> str | None:
    return None if character in "\r\n\0" else character


def _needs_no_escape(character: str, _: str) -> str | None:
    """Between quotation marks, where nobody knows how a text would escape."""
    return None if character in '\\"\r\n\0' else character


# -- JSON: RFC 8259, section 7 ---------------------------------------------------------------------------------------

_JSON_SHORT = {'"': '"', "\\": "\\", "/": "/", "b": "\b", "f": "\f", "n": "\n", "r": "\r", "t": "\t"}
_JSON_LONG = {value: "\\" + key for key, value in _JSON_SHORT.items() if key != "/"}


def _json_read(unit: str) -> str:
    if unit[0] != "\\":
        return unit
    if unit[1] != "u":
        return _JSON_SHORT[unit[1]]
    codes = [int(code, 16) for code in unit[2:].split("\\u")]
    if len(codes) == 1:
        return chr(codes[0])
    return chr(0x10000 + ((codes[0] - 0xD800) << 10) + codes[1] - 0xDC00)


def _json_escape(character: str, raw: str) -> str | None:
    if character in _JSON_LONG:
        return _JSON_LONG[character]
    if character == "/" and "\\/" in raw:
        return "\\/"
    if character < " " or (not character.isascii() and raw.isascii() and "\\u" in raw):
        return _in_utf_16(character)
    return character


def _in_utf_16(character: str) -> str:
    units = character.encode("utf-16-be", "surrogatepass").hex()
    return "".join(f"\\u{units[at : at + 4]}" for at in range(0, len(units), 4))


_UTF_16_UNIT = r"\\u[Dd][89ABab][0-9A-Fa-f]{2}\\u[Dd][C-Fc-f][0-9A-Fa-f]{2}|\\u[0-9A-Fa-f]{4}"
_JSON_UNIT = re.compile(_UTF_16_UNIT + r"|\\.|.", re.DOTALL)


# -- Turtle: RDF 1.1 Turtle, section 6.4 -------------------------------------------------------------------------------

_TURTLE_UNIT = re.compile(r"\\u[0-9A-Fa-f]{4}|\\U[0-9A-Fa-f]{8}|\\.|.", re.DOTALL)
_TURTLE_SHORT = {"t": "\t", "b": "\b", "n": "\n", "r": "\r", "f": "\f"}


def _turtle_read(unit: str) -> str:
    if len(unit) == 1:
        return unit
    code = int(unit[2:], 16) if len(unit) > 2 else None
    return _TURTLE_SHORT.get(unit[1], unit[1]) if code is None else chr(min(code, 0x10FFFF))


def _turtle_iri(character: str, _: str) -> str | None:
    return f"\\u{ord(character):04x}" if character <= " " or character in '<>"{}|^`\\' else character


def _turtle_string(character: str, _: str) -> str | None:
    if character in "\"'\\":
        return "\\" + character
    return f"\\u{ord(character):04x}" if character < " " else character


# -- .properties: java.util.Properties, load(Reader) -----------------------------------------------------------------

_PROPERTY_SHORT = {"t": "\t", "n": "\n", "f": "\f", "r": "\r"}
_PROPERTY_LONG = {value: "\\" + key for key, value in _PROPERTY_SHORT.items()} | {"\\": "\\\\"}
_PROPERTY_UNIT = re.compile(_UTF_16_UNIT + r"|\\(?:\r\n|\r|\n)[ \t\f]*|\\.|.", re.DOTALL)


def _property_read(unit: str) -> str:
    if len(unit) == 1:
        return unit if unit != "\\" else ""
    if unit[1] in "\r\n":
        return ""
    return _json_read(unit) if len(unit) > 2 else _PROPERTY_SHORT.get(unit[1], unit[1])


def _property_escape(character: str, raw: str) -> str | None:
    if character in _PROPERTY_LONG:
        return _PROPERTY_LONG[character]
    if character in ":=#!" and re.search(r"\\[:=#!]", raw):
        return "\\" + character
    is_foreign = character < " " or character > "\xff" or (character > "~" and raw.isascii())
    return _in_utf_16(character) if is_foreign else character


# -- the others ------------------------------------------------------------------------------------------------------


def _registry_escape(character: str, _: str) -> str | None:
    return "\\" + character if character in '\\"' else _in_line(character, "")


@dataclass(frozen=True, slots=True)
class HexQuoting:
    """A registry string as hexadecimal bytes: ``hex(2):43,00,3a,00,...``, continued by a backslash at a line's end."""

    name: str
    encoding: str

    def decode(self, raw: str) -> str:
        """The text, without the zero that ends it."""
        codes = re.findall("[0-9a-fA-F]{1,2}", raw[raw.index(":") :])
        return bytes(int(code, 16) for code in codes).decode(self.encoding, "replace").rstrip("\0")

    def rewrite(self, raw: str, new: str) -> str:
        """The new text as bytes, in lines as long as the old ones."""
        head, body = raw[: raw.index(":") + 1], raw[raw.index(":") + 1 :]
        try:
            codes = [f"{byte:02x}" for byte in (new + "\0").encode(self.encoding)]
        except UnicodeEncodeError as error:
            raise unwritable(new, new[error.start]) from error
        breaks = re.search(r"\\[ \t]*\r?\n[ \t]*", body)
        if not breaks:
            return head + ",".join(codes)
        first = body[: breaks.start()].count(",")
        lines = [codes[:first], *(codes[at : at + 25] for at in range(first, len(codes), 25))]
        return head + ("," + breaks.group()).join(",".join(line) for line in lines)


_ANY = re.compile(r".", re.DOTALL)

_ALL: tuple[AnyQuoting, ...] = (
    Quoting("plain", "", _ANY, _itself, _in_line),
    Quoting(UNESCAPED, "", _ANY, _itself, _needs_no_escape),
    *XML_QUOTINGS,
    Quoting("json", "\\", _JSON_UNIT, _json_read, _json_escape),
    Quoting("turtle-iri", "\\", _TURTLE_UNIT, _turtle_read, _turtle_iri),
    Quoting("turtle-string", "\\", _TURTLE_UNIT, _turtle_read, _turtle_string),
    Quoting("ini-quoted", "", _ANY, _itself, lambda c, _: None if c == '"' else _in_line(c, "")),
    Quoting("csv-bare", "", _ANY, _itself, lambda c, _: None if c in '",;\t\r\n\0' else c),
    Quoting("csv-quoted", '"', re.compile(r'""|.', re.DOTALL), lambda u: u[0], lambda c, _: c * 2 if c == '"' else c),
    Quoting("registry", "\\", re.compile(r'\\[\\"]|.', re.DOTALL), lambda u: u[-1], _registry_escape),
    HexQuoting("registry-hex-wide", "utf-16-le"),
    HexQuoting("registry-hex", "cp1252"),
    Quoting("properties", "\\", _PROPERTY_UNIT, _property_read, _property_escape),
    YamlQuoting(),
    TomlQuoting(),
    TomlKeyQuoting(),
    NameListQuoting(),
    *HTML_QUOTINGS,
    *BYTES_QUOTINGS,
)
QUOTINGS = {quoting.name: quoting for quoting in _ALL}
