"""Paths that a database keeps as bytes, and entries that several columns tell apart."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from support.catalog_bench import AT, DISK, Bench, to_srv
from support.catalog_samples import Sample, sqlite_part
from zesty_crate.catalogs import CatalogError


@pytest.mark.parametrize("encoding", ["utf-8", "utf-16-le", "utf-16-be"])
def test_bytes_stay_bytes(tmp_path: Path, encoding: str) -> None:
    rows: list[tuple[int, object]] = [
        (1, "/home/odile/é雨.wav".encode(encoding)),
        (2, "/home/odile/b.wav\0".encode(encoding)),
        (3, "/home/odile/c.wav\0\0".encode(encoding)),
        (4, "/home/odile/text.wav"),
        (5, b"\xff"),
    ]

    def make(path: Path) -> None:
        with closing(sqlite3.connect(path)) as database:
            database.execute("CREATE TABLE clip (id INTEGER PRIMARY KEY, file UNIQUE, size, stars, kind)")
            database.executemany("INSERT INTO clip (id, file) VALUES (?, ?)", rows)
            database.commit()

    part = sqlite_part(path=[{"column": "file", "blob": encoding}])
    bench = Bench(tmp_path, Sample("sqlite", part, make, make))
    opened = bench.syntax.open(bench.path, bench.part, AT, DISK, bench.scratch)
    with closing(opened) as catalog:
        names = [each.recorded.rpartition("/")[2] for each in catalog.entries()]
        assert names == ["é雨.wav", "b.wav", "c.wav", "text.wav"]
        assert catalog.reading.unread == 1
        assert f"its path is not {encoding}" in catalog.reading.reasons[0]
    moved, proof = bench.rewrite(bench.path, tmp_path / "moved", to_srv)
    assert proof.cells_changed == 4
    assert list(bench.listed)[1].new == "/srv/odile/b.wav"
    with closing(sqlite3.connect(moved)) as database:
        after = database.execute("SELECT id, file FROM clip ORDER BY id").fetchall()
    old, new = "/home".encode(encoding), "/srv".encode(encoding)
    expected = [(key, file.replace(old, new) if isinstance(file, bytes) else to_srv(str(file))) for key, file in rows]
    assert after == expected


def test_bytes_that_cannot_hold_a_name_are_left(tmp_path: Path) -> None:
    def make(path: Path) -> None:
        with closing(sqlite3.connect(path)) as database:
            database.execute("CREATE TABLE clip (id INTEGER PRIMARY KEY, file, size, stars, kind)")
            database.execute("INSERT INTO clip (id, file) VALUES (1, ?)", ("/home/a".encode("utf-16-le"),))
            database.commit()

    part = sqlite_part(path=[{"column": "file", "blob": "utf-16-le"}])
    bench = Bench(tmp_path, Sample("sqlite", part, make, make))
    with pytest.raises(CatalogError, match="cannot be written in utf-16-le"):
        bench.rewrite(bench.path, tmp_path / "moved", lambda _: "/home/\udcff")


def test_entries_may_be_told_apart_by_several_columns(tmp_path: Path) -> None:
    def make(path: Path) -> None:
        with closing(sqlite3.connect(path)) as database:
            database.execute("CREATE TABLE clip (shelf, number, file, PRIMARY KEY (shelf, number))")
            rows = [("a", 1, "/home/a1"), ("a", 2, "/home/a2"), ("b", 1, "/home/b1")]
            database.executemany("INSERT INTO clip VALUES (?, ?, ?)", rows)
            database.commit()

    part = {"id": "c", "kind": "catalog", "at": "{home}/c", "syntax": "sqlite"}
    entries = [{"table": "clip", "key": ["shelf", "number"], "path": [{"column": "file"}]}]
    bench = Bench(tmp_path, Sample("sqlite", {**part, "entries": entries}, make, make))
    assert [each.key for each in bench.entries()] == ["a|1", "a|2", "b|1"]
    moved, _ = bench.rewrite(bench.path, tmp_path / "moved", to_srv)
    assert [each.recorded for each in bench.entries(moved)] == ["/srv/a1", "/srv/a2", "/srv/b1"]


def test_a_record_that_points_to_a_folder_which_is_not_there_is_not_read(tmp_path: Path) -> None:
    def make(path: Path) -> None:
        with closing(sqlite3.connect(path)) as database:
            database.execute("CREATE TABLE folder (id INTEGER PRIMARY KEY, path)")
            database.execute("CREATE TABLE clip (id INTEGER PRIMARY KEY, folder, file)")
            database.execute("INSERT INTO folder VALUES (1, '/home/odile')")
            rows = [(1, 1, "a.wav"), (2, 7, "/home/b.wav"), (3, None, "/home/c.wav"), (4, 0, "/home/d.wav")]
            database.executemany("INSERT INTO clip VALUES (?, ?, ?)", rows)
            database.commit()

    part = {"id": "c", "kind": "catalog", "at": "{home}/c", "syntax": "sqlite"}
    path = [{"table": "folder", "via": "folder", "column": "path"}, {"column": "file"}]
    bench = Bench(
        tmp_path, Sample("sqlite", {**part, "entries": [{"table": "clip", "key": "id", "path": path}]}, make, make)
    )
    with closing(bench.syntax.open(bench.path, bench.part, AT, DISK, bench.scratch)) as catalog:
        assert [each.recorded for each in catalog.entries()] == ["/home/odile/a.wav", "/home/c.wav", "/home/d.wav"]
        assert catalog.reading.reasons == ["clip, id 2: there is no row 7 of folder"]
