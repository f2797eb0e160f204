"""What a file is, told by its content: a document in some syntax, perhaps inside of containers; a medium; or opaque."""

from __future__ import annotations

import base64
import binascii
import io
import json
import re
import tarfile
import tomllib
import zipfile
import zlib
from collections.abc import Iterator
from typing import NamedTuple

import yaml
from lxml import etree

from .record_layouts import records_of

LARGEST_BYTES = 1 << 28
_DEEPEST = 4
_MOST_MEMBERS = 200
_HEAD = 1 << 16
_MEDIA = (
    b"\x89PNG", b"\xff\xd8\xff", b"GIF8", b"ID3", b"\xff\xfb", b"\xff\xf3", b"fLaC", b"OggS", b"%PDF", b"II*\0",
    b"MM\0*", b"BM", b"\x7fELF", b"MZ", b"\xca\xfe\xba\xbe", b"\xcf\xfa\xed\xfe", b"\0\1\0\0\0", b"OTTO",
    b"wOFF", b"\x1aE\xdf\xa3",
    b"8BPS", b"qoif", b"Rar!", b"7z\xbc\xaf", b"\x28\xb5\x2f\xfd",
)  # fmt: skip
_FORMS_OF_MEDIA = (b"WAVE", b"AVI ", b"WEBP", b"AIFF", b"AIFC", b"8SVX", b"ILBM", b"sfbk")
_BINARY = re.compile(rb"[\x00-\x08\x0b\x0e-\x1f\x7f\x81\x8d\x8f\x90\x9d]")  # which no text in cp1252 has
_SQLITE = b"SQLite format 3\0"
_DECLARED = re.compile(r"<\?xml\s[^>]*\?>")  # which says how a text is encoded, once it is decoded
_SECTION = re.compile(r"^\s*\[[^\]\r\n]*\]\s*$", re.MULTILINE)
_SETTING = re.compile(r"^[^=\r\n\[#;]*=[^\r\n]*$", re.MULTILINE)
_YAML_LINE = re.compile(r"^(?:---|\.\.\.|\s*#.*|\s*(?:- )*(?:[\w \"'./-]+:(?: .*)?|-(?: .*)?)|\s+\S.*|\s*)$")
_BASE64 = re.compile(rb"[A-Za-z0-9+/_\-\r\n]{64,}={0,2}\s*")


class Recognized(NamedTuple):
    """A document: what it is ``inside`` of (as guides say it, outermost first), its syntax, its content.

    A database that is a file of its own has no content here. ``encoding`` is that of a text, where it must be told.
    """

    syntax: str
    content: bytes = b""
    inside: tuple[str, ...] = ()
    encoding: str = ""


def is_media(head: bytes) -> bool:
    """Whether a file is a picture, a sound, a film, or a program, by how it begins."""
    if head[:4] in (b"RIFF", b"FORM", b"RIFX"):
        return head[8:12] in _FORMS_OF_MEDIA
    return head.startswith(_MEDIA) or head[4:8] == b"ftyp"


def is_database(head: bytes) -> bool:
    """Whether a file is an SQLite database."""
    return head.startswith(_SQLITE)


def recognize(content: bytes, inside: tuple[str, ...] = ()) -> Iterator[Recognized]:
    """The documents that a content is or holds, as deep as they are nested."""
    if not content.strip() or len(inside) > _DEEPEST or is_media(content):
        return
    layers = list(_taken_out(content))
    for layer, inner in layers:
        yield from recognize(inner, (*inside, layer))
    if layers:
        return
    if content.startswith(_SQLITE):
        yield Recognized("sqlite", content, inside)
    elif content.startswith(b"bplist00"):
        yield Recognized("plist", content, inside)
    elif content.startswith(b"regf"):
        yield Recognized("reg", content, inside)
    elif content[:4] in (b"RIFF", b"FORM"):
        yield Recognized("tagged", content, inside)
    else:
        text, encoding = decoded(content)
        if text is not None and (syntax := _syntax_of(text)):
            yield Recognized(syntax, content, inside, encoding)
        elif text is None and records_of(content):
            yield Recognized("tagged", content, inside)


def _taken_out(content: bytes) -> Iterator[tuple[str, bytes]]:
    """What a container holds, with the layer that a guide names to get at it."""
    if content.startswith(b"PK\3\4"):
        yield from _members(content)
    elif content.startswith(b"\x1f\x8b\x08"):
        yield from _stream("gzip", content, zlib.MAX_WBITS | 16)
    elif content[257:262] == b"ustar":
        yield from _archived(content)
    elif len(content) > 6 and content[0] & 0x0F == 8 and int.from_bytes(content[:2], "big") % 31 == 0:
        yield from _stream("zlib", content, zlib.MAX_WBITS)
    elif _BASE64.fullmatch(content):
        bare = b"".join(content.split()).rstrip(b"=")
        try:
            plain = base64.b64decode(bare.replace(b"-", b"+").replace(b"_", b"/") + b"=" * (-len(bare) % 4))
        except binascii.Error:
            return
        if any(recognize(plain)):
            yield "base64", plain


def _stream(name: str, content: bytes, bits: int) -> Iterator[tuple[str, bytes]]:
    try:
        yield name, zlib.decompressobj(bits).decompress(content, LARGEST_BYTES)
    except zlib.error:
        return


def _members(content: bytes) -> Iterator[tuple[str, bytes]]:
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            for info in archive.infolist()[:_MOST_MEMBERS]:
                if not info.is_dir() and info.file_size <= LARGEST_BYTES and not info.flag_bits & 1:
                    yield f"zip:{info.filename}", archive.read(info)
    except (zipfile.BadZipFile, NotImplementedError, zlib.error, OSError, ValueError, RuntimeError):
        return


def _archived(content: bytes) -> Iterator[tuple[str, bytes]]:
    try:
        with tarfile.open(fileobj=io.BytesIO(content)) as archive:
            for number, member in enumerate(archive):
                stream = archive.extractfile(member) if member.isfile() and number < _MOST_MEMBERS else None
                if stream is not None:
                    yield f"tar:{member.name}", stream.read()
    except (tarfile.TarError, OSError, ValueError):
        return


def decoded(content: bytes) -> tuple[str | None, str]:
    """A content as a text, and its encoding where a guide must tell it; None for what is no text."""
    if content.startswith((b"\xff\xfe", b"\xfe\xff", b"\xef\xbb\xbf")):
        encoding = "utf-8-sig" if content.startswith(b"\xef") else "utf-16"
        try:
            return content.decode(encoding), ""
        except UnicodeDecodeError:
            return None, ""
    if b"\0" in content[:_HEAD]:
        return None, ""
    try:
        text = content.decode()
    except UnicodeDecodeError:
        if _BINARY.search(content):
            return None, ""
        return content.decode("cp1252", "replace"), "cp1252"
    return (text, "") if not re.search(r"[\x01-\x08\x0e-\x1a\x1c-\x1f]", text[:_HEAD]) else (None, "")


def _syntax_of(text: str) -> str:
    text = text.replace("\r\n", "\n").replace("\r", "\n")
    start = text.lstrip("\ufeff \t\r\n")
    if start.startswith(("Windows Registry Editor", "REGEDIT4")):
        return "reg"
    if start.startswith("<"):
        return _markup(start)
    if start[:1] in "{[" and (found := _json(text)):
        return found
    if re.match(r"(?:#.*\s+)*(?:@prefix|@base|PREFIX)\s", start):
        return "turtle"
    lines = [each for each in lines_of(text) if each.strip()]
    if _SECTION.search(text) and _SETTING.search(text):
        return "toml" if _is_toml(text) else "ini"
    plain = [each for each in lines if each.lstrip()[:1] not in "#!;"]
    if (
        plain
        and all("=" in each or ":" in each for each in plain)
        and all(re.match(r"\s*[\w.\-/ ]+=", e) for e in plain)
    ):
        return "toml" if _is_toml(text) else "properties"
    if _is_yaml(text, lines):
        return "yaml"
    return "delimited" if delimiter_of(lines) else "lines"


def lines_of(text: str) -> list[str]:
    """The lines of a text, by the ends that formats know: texts may hold what only Python takes for one."""
    return re.split(r"\r\n|\r|\n", text)


def _markup(start: str) -> str:
    if re.match(r"(?is)(?:<!--.*?-->\s*)*(?:<!doctype\s+html|<html)", start[:2000]):
        return "html"
    root = re.search(r"<([A-Za-z_][\w.:-]*)", re.sub(r"(?s)<!--.*?-->|<\?.*?\?>|<!DOCTYPE[^>\[]*", "", start[:_HEAD]))
    if root is None:
        return "lines"
    if root[1] == "plist":
        return "plist"
    return "xml" if _is_xml(start) else "lines"


def _is_xml(text: str) -> bool:
    parser = etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=True)
    try:
        etree.fromstring(_DECLARED.sub("", text, count=1).encode("utf-8", "surrogatepass"), parser)
    except (etree.XMLSyntaxError, ValueError):
        return False
    return True


def _json(text: str) -> str:
    from ..catalogs.json_text import loaded_json

    try:
        loaded_json(text.lstrip("\ufeff"))
    except (ValueError, RecursionError):
        lines = [each for each in lines_of(text) if each.strip()]
        return (
            "json-lines" if len(lines) > 1 and all(map(_is_json, (lines[0], lines[len(lines) // 2], lines[-1]))) else ""
        )
    return "json"


def _is_json(line: str) -> bool:
    try:
        json.loads(line)
    except ValueError:
        return False
    return line.lstrip()[:1] in "{["


def _is_toml(text: str) -> bool:
    try:
        found = tomllib.loads(text)
    except tomllib.TOMLDecodeError:
        return False
    return bool(found) and re.search(r"=\s*(?:['\"\[{]|\d{4}-)", text) is not None


def _is_yaml(text: str, lines: list[str]) -> bool:
    if len(lines) < 2 or not all(_YAML_LINE.match(each) for each in lines[:2000]):
        return False
    if len(text) > 1 << 20:
        text = text[: text.rfind("\n", 0, 1 << 18)]
    try:
        found = yaml.load(text, getattr(yaml, "CSafeLoader", yaml.SafeLoader))
    except (yaml.YAMLError, ValueError, RecursionError):
        return False
    return isinstance(found, dict) or (isinstance(found, list) and any(isinstance(each, dict | list) for each in found))


def delimiter_of(lines: list[str]) -> str:
    """What separates the columns of a table with a header; empty for what is none."""
    some = lines[:200]
    if len(some) < 3:
        return ""
    for delimiter in "\t,;|":
        numbers = {_bare(each).count(delimiter) for each in some}
        header = [each.strip().strip('"') for each in _bare(some[0]).split(delimiter)]
        is_header = all(re.fullmatch(r"[\w .#%()/-]{1,60}", each) for each in header) and len(set(header)) == len(
            header
        )
        if len(numbers) == 1 and numbers != {0} and is_header:
            return delimiter
    return ""


def _bare(line: str) -> str:
    """A line in which what is quoted is nothing but its quotes."""
    return re.sub(r'"(?:[^"]|"")*"', '""', line) if line.count('"') > 1 and "," in line else line
