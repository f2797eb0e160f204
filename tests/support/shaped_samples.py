"""The same four entries where a value is not simply the path: other separators, more around it, names one by one."""

from __future__ import annotations

import json
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from typing import Literal

import apsw

from .catalog_samples import ROWS, SQLITE_ENTRIES, Sample, Values, cut_short, damage_sqlite, sqlite_part, text_sample

Order = Literal["little", "big"]
_TREE: Values = {"each": "$.clips[*]"}


def _json(**written: object) -> str:
    """The entries as JSON, each path as it is written in this shape; a stream's address as it is."""
    clips = []
    for key, file, size, stars, _ in ROWS:
        numbers = {name: int(value) for name, value in (("size", size), ("stars", stars)) if value}
        clips.append({"id": int(key), **{name: shape(file) for name, shape in written.items()}, **numbers})  # type: ignore[operator]
    return json.dumps({"other": "/home/odile/a.wav", "clips": clips}, indent=1)


def _sample(text: str, path: Values, **more: object) -> Sample:
    def make(at: Path) -> None:
        at.write_text(text, "utf-8")

    return text_sample("json", make, cut_short, {**_TREE, "path": [path], **more})


def _member_names() -> Sample:
    members = {
        file: {"id": int(key), "size": int(size or 0) or None, "stars": stars} for key, file, size, stars, _ in ROWS
    }
    clips = {name: {k: v for k, v in each.items() if v} for name, each in members.items()}
    text = json.dumps({"clips": clips, "/home/odile/a.wav": 1}, ensure_ascii=False)
    return _sample(text, {"at": "member-name()"}, each="$.clips.*")


def _database(path: Path) -> None:
    """Paths with a speed before them, as UTF-16 with a zero at the end."""
    with closing(apsw.Connection(str(path))) as made:
        made.execute("CREATE TABLE clip (id INTEGER PRIMARY KEY, file BLOB, size INTEGER, stars, kind TEXT)")
        for (key, file, size, _, kind), stars in zip(ROWS, (5, 1, None, None), strict=True):
            value = f"x{key}.5|{file.replace('/', '|')}\0".encode("utf-16-le")
            made.execute(
                "INSERT INTO clip VALUES (?, ?, ?, ?, ?)", (int(key), value, int(size or 0) or None, stars, kind)
            )


_XML = """<list><clip><id>1</id><file><![CDATA[/home/odile/a.wav]]></file><size>10</size><stars>5</stars></clip>
<clip><id>2</id><file><!-- & --><![CDATA[/home/odile/b's % ]]>é.<?x <y> ?>wav</file><stars>1</stars></clip>
<clip><id>3</id><file>stream:<!-- <file>/home/odile/no.wav</file> -->dawn</file></clip>
<clip><id>4</id><file>
<!-- first -->/home/odile/<b/>no</file><file>/home/odile<!-- then -->/deep/c.wav</file><size>30</size></clip></list>"""


_HTML = """<!DOCTYPE html><html><head><title>Clips &mdash; <b></title><!-- <clip file="/home/odile/not.wav"> -->
<body bgcolor=red data-x='/home/odile/a.wav'><p>First<clip ID=1 file=/home/odile/a.wav size="10" stars=5>
<CLIP id='2' File='/home/odile/b&#39;s % &eacute;.wav' stars=1><p>Second &amp; <b><i>wrong</b></i>
<clip id=3 file="stream:dawn"/><script>if (a < b) { "<clip id=9 file=x>" }</script>
<clip id="4" file = "/home/odile/deep/c.wav" size=30 disabled></body></html>"""


def _write_html(path: Path) -> None:
    path.write_text(_HTML, "utf-8")


def _drop_tags(path: Path) -> None:
    path.write_text(_HTML.replace("<", "("), "utf-8")


def _write_xml(path: Path) -> None:
    path.write_text(_XML, "utf-8")


def _chunk(tag: str, payload: bytes, order: Order = "little", pad: int = 2, size: int = 4) -> bytes:
    """A record as the formats describe it, by a few lines that are not the product's."""
    return tag.encode() + len(payload).to_bytes(size, order) + payload + b"\0" * (-len(payload) % pad)


def _tagged(order: Order, outer: str, encoding: str, pad: int = 2) -> Callable[[Path], None]:
    def make(path: Path) -> None:
        clips = b""
        for key, file, size, stars, _ in ROWS:
            values = (("id  ", f"{key}\0"), ("file", f"{file}\0"), ("size", size), ("star", stars), ("none", ""))
            inner = b"".join(_chunk(tag, text.encode(encoding), order, pad) for tag, text in values if text)
            clips += _chunk("LIST", b"clip" + inner, order, pad)
        body = (
            b"SHDW" + _chunk("head", b"/home/odile/a.wav\xff", order, pad) + _chunk("LIST", b"clps" + clips, order, pad)
        )
        path.write_bytes(_chunk(outer, body, order, pad) + b"end")

    return make


def _tagged_sample(records: object, make: Callable[[Path], None], encoding: str) -> Sample:
    selected: Values = {"each": "//LIST[@form='clip']", "path": [{"at": "file"}], "annotations": ["star"]}
    return text_sample("tagged", make, cut_short, selected, records=records, encoding=[encoding])


_LAYOUT: Values = {"length": "u32-be", "pad": 4, "nested": {"PACK": 4, "LIST": 4}}


SHAPED = [
    _tagged_sample("riff", _tagged("little", "RIFF", "utf-8"), "utf-8"),
    _tagged_sample("iff", _tagged("big", "FORM", "utf-16-be"), "utf-16-be"),
    _tagged_sample(_LAYOUT, _tagged("big", "PACK", "utf-8", 4), "utf-8"),
    text_sample(
        "html",
        _write_html,
        _drop_tags,
        {"each": "//clip", "key": "@id", "path": [{"at": "@file"}], "size": "@size", "annotations": ["@stars"]},
    ),
    text_sample(
        "xml",
        _write_xml,
        cut_short,
        {"each": "//clip", "path": [{"at": "file[last()]"}], "size": "string(size)"},
    ),
    _sample(_json(file=lambda file: file.replace("/", "/:")), {"at": "file", "separator": "/:"}),
    _sample(
        _json(file=lambda file: file.translate(str.maketrans("/:", ":/"))),
        {"at": "file", "separator": {"text": ":", "in-names": "/"}},
    ),
    _sample(_json(file=lambda file: f"x1.5:{file}?loop"), {"at": "file", "match": r"^x[\d.]+:(.+)\?loop$"}),
    _sample(_json(file=lambda file: file.split("/")), {"at": "file", "holds": "names"}),
    _member_names(),
    Sample(
        "sqlite",
        sqlite_part(
            path=[{"column": "file", "blob": "utf-16-le", "match": r"^x[\d.]+\|(.+)$", "separator": "|"}],
            remote=SQLITE_ENTRIES["remote"],
        ),
        _database,
        damage_sqlite,
    ),
]
