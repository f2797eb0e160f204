"""Documents inside documents: several of one kind, hostile ones, and a whole move of each through the command."""

from __future__ import annotations

import gzip
import io
import json
import sqlite3
import tarfile
import zipfile
import zlib
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import pytest

from conftest import Zesty
from support.catalog_bench import AT, DISK, Bench, to_srv
from support.catalog_samples import Sample
from support.trip import HEAD, Trip, document
from zesty_crate.catalogs import CatalogError

PATHS = {"key": "id", "path": [{"at": "file"}], "each": "$.clips[*]"}


def clips(*files: str) -> bytes:
    return json.dumps({"clips": [{"id": number, "file": file} for number, file in enumerate(files)]}).encode()


def bench_of(tmp_path: Path, content: bytes, inside: object, syntax: str = "json", **entries: object) -> Bench:
    part = {"syntax": syntax, "inside": inside, "entries": [entries or PATHS]}
    return written(tmp_path, content, part)


def written(tmp_path: Path, content: bytes, part: dict[str, object]) -> Bench:
    def make(path: Path) -> None:
        path.write_bytes(content)

    whole = {"id": "c", "kind": "catalog", "at": "{home}/c", **part}
    return Bench(tmp_path, Sample(str(part["syntax"]), whole, make, Path.unlink))


def zipped(members: dict[str, bytes]) -> bytes:
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in members.items():
            archive.writestr(name, content)
    return packed.getvalue()


def test_several_members_are_one_catalog(tmp_path: Path) -> None:
    members = {"a.json": clips("/home/a"), "other": b"/home/a", "b.json": clips("/home/b", "c"), "in/c.json": b"{"}
    bench = bench_of(tmp_path, zipped(members), "zip:*.json")
    assert [(each.key, each.recorded) for each in bench.entries()] == [
        ("a.json:0", "/home/a"),
        ("b.json:0", "/home/b"),
        ("b.json:1", "c"),
    ]
    moved, proof = bench.rewrite(bench.path, tmp_path / "moved", to_srv)
    assert proof.cells_changed == 2
    with zipfile.ZipFile(moved) as archive:
        after = {name: archive.read(name) for name in archive.namelist()}
    assert after == {**members, "a.json": clips("/srv/a"), "b.json": clips("/srv/b", "c")}


def test_one_that_cannot_be_read_is_counted_and_the_others_are_relinked(tmp_path: Path) -> None:
    bench = bench_of(tmp_path, zipped({"a.json": clips("/home/a"), "b.json": b"{"}), "zip:*.json")
    with closing(bench.syntax.open(bench.path, bench.part, AT, DISK, bench.scratch)) as catalog:
        assert len(list(catalog.entries())) == 1
        assert (catalog.reading.entries, catalog.reading.unread) == (1, 1)
        assert "b.json: The catalog b.json in" in catalog.reading.reasons[0]
    moved, _ = bench.rewrite(bench.path, tmp_path / "moved", to_srv)
    with zipfile.ZipFile(moved) as archive:
        assert archive.read("b.json") == b"{"


def test_lists_of_paths_in_one_value(tmp_path: Path) -> None:
    content = b"[look in]\r\nfolders=/home/a;/home/b b;/elsewhere\r\nother=/home/a\r\n"
    inside = {"syntax": "ini", "each": "look in", "at": "folders"}
    bench = bench_of(tmp_path, content, inside, "lines", each="(?P<path>[^;]+)", path=[{"at": "path"}])
    bench.part = bench.part.model_copy(update={"anywhere": True})
    assert [each.recorded for each in bench.entries()] == ["/home/a", "/home/b b", "/elsewhere"]
    moved, _ = bench.rewrite(bench.path, tmp_path / "moved", to_srv)
    assert moved.read_bytes() == content.replace(b"=/home/a;/home/b b", b"=/srv/a;/srv/b b")


def test_each_row_of_a_column_is_a_document(tmp_path: Path) -> None:
    with closing(sqlite3.connect(tmp_path / "made")) as database:
        database.execute("PRAGMA journal_mode = wal")
        database.execute("CREATE TABLE scene (name TEXT PRIMARY KEY, data) WITHOUT ROWID")
        rows = [("a", clips("/home/a").decode()), ("b", clips("/home/b")), ("c", None), ("d", "/home/a"), ("e", 7)]
        database.executemany("INSERT INTO scene VALUES (?, ?)", rows)
        database.commit()
    content = (tmp_path / "made").read_bytes()
    inside = {"syntax": "sqlite", "table": "scene", "key": "name", "column": "data", "where": "name <> 'd'"}
    bench = bench_of(tmp_path, content, inside)
    moved, _ = bench.rewrite(bench.path, tmp_path / "moved", to_srv)
    with closing(sqlite3.connect(moved)) as database:
        assert database.execute("SELECT * FROM scene").fetchall() == [
            ("a", clips("/srv/a").decode()),
            ("b", clips("/srv/b")),
            *rows[2:],
        ]


def test_a_value_that_cannot_be_read_is_not_passed_over(tmp_path: Path) -> None:
    content = b'{"scenes": [{"data": "{}"}, {"data": ["no text"]}]}'
    bench = bench_of(tmp_path, content, {"syntax": "json", "each": "$.scenes[*]", "at": "data"})
    with pytest.raises(CatalogError, match="data is a list and not a text"):
        bench.entries()


def tarred(size: int, content: bytes) -> bytes:
    info = tarfile.TarInfo("a.json")
    info.size = size
    return info.tobuf() + content.ljust(512, b"\0")


@pytest.mark.parametrize(
    ("inside", "content"),
    [
        ("gzip", gzip.compress(b"{}")[:-1]),
        ("gzip", gzip.compress(b"{}")[:-6] + b"\1" * 6),
        ("gzip", gzip.compress(b"{}") * 2),
        ("gzip", b"\x1f\x8b\x08\x18" + b"name without an end" * 3),
        ("zlib", zlib.compress(b"{}") + b"more"),
        ("zlib", b"\x78\x9d" + zlib.compress(b"{}")[2:]),
        ("base64", b"e30=*"),
        ("base64", b"e30-+"),
        ("base64", b"e"),
        ("tar:a.json", tarred(9_999_999, b"{}")),
        ("tar:b.json", tarred(2, b"{}") + bytes(1024)),
        ("tar:a.json", b"a" * 1024),
        ({"syntax": "sqlite", "table": "t", "key": "a", "at": "b"}, b"SQLite format 3\0" + b"\xff" * 600),
        ({"syntax": "sqlite", "table": "t", "key": "a", "at": "b"}, b"no database"),
    ],
    ids=lambda _: "",  # which are numbered then
)
def test_hostile_containers_are_refused_in_one_line(tmp_path: Path, inside: object, content: bytes) -> None:
    refuse(tmp_path, content, inside)


def test_what_is_very_large_once_unpacked_is_refused_in_one_line(tmp_path: Path) -> None:
    refuse(tmp_path, gzip.compress(bytes((1 << 28) + 1), 1), "gzip")


def refuse(folder: Path, content: bytes, inside: object) -> None:
    with pytest.raises(CatalogError) as refused:
        bench_of(folder, content, inside).entries()
    assert "\n" not in refused.value.message
    assert refused.value.next_step


def test_base64_in_lines_of_several_lengths_is_not_written(tmp_path: Path) -> None:
    bench = bench_of(tmp_path, b"eyJj\nbGlwcyI6IFt7ImlkIjogMSwg\nImZpbGUiOiAiL2hvbWUvYSJ9XX0=", "base64")
    with pytest.raises(CatalogError, match="lines of several lengths"):
        bench.rewrite(bench.path, tmp_path / "moved", to_srv)


PROPERTIES = (
    b"# file=/home/no\r\n ! no = yes\rfile.1 = /home/\\\r\n         a.wav\r\n"
    b"file.2:/home/b\\u00e9\\:c.wav\nfile.3 stream\\:dawn\nempty\nfile.2 : /home/last\\ \\u00e9.wav"
)


def test_properties_are_read_as_their_library_reads_them(tmp_path: Path) -> None:
    entries = [{"values": "(/home|C:).*", "key": "name", "path": [{"at": "value"}]}]
    bench = written(tmp_path, PROPERTIES, {"syntax": "properties", "encoding": "latin-1", "entries": entries})
    assert [(each.key, each.recorded) for each in bench.entries()] == [
        ("file.1", "/home/a.wav"),
        ("file.2", "/home/last é.wav"),
    ]
    moved, _ = bench.rewrite(bench.path, tmp_path / "moved", lambda text: text.replace("/home", "C:\\Users\\雨"))
    assert moved.read_bytes().splitlines()[-1] == b"file.2 : C:\\\\Users\\\\\\u96e8/last\\ \\u00e9.wav"
    back, _ = bench.rewrite(moved, tmp_path / "back", lambda text: text.replace("C:\\Users\\雨", "/home"))
    assert back.read_bytes() == PROPERTIES.replace(b"\\\r\n         ", b"")  # a line that was continued is one now


CATALOG = """at = "{app-data}/Lamps/scenes.bin"
syntax = "json"
inside = INSIDE
[[holding.entries]]
each = "$.clips[*]"
key = "id"
path = [{ at = "file" }]
"""


@pytest.mark.parametrize(
    ("inside", "wrap"),
    [
        ('"gzip"', gzip.compress),
        ('["zip:*.json", "zlib"]', lambda content: zipped({"a.json": zlib.compress(content)})),
        ('{ syntax = "xml", each = "//s", at = "text()" }', lambda content: b"<t><s>" + content + b"</s></t>"),
    ],
)
def test_it_moves_is_checked_and_comes_back(
    tmp_path: Path, zesty: Zesty, inside: str, wrap: Callable[[bytes], bytes]
) -> None:
    trip = Trip(tmp_path, zesty)
    trip.guide(HEAD + CATALOG.replace("INSIDE", inside))
    at = trip.home / "AppData/Roaming/Lamps/scenes.bin"
    at.parent.mkdir(parents=True, exist_ok=True)
    at.write_bytes(wrap(clips(trip.sound("owl.wav"), trip.sound("bat.wav"), "C:\\gone.wav")))
    assert trip.run("guide", "rehearse", "lamps", "--at", trip.old, "--guides", trip.guides).returncode == 0
    assert trip.survey().returncode == 0
    assert trip.pack().returncode == 0
    assert trip.arrived().returncode == 0
    totals = document(trip.run("check", trip.crate, "--to", trip.new, "--json"))["totals"]
    assert (totals["found"], totals["missing-before"]) == (2, 1)
