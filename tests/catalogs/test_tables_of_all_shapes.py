"""SQLite tables of every shape are written alike, whether SQLite follows each row or its indexes are built anew."""

from __future__ import annotations

import shutil
from contextlib import closing
from pathlib import Path

import apsw
import pytest

from zesty_crate.catalogs import CatalogError, Cell, Change, ChangeList, bare_table
from zesty_crate.catalogs.bare_table import without_indexes
from zesty_crate.catalogs.sqlite_file import Schema
from zesty_crate.catalogs.sqlite_proof import prove_cells
from zesty_crate.catalogs.sqlite_write import write_cells

INDEXES = (
    "CREATE INDEX upper ON clip (upper(file) DESC, more)",
    "CREATE INDEX some ON clip (more) WHERE file LIKE '%7%'",
    "CREATE UNIQUE INDEX each ON clip (file COLLATE NOCASE)",
    "CREATE INDEX beside ON clip (more)",
)
PLAIN = {
    "numbered": "(id INTEGER PRIMARY KEY, file TEXT UNIQUE, more REAL)",
    "numbered, and counted up": "(id INTEGER PRIMARY KEY AUTOINCREMENT, file TEXT, more)",
    "backwards": "(id INTEGER PRIMARY KEY DESC, file TEXT, more DECIMAL(5, 2))",
    "by another key": "(file VARCHAR(200) PRIMARY KEY, more BLOB)",
    "by a key of two": "(file CLOB, more INTEGER, PRIMARY KEY (file, more))",
    "no type": "(file, more)",
    "its own rowid": '(rowid TEXT, _rowid_ TEXT, file TEXT, more "any thing")',
    "a name to quote": '("a ""b" TEXT NOT NULL DEFAULT \'x\', file TEXT, more)',
}
LOOKED_AT = {
    "checked": "(file TEXT CHECK (length(file) < 200), more)",
    "computed": "(file TEXT, name TEXT AS (lower(file)), more)",
    "strict": "(file TEXT, more ANY) STRICT",
    "no rowid": "(file TEXT, more, key TEXT PRIMARY KEY) WITHOUT ROWID",
    "two keys": "(file TEXT, more, key TEXT, other REAL DEFAULT 2.5, PRIMARY KEY (other, key)) WITHOUT ROWID",
    "a path as the key": "(file TEXT PRIMARY KEY, more) WITHOUT ROWID",
    "a path in the key": "(file TEXT, more, key TEXT, PRIMARY KEY (key, file)) WITHOUT ROWID",
}


SETTINGS = (
    "encoding = 'UTF-16le'",
    "encoding = 'UTF-16be'",
    "journal_mode = wal",
    "auto_vacuum = 1",
    "page_size = 512",
)


def filled(path: Path, shape: str, setting: str = "user_version = 7") -> Path:
    """A table of some shape with every kind of index, older rows of which lack its last columns."""
    with closing(apsw.Connection(str(path))) as database:
        database.execute(f"PRAGMA {setting}")
        database.execute(f"CREATE TABLE clip {shape}")
        key = ", key" if "key TEXT" in shape else ""
        rows = [
            (f"/home/odile/{number * 77 % 101} owl.wav", (None, 5, 2.5, "dusk", b"\0")[number % 5 * (key == "")])
            for number in range(101)
        ]
        with database:
            database.executemany(f"INSERT INTO clip (file, more{key}) VALUES (?1, ?2{key and ', ?1'})", rows)
        for sql in INDEXES:
            database.execute(sql)
        database.execute("ALTER TABLE clip ADD COLUMN late REAL DEFAULT 7")
        database.execute("ALTER TABLE clip ADD COLUMN later TEXT DEFAULT 'at dawn'")
        database.execute('CREATE TABLE "bare rows 0" (other)')
        database.execute("CREATE TRIGGER loud AFTER UPDATE ON clip BEGIN DELETE FROM clip; END")
    return path


@pytest.fixture(params=[*PLAIN, *LOOKED_AT])
def catalog(request: pytest.FixtureRequest, tmp_path: Path) -> Path:
    return filled(tmp_path / "catalog", ({**PLAIN, **LOOKED_AT})[request.param])


def loudness(*values: object) -> str:
    """A function that only the program of a catalog knows."""
    return str(values[0])


def changed(path: Path, listed: ChangeList, new: dict[str, str]) -> Path:
    """A copy with other texts."""
    with closing(apsw.Connection(str(path))) as database:
        row = Schema(database, path).row_id("clip")
        rows = list(database.execute(f"SELECT {row}, file FROM clip"))
    listed.add(Change(Cell("clip", "file", at), old, new[old]) for at, old in rows if old in new)
    target = path.with_name("written")
    shutil.copy(path, target)
    write_cells(target, listed)
    return target


def texts(path: Path, *, by: str = "") -> list[str]:
    with closing(apsw.Connection(str(path))) as database:
        assert list(database.execute("PRAGMA integrity_check")) == [("ok",)]
    return texts_of(path, by)


def texts_of(path: Path, by: str = "") -> list[str]:
    with closing(apsw.Connection(str(path))) as database:
        return [text for (text,) in database.execute(f"SELECT file FROM clip {by}")]


def test_all_or_some_or_exchanged(catalog: Path, tmp_path: Path) -> None:
    before = texts(catalog)
    exchanged = dict(zip(before, [*before[1:], before[0]], strict=True))
    moved = {old: old.replace("/home/odile", "/srv/Odile's % é") for old in before}
    for number, new in enumerate((moved, dict(list(moved.items())[:3]), exchanged)):
        listed = ChangeList(tmp_path / f"listed {number}")
        written = changed(catalog, listed, new)
        assert prove_cells(catalog, written, listed).cells_changed == len(new)
        wanted = sorted(new.get(old, old) for old in before)
        assert sorted(texts(written)) == wanted
        assert texts(written, by="INDEXED BY each ORDER BY file COLLATE NOCASE") == sorted(wanted, key=str.lower)


def test_a_change_of_anything_else_is_seen(catalog: Path, tmp_path: Path) -> None:
    moved = {old: old.replace("/home/odile", "/srv") for old in texts(catalog)[:50]}
    for number, harm in enumerate(("more = 'x'", "later = NULL", "file = file || 'x'")):
        listed = ChangeList(tmp_path / f"listed {number}")
        written = changed(catalog, listed, moved)
        with closing(apsw.Connection(str(written))) as database:
            (trigger,) = [sql for (sql,) in database.execute("SELECT sql FROM sqlite_schema WHERE name = 'loud'")]
            database.execute("DROP TRIGGER loud")
            database.execute(f"UPDATE clip SET {harm} WHERE file = (SELECT max(file) FROM clip)")
            database.execute(trigger)
        with pytest.raises(CatalogError, match="differs from the original"):
            prove_cells(catalog, written, listed)


@pytest.mark.parametrize("shape", [PLAIN["numbered"], LOOKED_AT["checked"]])
def test_an_index_by_a_function_of_the_program_is_let_alone_where_no_path_is_in_it(tmp_path: Path, shape: str) -> None:
    path = filled(tmp_path / "catalog", shape)
    with closing(apsw.Connection(str(path))) as database:
        database.create_scalar_function("loudness", loudness, 1, deterministic=True)
        database.execute("CREATE INDEX loud ON clip (loudness(more)) WHERE loudness(late) <> ''")
    moved = {old: old.replace("/home", "/srv") for old in texts_of(path)}
    listed = ChangeList(tmp_path / "listed")
    written = changed(path, listed, moved)
    assert prove_cells(path, written, listed).cells_changed == len(moved)
    assert sorted(texts_of(written)) == sorted(moved.values())
    with closing(apsw.Connection(str(written))) as database:
        database.create_scalar_function("loudness", loudness, 1, deterministic=True)
        assert list(database.execute("PRAGMA integrity_check")) == [("ok",)]


@pytest.mark.parametrize("shape", [PLAIN["numbered"], LOOKED_AT["checked"]])
@pytest.mark.parametrize("setting", SETTINGS)
def test_in_databases_of_every_kind(tmp_path: Path, setting: str, shape: str) -> None:
    path = filled(tmp_path / "catalog", shape, setting)
    moved = {old: old.replace("/home/odile", "/srv/Odile's % \u00e9 \u2603") for old in texts(path)}
    listed = ChangeList(tmp_path / "listed")
    written = changed(path, listed, moved)
    assert prove_cells(path, written, listed).cells_changed == len(moved)
    assert sorted(texts(written)) == sorted(moved.values())


def test_an_index_that_does_not_agree_with_its_rows_is_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = filled(tmp_path / "catalog", PLAIN["numbered"])
    moved = {old: old.replace("/home", "/srv") for old in texts(path)}
    monkeypatch.setattr(bare_table, "_CONCERNED", "SELECT name FROM sqlite_schema WHERE ?1 = ?2")  # none is built anew
    listed = ChangeList(tmp_path / "listed")
    written = changed(path, listed, moved)
    with pytest.raises(CatalogError, match="SQLite reports about its table clip: "):
        prove_cells(path, written, listed)


def test_two_that_would_become_one_are_refused(catalog: Path, tmp_path: Path) -> None:
    one, other, *_ = texts(catalog)
    with pytest.raises(CatalogError, match="UNIQUE"):
        changed(catalog, ChangeList(tmp_path / "listed"), {one: "/srv/owl", other: "/SRV/Owl"})


@pytest.mark.parametrize(
    ("shape", "expected"), [*((each, True) for each in PLAIN.values()), *((each, False) for each in LOOKED_AT.values())]
)
def test_only_plain_tables_do_without_their_indexes(shape: str, expected: bool) -> None:
    with closing(apsw.Connection(":memory:")) as database:
        database.execute(f"CREATE TABLE clip {shape}")
        with without_indexes(database, "Clip", "File") as bare:
            assert (bare is not None) == expected
        assert [name for (name,) in database.execute("SELECT name FROM sqlite_schema WHERE type = 'table'")][:1] == [
            "clip"
        ]


def test_triggers_that_would_answer_are_named_and_not_run(tmp_path: Path) -> None:
    path = filled(tmp_path / "catalog", PLAIN["numbered"])
    with closing(apsw.Connection(str(path))) as database:
        for name, when in {
            "of file": 'AFTER UPDATE OF more, "File" ON clip',
            "of others": "AFTER UPDATE OF more ON clip",
            "of new ones": "AFTER INSERT ON clip",
            "elsewhere": 'AFTER UPDATE ON "bare rows 0"',
        }.items():
            database.execute(f"CREATE TRIGGER \"{name}\" {when} begin UPDATE clip SET file = 'gone'; END")
    moved = {old: old.replace("/home", "/srv") for old in texts(path)}
    listed = ChangeList(tmp_path / "listed")
    written = changed(path, listed, moved)
    assert prove_cells(path, written, listed).triggers_not_run == ("loud", "of file")
    assert sorted(texts(written)) == sorted(moved.values())
