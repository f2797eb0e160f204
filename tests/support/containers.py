"""What a catalog may be inside of: how a writer puts it in, and how other software takes it out again."""

from __future__ import annotations

import base64
import gzip
import io
import sqlite3
import tarfile
import xml.etree.ElementTree as ET
import zipfile
import zlib
from collections.abc import Callable
from contextlib import closing
from dataclasses import dataclass
from typing import IO, Any, cast

import apsw


@dataclass(frozen=True)
class Container:
    """One kind of container, as a guide names it."""

    inside: object
    wrap: Callable[[bytes], bytes]
    taken_out: Callable[[bytes], bytes]


class _Streamed(io.RawIOBase):
    """A file that cannot be gone back in."""

    def __init__(self) -> None:
        self.file = io.BytesIO()

    def writable(self) -> bool:
        return True

    def write(self, data: Any) -> int:
        return self.file.write(data)


def _zip(content: bytes) -> bytes:
    """As a writer leaves it that streams: among others, its sums behind it."""
    streamed = _Streamed()
    with zipfile.ZipFile(cast(IO[bytes], streamed), "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(zipfile.ZipInfo("mimetype"), "application/shadow", zipfile.ZIP_STORED)
        archive.writestr("inner/catalog", content)
        archive.writestr("inner/catalog.old", content)
        archive.comment = b"made for a test"
    return streamed.file.getvalue()


def _from_zip(content: bytes) -> bytes:
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        assert archive.testzip() is None
        return archive.read("inner/catalog")


def _gzip(content: bytes) -> bytes:
    packed = io.BytesIO()
    with gzip.GzipFile("scenes.xml", "wb", 6, packed, 1_700_000_000) as stream:
        stream.write(content)
    return packed.getvalue()


def _tar(content: bytes) -> bytes:
    packed = io.BytesIO()
    with tarfile.open(fileobj=packed, mode="w") as archive:
        for name, each in (("first", b"1"), ("inner/" + "long " * 30 + "catalog", content), ("last", b"3" * 513)):
            info = tarfile.TarInfo(name)
            info.size = len(each)
            archive.addfile(info, io.BytesIO(each))
    return packed.getvalue()


def _from_tar(content: bytes) -> bytes:
    with tarfile.open(fileobj=io.BytesIO(content)) as archive:
        first, found, last = archive.getmembers()
        assert (first.name, last.name, last.size) == ("first", "last", 513)
        return cast(IO[bytes], archive.extractfile(found)).read()


def _column(content: bytes) -> bytes:
    with closing(apsw.Connection(":memory:")) as database:
        database.execute("CREATE TABLE scene (name TEXT UNIQUE, data); CREATE INDEX by_data ON scene (data)")
        rows = [("none", None), ("dusk", content), ("empty", b"")]
        database.executemany("INSERT INTO scene VALUES (?, ?)", rows)
        return database.serialize("main")


def _from_column(content: bytes) -> bytes:
    with closing(sqlite3.connect(":memory:")) as database:
        database.deserialize(content)
        assert database.execute("PRAGMA integrity_check").fetchall() == [("ok",)]
        ((data,),) = database.execute("SELECT data FROM scene WHERE name = 'dusk'")
    return cast(bytes, data)


def _attribute(content: bytes) -> bytes:
    marks = {"&": "&amp;", '"': "&quot;", "\n": "&#10;", "<": "&lt;"}
    quoted = "".join(marks.get(each, each) for each in content.decode())
    return f'<stage><!-- a --><scene id="dusk" data="{quoted}"/><scene id="none" data=""/></stage>'.encode()


def _from_attribute(content: bytes) -> bytes:
    return ET.fromstring(content)[0].attrib["data"].encode()


ZIP = Container("inner/catalog", _zip, _from_zip)
ANY_IN_ZIP = Container("zip:inner/cat*g", _zip, _from_zip)
GZIP = Container("gzip", _gzip, gzip.decompress)
ZLIB = Container("zlib", zlib.compress, zlib.decompress)
BASE64 = Container("base64", base64.encodebytes, base64.b64decode)
TAR = Container("tar:inner/*catalog", _tar, _from_tar)
COLUMN = Container({"syntax": "sqlite", "table": "scene", "key": "name", "column": "data"}, _column, _from_column)
ATTRIBUTE = Container({"syntax": "xml", "each": "//scene", "key": "@id", "at": "@data"}, _attribute, _from_attribute)
