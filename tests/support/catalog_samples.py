"""One small catalog in each syntax, all with the same four entries, written as awkwardly as each syntax allows."""

from __future__ import annotations

import datetime as dt
import plistlib
from collections.abc import Callable
from contextlib import closing
from dataclasses import dataclass
from functools import reduce
from pathlib import Path

import apsw

from .containers import ANY_IN_ZIP, ATTRIBUTE, BASE64, COLUMN, GZIP, TAR, ZIP, ZLIB, Container

Make = Callable[[Path], None]
Values = dict[str, object]

ROWS = [
    ("1", "/home/odile/a.wav", "10", "5", "file"),
    ("2", "/home/odile/b's % é.wav", "", "1", "file"),
    ("3", "stream:dawn", "", "", "stream"),
    ("4", "/home/odile/deep/c.wav", "30", "", "file"),
]


@dataclass(frozen=True)
class Sample:
    """A catalog of one syntax, with the guide part that tells how to read it, and a way to damage it."""

    syntax: str
    part: Values
    make: Make
    damage: Make
    taken_out: Callable[[bytes], bytes] = bytes  # how other software takes it out of what it is inside

    @property
    def is_database(self) -> bool:
        """Whether a database is rewritten, whose pages may be laid out anew."""
        return "'sqlite'" in repr(self.part)


# -- SQLite ----------------------------------------------------------------------------------------------------------

_SCHEMA = """
CREATE TABLE clip (id INTEGER PRIMARY KEY, file TEXT UNIQUE, size INTEGER, stars, kind TEXT, file_up AS (upper(file)));
CREATE TABLE other (k TEXT PRIMARY KEY, v BLOB) WITHOUT ROWID;
CREATE TABLE log (line);
CREATE TRIGGER t AFTER UPDATE ON clip BEGIN INSERT INTO log VALUES ('touched'); END;
"""


def make_sqlite(path: Path) -> None:
    stars = (5, 1.0, None, b"\x00\xff")
    with closing(apsw.Connection(str(path))) as database, database:
        database.execute(_SCHEMA)
        for (key, file, size, _, kind), value in zip(ROWS, stars, strict=True):
            row = (int(key), file, int(size) if size else None, value, kind)
            database.execute("INSERT INTO clip VALUES (?, ?, ?, ?, ?)", row)
        database.execute("INSERT INTO other VALUES ('/home/odile/a.wav', x'00')")


def damage_sqlite(path: Path) -> None:
    content = path.read_bytes()
    path.write_bytes(content[:100] + b"\xff" * (len(content) - 100))


SQLITE_ENTRIES: Values = {
    "table": "clip",
    "key": "id",
    "path": [{"column": "file"}],
    "size": "size",
    "remote": "kind = 'stream'",
    "annotations": ["stars"],
}


def sqlite_part(**changed: object) -> Values:
    """The guide part of the SQLite sample, with some keys changed."""
    return _part("sqlite", {}, {**SQLITE_ENTRIES, **changed})


# -- texts -----------------------------------------------------------------------------------------------------------

XML = """<?xml version="1.0" encoding="ISO-8859-1"?>
<!-- <clip file="/home/odile/not.wav"/> -->
<s:clips xmlns:s="urn:shadow" other="/home/odile/a.wav">
  <s:clip  id='1'\tfile="/home/odile/a.wav" size="10" stars='5' />
  <s:clip id="2" file='/home/odile/b&apos;s &#37; é.wav' stars="1"><note>/home/odile/x</note></s:clip>
  <s:clip id="3" file="stream:dawn"/><s:clip other="&gt;" id="4" size="30" file="/home/odile/deep/c.wav"></s:clip>
</s:clips>
"""
XML_TEXTS = """<list><!-- 雨 -->
<clip><id>1</id><file>/home/odile/a.wav</file><size>10</size><stars>5</stars></clip>
<clip><id>2</id><file>/home/odile/b's &#x25; é.wav</file><stars>1</stars></clip>
<clip><id>3</id><file>stream:dawn</file></clip>
<clip><id>4</id><file a=">">/home/odile/deep/c.wav</file><size>30</size></clip></list>"""
JSON = r"""{"other": "/home/odile/a.wav", "clips": [
  {"id": 1, "file" : "\/home\/odile\/a.wav", "size": 10, "stars": 5},
  {"file": "/home/odile/b's % \u00e9.wav", "id": 2, "stars": 1, "emoji": "\ud83e\udd89"},
  {"id": 3, "file": "stream:dawn", "big": 123456789012345678901234567890.10},
  {"id": 4, "file": "/home/odile/deep/c.wav", "size": 30}]}
"""
JSONC = r"""// clips of "/home/odile/a.wav"
{"other": "/home/odile/a.wav", /* "clips": [ */ "clips": [
  {"id": 1, "file" : /* here */ "\/home\/odile\/a.wav", "size": 10, "stars": 5,},
  {"file": "/home/odile/b's % é.wav", "id": 2, "stars": 1, "not": "// a comment, ]"},
  {"id": 3, "file": "stream:dawn"}, // the third, }
  {"id": 4, "file": "/home/odile/deep/c.wav", "size": 30}, /* the last */
],}
"""
JSON_LINES = r"""{"id": 1, "file" : "\/home\/odile\/a.wav", "size": 10, "stars": 5}
{"file": "/home/odile/b's % \u00e9.wav", "id": 2, "stars": 1}

{"id": 3, "file": "stream:dawn"}
{"id": 4, "file": "/home/odile/deep/c.wav", "size": 30}"""
YAML = r"""# a: /home/odile/a.wav
clips:
- {id: 1, file: /home/odile/a.wav, size: 10, stars: 5}   # the first
-
  id: 2
  file: "/home/odile/b's % \xe9.wav"
  stars: 1
  note: &note "C:\tab"
- id: 3
  'file': 'stream:dawn'
- id: 4
  size: 30
  file: '/home/odile/deep/c.wav'
other: *note
"""
TOML = """# file = "/home/odile/a.wav"
title = '''
# file = "no"
'''
[[clips]] # "quoted"
id = 1
"file" = '/home/odile/a.wav'
size = 10
stars = 5
[[clips]]
id = 2
file = "/home/odile/b's % \\u00E9.wav"
stars = 1
made = 2026-01-02
[[clips]]
id = 3
file = "stream:dawn"
[[clips]]
id = 4
size = 30
file = "/home/odile/deep/c.wav"
numbers = [1.5, inf, true, "]"]
"""
LINES = """#LIST /home/odile/a.wav
1|5|10|/home/odile/a.wav
2|1||/home/odile/b's % é.wav

3|||stream:dawn
no entry
4||30|/home/odile/deep/c.wav"""
CSV = """id;size;file;stars
1;10;"/home/odile/a.wav";5
2;;/home/odile/b's % é.wav;1
3;;stream:dawn;
4;30;"/home/odile/deep/c.wav";"say ""no""; always"
"""
INI = """; /home/odile/a.wav
[clip 1]
File=/home/odile/a.wav\t
size = 10
stars=5
[other]
file=/home/odile/no.wav
[Clip 2]
file="/home/odile/b's % é.wav"
stars=1
[clip 3]
file=stream:dawn
[clip 4]
file =/home/odile/deep/c.wav
size=30"""
REG = r"""Windows Registry Editor Version 5.00

[HKEY_CURRENT_USER\Software\Clips]
@="/home/odile/a.wav"

[HKEY_CURRENT_USER\Software\Clips\1]
"File"="/home/odile/a.wav"
"size"=dword:0000000a
"stars"=dword:5

[HKEY_CURRENT_USER\Software\Clips\2]
"file"="/home/odile/b's % é.wav"
"stars"="1"
"q\\\"t"=hex:00,\
  01

[HKEY_CURRENT_USER\Software\Clips\3]
"file"="stream:dawn"

[-HKEY_CURRENT_USER\Software\Clips\9]

[HKEY_CURRENT_USER\Software\Clips\4]
"gone"=-
"size"=dword:0000001e
"file"=hex(2):2f,00,68,00,6f,00,6d,00,65,00,2f,00,6f,00,64,00,69,00,6c,00,65,\
  00,2f,00,64,00,65,00,65,00,70,00,2f,00,63,00,2e,00,77,00,61,00,76,00,00,00

"""
OLD_REG = r"""REGEDIT4

[HKEY_LOCAL_MACHINE\Clips\1]
"file"="/home/odile/a.wav"
"size"="10"
"stars"="5"
[HKEY_LOCAL_MACHINE\Clips\2]
"file"="/home/odile/b's % é.wav"
[HKEY_LOCAL_MACHINE\Clips\3]
"file"="stream:dawn"
[HKEY_LOCAL_MACHINE\Clips\4]
"file"=hex(2):2f,68,6f,6d,65,2f,6f,64,69,6c,65,2f,64,65,65,70,2f,63,2e,77,61,76,00
"size"="30"
"""


TURTLE = r'''@prefix s: <urn:shadow#> . @prefix home: </home/odile/> .
# </home/odile/not.wav>
<a.wav> a s:Clip ; s:id 1 ; s:file </home/odile/a.wav> ; s:size 10 ; s:stars "5" ; s:other home:x .
<b> s:id 2 ; a s:Clip ; s:file "/home/odile/b's % \u00e9.wav" ; s:stars '1'^^s:Star .
[] a s:Clip ; s:id 3 ; s:file <stream:dawn> ; s:words """two "lines"
# and </home/odile/a.wav>""" .
<d> a s:Clip ; s:id 4 ; s:size 30 ; s:file </home/odile/deep/c.wav> , </home/odile/other.wav> .
'''


def _writer(text: str, encoding: str = "utf-8", *, mark: bool = False, dos: bool = False) -> Make:
    def make(path: Path) -> None:
        written = text.replace("\n", "\r\n") if dos else text
        path.write_bytes((("\ufeff" if mark else "") + written).encode(encoding))

    return make


def _make_plist(form: plistlib.PlistFormat) -> Make:
    def make(path: Path) -> None:
        clips = []
        for key, file, size, stars, _ in ROWS:
            numbers = {name: int(value) for name, value in (("size", size), ("stars", stars)) if value}
            clips.append({"id": int(key), "file": file, **numbers})
        when = dt.datetime(2026, 1, 2)  # noqa: DTZ001  property lists know no zones
        root = {"other": "/home/odile/a.wav", "clips": clips, "a/b~": [b"\0", 1.5, True], "when": when}
        path.write_bytes(plistlib.dumps(root, fmt=form, sort_keys=False))

    return make


def cut_short(path: Path) -> None:
    content = path.read_bytes()
    path.write_bytes(content[: len(content) * 2 // 3 | 1])


def _lose_head(path: Path) -> None:
    path.write_bytes(path.read_bytes()[40:])


def _lose_both_ends(path: Path) -> None:
    content = path.read_bytes()
    path.write_bytes(content[40 : len(content) * 2 // 3])


def _foreign_byte(path: Path) -> None:
    path.write_bytes(b"\x81" + path.read_bytes())


def _part(syntax: str, more: Values, entries: Values) -> Values:
    return {"id": "c", "kind": "catalog", "at": "{home}/c", "syntax": syntax, **more, "entries": [entries]}


def text_sample(syntax: str, make: Make, damage: Make, entries: Values, **more: object) -> Sample:
    common: Values = {"key": "id", "path": [{"at": "file"}], "size": "size", "annotations": ["stars"]}
    return Sample(syntax, _part(syntax, more, {"remote-like": "^stream:", **common, **entries}), make, damage)


_LINE = r"(?P<id>\d+)\|(?P<stars>\d*)\|(?P<size>\d*)\|(?P<file>.*)"
_ATTRIBUTES: Values = {
    "each": "//x:clip",
    "key": "@id",
    "path": [{"at": "@file"}],
    "size": "@size",
    "annotations": ["@stars"],
}
_TEXTS: Values = {"each": "//clip", "path": [{"at": "file/text()"}], "size": "string(size)"}
_TREE: Values = {"each": "$.clips[*]"}
_SUBJECTS: Values = {
    "each": "a s:Clip",
    "key": "s:id",
    "path": [{"at": "s:file"}],
    "size": "s:size",
    "annotations": ["s:stars"],
}
_BRANCH: Values = {"each": r"HKEY_[A-Z_]+(\\Software)?\\Clips\\\d", "key": "[]"}


def _break_yaml(path: Path) -> None:
    path.write_bytes(path.read_bytes().replace(b"}", b"]"))


_SQLITE = Sample("sqlite", sqlite_part(), make_sqlite, damage_sqlite)
_XML = text_sample("xml", _writer(XML, "latin-1"), cut_short, _ATTRIBUTES, namespaces={"x": "urn:shadow"})
_XML_UTF_8 = text_sample("xml", _writer(XML_TEXTS, dos=True), cut_short, _TEXTS)
_JSON = text_sample("json", _writer(JSON), cut_short, _TREE)


def _inside(sample: Sample, *containers: Container) -> Sample:
    """A sample inside containers, the outermost first."""

    def make(path: Path) -> None:
        sample.make(path)
        path.write_bytes(reduce(lambda content, each: each.wrap(content), reversed(containers), path.read_bytes()))

    def taken_out(content: bytes) -> bytes:
        return reduce(lambda outer, each: each.taken_out(outer), containers, content)

    inside = [each.inside for each in containers]
    return Sample(sample.syntax, {**sample.part, "inside": inside}, make, _lose_both_ends, taken_out)


SAMPLES = [
    _SQLITE,
    _XML,
    text_sample("xml", _writer(XML_TEXTS, "utf-16-le", mark=True, dos=True), cut_short, _TEXTS),
    _XML_UTF_8,
    _JSON,
    text_sample("json", _writer(JSON, "utf-16-be", mark=True, dos=True), cut_short, _TREE),
    text_sample("json", _writer(JSONC, dos=True), cut_short, _TREE),
    text_sample("json-lines", _writer(JSON_LINES, dos=True), cut_short, {"each": "$[*]"}),
    text_sample("yaml", _writer(YAML, dos=True), _break_yaml, _TREE),
    text_sample("toml", _writer(TOML, dos=True), cut_short, _TREE),
    text_sample("plist", _make_plist(plistlib.FMT_XML), cut_short, _TREE),
    text_sample("plist", _make_plist(plistlib.FMT_BINARY), cut_short, _TREE),
    text_sample(
        "lines", _writer(LINES, "cp1252", dos=True), _foreign_byte, {"each": _LINE}, encoding="cp1252", comment="#"
    ),
    text_sample("delimited", _writer(CSV, "utf-16-be", mark=True, dos=True), cut_short, {}, delimiter=";"),
    text_sample("ini", _writer(INI, "utf-16-le", mark=True, dos=True), cut_short, {"each": r"clip \d", "key": "[]"}),
    text_sample("turtle", _writer(TURTLE, dos=True), cut_short, _SUBJECTS, namespaces={"s": "urn:shadow#"}),
    text_sample("reg", _writer(REG, "utf-16-le", mark=True, dos=True), _lose_head, _BRANCH),
    text_sample("reg", _writer(OLD_REG, "cp1252", dos=True), _lose_head, _BRANCH, encoding="cp1252"),
    _inside(_JSON, ZIP),
    _inside(text_sample("plist", _make_plist(plistlib.FMT_BINARY), cut_short, _TREE), ZIP),
    _inside(_XML, GZIP),
    _inside(_JSON, TAR),
    _inside(_JSON, BASE64, ZLIB),
    _inside(_JSON, ATTRIBUTE),
    _inside(_XML_UTF_8, COLUMN, GZIP),
    _inside(_SQLITE, GZIP, ANY_IN_ZIP),
]
