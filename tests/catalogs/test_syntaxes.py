"""What every catalog syntax must do, and what SQLite alone must do besides."""

from __future__ import annotations

import contextlib
import shutil
import subprocess
import warnings
import zipfile
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from typing import Any

import apsw
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from support.catalog_bench import AT, DISK, Bench, list_of, to_srv
from support.catalog_samples import ROWS, SAMPLES, Sample, damage_sqlite, make_sqlite, sqlite_part
from support.shaped_samples import SHAPED
from zesty_crate.catalogs import (
    CatalogError,
    Change,
    ChangeList,
    Entry,
    SweptCatalog,
)
from zesty_crate.catalogs.quoting_units import requoted
from zesty_crate.catalogs.text_file import _plainly_written as truly_plain
from zesty_crate.catalogs.text_syntax import TextSyntax
from zesty_crate.paths import Spelling

ALL = [*SAMPLES, *SHAPED]


@pytest.fixture(params=ALL, ids=[f"{sample.syntax}{number}" for number, sample in enumerate(ALL)])
def sample(request: pytest.FixtureRequest) -> Sample:
    return request.param  # type: ignore[no-any-return]


@pytest.fixture
def bench(tmp_path: Path, sample: Sample) -> Bench:
    return Bench(tmp_path, sample)


EMPTY = ("lines", "delimited", "ini", "json-lines", "toml")


class TestEverySyntax:
    def test_reads_entries_with_all_that_is_known(self, bench: Bench) -> None:
        entries = bench.entries()
        assert [entry.recorded for entry in entries] == [
            "/home/odile/a.wav",
            "/home/odile/b's % é.wav",
            "stream:dawn",
            "/home/odile/deep/c.wav",
        ]
        assert [entry.key[-1] for entry in entries] == ["1", "2", "3", "4"]
        assert [entry.size_bytes for entry in entries] == [10, None, None, 30]
        assert [entry.remote for entry in entries] == [False, False, True, False]
        assert entries[0].size_bytes == 10
        assert [value for _, value in entries[0].annotations] == ["5"]

    def test_reading_leaves_no_trace(self, bench: Bench) -> None:
        before = bench.path.read_bytes(), bench.path.stat().st_mtime_ns, sorted(bench.path.parent.iterdir())
        bench.path.parent.chmod(0o555)
        bench.entries()
        bench.path.parent.chmod(0o755)
        assert before == (bench.path.read_bytes(), bench.path.stat().st_mtime_ns, sorted(bench.path.parent.iterdir()))

    def test_no_change_changes_no_byte(self, bench: Bench, tmp_path: Path) -> None:
        same, proof = bench.rewrite(bench.path, tmp_path / "same", lambda text: text)
        assert same.read_bytes() == bench.path.read_bytes()
        assert proof.cells_changed == 0

    def test_there_and_back_is_where_it_was(self, bench: Bench, tmp_path: Path) -> None:
        moved, proof = bench.rewrite(bench.path, tmp_path / "there", lambda text: text.replace("/home/odile", "/srv/x"))
        assert bench.entries(moved)[0].recorded == "/srv/x/a.wav"
        assert proof.cells_changed == 3
        back, _ = bench.rewrite(moved, tmp_path / "back", lambda text: text.replace("/srv/x", "/home/odile"))
        assert bench.entries(back) == bench.entries()
        if not bench.sample.is_database:
            assert back.read_bytes() == bench.path.read_bytes()

    @given(st.text(st.characters(blacklist_categories=["Cs", "Cc"]), min_size=1, max_size=12))
    @settings(max_examples=12, suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow])
    def test_any_name_is_written_so_that_it_reads_back_or_not_at_all(self, bench: Bench, name: str) -> None:
        for each in bench.path.parent.glob("any*"):
            each.unlink()
        try:
            moved, _ = bench.rewrite(bench.path, bench.path.parent / "any", lambda text: text.replace("odile", name))
        except CatalogError as error:
            assert "cannot" in error.message  # and in this case nothing is
            return
        wanted = [entry.recorded.replace("odile", name) for entry in bench.entries()]
        assert [entry.recorded for entry in bench.entries(moved)] == wanted

    def test_a_change_that_is_not_in_the_list_is_found(self, bench: Bench, tmp_path: Path) -> None:
        moved, _ = bench.rewrite(bench.path, tmp_path / "moved", lambda text: text.replace("/home", "/else"))
        with pytest.raises(CatalogError, match="in more than its paths"):
            bench.prove(bench.path, moved, list_of(tmp_path / "empty"))

    @pytest.mark.parametrize("is_plain", [True, False])
    def test_a_text_that_is_written_wrongly_is_found(
        self, bench: Bench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, is_plain: bool
    ) -> None:
        if getattr(bench.syntax.rewrite, "__func__", None) is not TextSyntax.rewrite:  # it is not spliced
            return

        def plainly(*each: Any) -> Any:
            part = truly_plain(*each) if is_plain else None
            return part and part._replace(written=part.written.replace("home", "hame"))

        wrong = lambda *each: (requoted(*each) or "").replace("home", "hame")  # noqa: E731
        monkeypatch.setattr("zesty_crate.catalogs.text_file._plainly_written", plainly)
        monkeypatch.setattr("zesty_crate.catalogs.text_file.requoted", wrong)
        with pytest.raises(CatalogError, match="read back|discarded"):  # noqa: RUF043
            bench.rewrite(bench.path, tmp_path / "moved", lambda text: text.replace("deep", "deeper"))

    def test_a_cell_that_changed_meanwhile_is_not_written(self, bench: Bench, tmp_path: Path) -> None:
        piece = bench.entries()[0].pieces[0]
        assert piece is not None
        stale = list_of(tmp_path / "stale", Change(piece.cell, "/not/this", "/new"))
        with pytest.raises(CatalogError, match="text|changed while"):  # noqa: RUF043
            bench.syntax.rewrite(bench.path, tmp_path / "copy", bench.part, stale, DISK)

    @given(st.data())
    @settings(max_examples=30, suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow])
    def test_damage_of_any_kind_is_survived(self, bench: Bench, data: st.DataObject) -> None:
        content = bench.path.read_bytes()
        at = data.draw(st.integers(0, len(content)))
        cut = data.draw(st.integers(0, 12))
        harm = data.draw(
            st.binary(max_size=6) | st.sampled_from([b"\0", b"\xed\xa0\x80", b"<!DOCTYPE a [", b"[" * 3000])
        )
        harmed = bench.path.with_name("harmed")
        harmed.write_bytes(content[:at] + harm + content[at + cut :])
        with contextlib.suppress(CatalogError):
            bench.entries(harmed)

    @pytest.mark.parametrize("content", [b"", b"no catalog at all", bytes(4096)], ids=["empty", "text", "zeros"])
    def test_what_is_none_is_refused(self, bench: Bench, content: bytes) -> None:
        bench.path.write_bytes(content)
        if bench.sample.syntax in (
            "lines",
            "delimited",
            "ini",
            "json-lines",
            "toml",
            "properties",
        ):  # any text is one, with nothing in it
            with contextlib.suppress(CatalogError):
                assert bench.entries() == []
            return
        with pytest.raises(CatalogError):
            bench.entries()

    def test_what_is_damaged_is_refused(self, bench: Bench) -> None:
        bench.sample.damage(bench.path)
        with pytest.raises(CatalogError):
            bench.entries()

    def test_what_is_missing_is_refused(self, bench: Bench) -> None:
        bench.path.unlink()
        with pytest.raises(CatalogError, match="not there"):
            bench.entries()


# -- hostile texts ---------------------------------------------------------------------------------------------------

LEVELS = "".join(f'<!ENTITY e{n} "{f"&e{n - 1};" * 10}">' for n in range(1, 9))
BOMB = f"""<!DOCTYPE clips [<!ENTITY e0 "ha">{LEVELS}]><clips><clip file="&e8;"/></clips>"""
ROUND = """<!DOCTYPE clips [<!ENTITY a "&b;"><!ENTITY b "&a;">]><clips><clip file="x"/></clips>"""
MANY = f"""<!DOCTYPE clips [<!ENTITY a "{"ha" * 2000}">]><clips>{'<clip file="&a;"/>' * 10_000}</clips>"""
ELEMENTS = """<!DOCTYPE clips [<!ENTITY a "<clip file='x'/>">]><clips>&a;</clips>"""
PARAMETERS = """<!DOCTYPE clips [<!ENTITY % a "<!ENTITY b 'c'>"> %a;]><clips>&b;</clips>"""
OUTSIDE = """<!DOCTYPE clips [<!ENTITY x SYSTEM "file:///etc/hostname">]><clips><clip file="&x;"/></clips>"""


@pytest.mark.parametrize(
    ("syntax", "content", "word"),
    [
        ("xml", BOMB, "entity"),
        ("xml", ROUND, "entity"),
        ("xml", MANY, "entities"),
        ("xml", ELEMENTS, "entity"),
        ("xml", PARAMETERS, "entities"),
        ("xml", OUTSIDE, "entities"),
        ("xml", "<a>" * 200_000, "XML"),
        ("json", "[" * 100_000 + "]" * 100_000, "deep"),
        ("json", '{"clips": [1, 2', "JSON"),
        ("plist", BOMB, "entities"),
        ("plist", "<plist><dict><key>a</key>" * 50_000, "property list"),
        ("reg", "REGEDIT9\n[HKEY_CURRENT_USER]\n", "registry export"),
        ("delimited", "id;size\n1;2\n", "column 'file'"),
        ("turtle", "[ <urn:a> " * 20_000, "Turtle"),
        ("turtle", "@base <urn:b> . <a> <b> <c> .", "base"),
        ("turtle", "\ud800", "Turtle"),
    ],
)
def test_hostile_texts_are_refused_in_one_line(tmp_path: Path, syntax: str, content: str, word: str) -> None:
    sample = next(each for each in SAMPLES if each.syntax == syntax)
    bench = Bench(tmp_path, Sample(syntax, {**sample.part, "encoding": ()}, sample.make, sample.damage))
    bench.path.write_bytes(content.encode("utf-8", "surrogatepass"))
    with pytest.raises(CatalogError) as raised:
        bench.entries()
    assert word in raised.value.message
    assert "\n" not in raised.value.message


def zipped(path: Path, *members: tuple[str, bytes]) -> None:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive, warnings.catch_warnings():
        warnings.simplefilter("ignore")  # that a name stands twice is what is wanted here
        for name, content in members:
            archive.writestr(name, content)


def lying(content: bytes) -> bytes:
    """A ZIP that says about its first member that it has ten bytes."""
    at = content.index(b"PK\x01\x02") + 24
    return content[:at] + (10).to_bytes(4, "little") + content[at + 4 :]


@pytest.mark.parametrize(
    ("members", "spoil", "word"),
    [
        ([("inner/catalog", bytes(300 << 20))], bytes, "256 MiB"),
        ([("inner/catalog", b"{}"), ("inner/catalog", b"{}")], bytes, "2 members"),
        ([("else", b"{}")], bytes, "it holds else"),
        ([("inner/catalog", b'{"clips": [1, 2, 3, 4, 5]}')], lying, "larger than it says"),
        ([("inner/catalog", b"{}")], lambda content: content[:-30], "ZIP"),
    ],
    ids=["bomb", "twice", "other", "lying", "cut"],
)
def test_hostile_zips_are_refused_in_one_line(
    tmp_path: Path, members: list[tuple[str, bytes]], spoil: Callable[[bytes], bytes], word: str
) -> None:
    sample = next(each for each in SAMPLES if "inside" in each.part)
    bench = Bench(tmp_path, sample)
    zipped(bench.path, *members)
    bench.path.write_bytes(spoil(bench.path.read_bytes()))
    with pytest.raises(CatalogError) as raised:
        bench.entries()
    assert word in raised.value.message
    assert "\n" not in raised.value.message


@pytest.mark.parametrize("line", ["a" + " " * 300_000 + "b", "a=b" + " " * 300_000 + "c", " " * 300_000 + "x"])
@pytest.mark.parametrize("sample", [each for each in SAMPLES if each.syntax in ("lines", "ini", "reg", "delimited")])
def test_long_runs_of_white_space_are_read_at_once(tmp_path: Path, sample: Sample, line: str) -> None:
    bench = Bench(tmp_path, sample)
    content = bench.path.read_bytes()
    encoding = "utf-16" if content.startswith((b"\xff\xfe", b"\xfe\xff")) else "cp1252"
    bench.path.write_bytes((content.decode(encoding) + "\n" + line + "\n").encode(encoding))
    with contextlib.suppress(CatalogError):
        bench.entries()


@pytest.mark.parametrize(
    ("syntax", "key", "selector"),
    [
        ("xml", "each", "//["),
        ("xml", "key", "@@"),
        ("xml", "each", "count(//*)"),
        ("json", "each", "$[?"),
        ("json", "key", "a b"),
        ("lines", "key", "nothing"),
        ("delimited", "size", "nothing"),
    ],
)
def test_a_bad_selector_is_named(tmp_path: Path, syntax: str, key: str, selector: str) -> None:
    sample = next(each for each in SAMPLES if each.syntax == syntax)
    entries = sample.part["entries"][0]  # type: ignore[index]
    part = {**sample.part, "entries": [{**entries, key: selector}]}
    bench = Bench(tmp_path, Sample(syntax, part, sample.make, sample.damage))
    with pytest.raises(CatalogError) as raised:
        bench.entries()
    assert selector in raised.value.message


# -- SQLite alone --------------------------------------------------------------------------------------------------


@pytest.fixture
def sqlite(tmp_path: Path) -> Bench:
    return Bench(tmp_path, SAMPLES[0])


def test_a_remote_entry_may_be_told_by_its_path(tmp_path: Path) -> None:
    part = sqlite_part(remote=None, **{"remote-like": "^stream:"})
    bench = Bench(tmp_path, Sample("sqlite", part, make_sqlite, damage_sqlite))
    assert [entry.remote for entry in bench.entries()] == [False, False, True, False]


def query(path: Path, sql: str) -> list[tuple[object, ...]]:
    with closing(apsw.Connection(str(path))) as database:
        return list(database.execute(sql))


def test_triggers_stay_silent_and_generated_columns_follow(sqlite: Bench, tmp_path: Path) -> None:
    moved, _ = sqlite.rewrite(sqlite.path, tmp_path / "moved", to_srv)
    assert query(moved, "SELECT * FROM log") == []
    assert query(moved, "SELECT file_up FROM clip WHERE id = 1") == [("/SRV/ODILE/A.WAV",)]
    assert query(moved, "PRAGMA integrity_check") == [("ok",)]


@pytest.mark.parametrize(
    "sql",
    [
        "UPDATE clip SET stars = 5.0 WHERE id = 1",
        "UPDATE clip SET stars = NULL WHERE id = 2",
        "DELETE FROM other",
        "UPDATE other SET v = x'01'",
        "CREATE TABLE more (x)",
        "PRAGMA user_version = 7",
        "UPDATE clip SET file = file || ' ' WHERE id = 1",
    ],
)
def test_the_proof_sees_every_other_difference(sqlite: Bench, tmp_path: Path, sql: str) -> None:
    moved, _ = sqlite.rewrite(sqlite.path, tmp_path / "moved", to_srv)
    query(moved, sql)
    with pytest.raises(CatalogError, match="in more than its paths"):
        sqlite.prove(sqlite.path, moved, sqlite.listed)


def test_work_left_in_a_write_ahead_log_is_read_and_kept(sqlite: Bench, tmp_path: Path) -> None:
    writer = apsw.Connection(str(sqlite.path))
    writer.pragma("journal_mode", "wal")
    writer.execute("INSERT INTO clip (id, file, kind) VALUES (5, '/home/odile/new.wav', 'file')")
    folder = tmp_path / "left"
    folder.mkdir()
    for name in ("catalog", "catalog-wal"):
        shutil.copy(tmp_path / name, folder / name)
    writer.close()
    left = folder / "catalog"
    before = left.read_bytes(), (folder / "catalog-wal").read_bytes()
    assert sqlite.entries(left)[-1].recorded == "/home/odile/new.wav"
    assert sorted(each.name for each in folder.iterdir()) == ["catalog", "catalog-wal"]
    assert before == (left.read_bytes(), (folder / "catalog-wal").read_bytes())
    sqlite.syntax.copy_whole(left, tmp_path / "whole", DISK)
    assert query(tmp_path / "whole", "SELECT count(*) FROM clip") == [(5,)]


def by_length(one: str, other: str) -> int:
    return len(one) - len(other)


def by_folded(one: str, other: str) -> int:
    return (one.casefold() > other.casefold()) - (one.casefold() < other.casefold())


@pytest.mark.parametrize(("order", "accepted"), [(by_folded, True), (by_length, False)])
def test_an_index_in_a_programs_own_order_stays_in_it(
    sqlite: Bench, tmp_path: Path, order: Callable[[str, str], int], accepted: bool
) -> None:
    files = [
        "/home/odile/Bees.wav",
        "/home/odile/ants.wav",
        "/home/odile/Étude.wav",
        "/home/odile/zoo",
        "/home/odile/C",
    ]
    with closing(apsw.Connection(str(sqlite.path))) as database:
        database.create_collation("OWN", order)
        database.execute("CREATE INDEX own ON clip (file COLLATE OWN)")
        database.executemany("INSERT INTO clip (file, kind) VALUES (?, 'file')", [(each,) for each in files])

    def moved_apart(text: str) -> str:
        return text.replace("/home/odile/a", "/srv/Z/a").replace("/home", "/Srv")

    if not accepted:
        with pytest.raises(CatalogError, match="only the program knows"):
            sqlite.rewrite(sqlite.path, tmp_path / "moved", moved_apart)
        return
    moved, _ = sqlite.rewrite(sqlite.path, tmp_path / "moved", moved_apart)
    with closing(apsw.Connection(str(moved))) as database:
        database.create_collation("OWN", order)
        assert list(database.execute("PRAGMA integrity_check")) == [("ok",)]


@pytest.mark.parametrize(
    "condition",
    ["kind = 'stream') FROM clip; DROP TABLE clip; --", "nothing = 1", "(SELECT", "1; SELECT 2", "writefile('x', 'y')"],
)
def test_a_condition_can_only_read(tmp_path: Path, condition: str) -> None:
    bench = Bench(tmp_path, Sample("sqlite", sqlite_part(remote=condition), make_sqlite, damage_sqlite))
    before = bench.path.read_bytes()
    with pytest.raises(CatalogError, match="condition"):
        bench.entries()
    assert bench.path.read_bytes() == before


@pytest.mark.parametrize(("change", "hint"), [({"table": "clips"}, '"clip"'), ({"size": "sise"}, '"size"')])
def test_a_table_or_column_that_is_not_there_is_named(tmp_path: Path, change: dict[str, str], hint: str) -> None:
    bench = Bench(tmp_path, Sample("sqlite", sqlite_part(**change), make_sqlite, damage_sqlite))
    with pytest.raises(CatalogError) as raised:
        bench.entries()
    assert hint in raised.value.next_step


def test_paths_that_exchange_places_are_written_though_an_index_allows_each_once(sqlite: Bench, tmp_path: Path) -> None:
    turned = {
        "/home/odile/a.wav": "/home/odile/b's % é.wav",
        "/home/odile/b's % é.wav": "/home/odile/deep/c.wav",
        "/home/odile/deep/c.wav": "/home/odile/a.wav",
    }
    moved, proof = sqlite.rewrite(sqlite.path, tmp_path / "moved", lambda text: turned.get(text, text))
    assert proof.cells_changed == 3
    assert [entry.recorded for entry in sqlite.entries(moved)][:2] == list(turned.values())[:2]
    assert query(moved, "PRAGMA integrity_check") == [("ok",)]


def test_two_paths_that_would_become_one_are_refused(sqlite: Bench, tmp_path: Path) -> None:
    with pytest.raises(CatalogError, match="UNIQUE"):
        sqlite.rewrite(sqlite.path, tmp_path / "moved", lambda text: "/x" if text.startswith("/") else text)


def test_a_full_text_index_beside_the_paths_survives(sqlite: Bench, tmp_path: Path) -> None:
    query(sqlite.path, "CREATE VIRTUAL TABLE words USING fts5(note)")
    query(sqlite.path, "INSERT INTO words VALUES ('an owl at dusk')")
    moved, _ = sqlite.rewrite(sqlite.path, tmp_path / "moved", to_srv)
    assert query(moved, "SELECT note FROM words WHERE words MATCH 'owl'") == [("an owl at dusk",)]


def test_sweeping_asks_for_every_path_and_writes_what_is_answered(sqlite: Bench, tmp_path: Path) -> None:
    asked = []

    def new_text(text: str, spelling: Spelling, ask: Callable[[], Entry | None]) -> str | None:
        entry = ask()
        asked.append((text, spelling, entry and entry.recorded))
        return text.replace("/home", "/srv") if text else None

    listed = ChangeList(tmp_path / "listed")
    with closing(sqlite.syntax.open(sqlite.path, sqlite.part, AT, DISK, sqlite.scratch)) as catalog:
        assert isinstance(catalog, SweptCatalog)
        assert catalog.sweep(listed, new_text)
    paths = [row[1] for row in ROWS]
    assert asked == [("" if path.startswith("stream") else path, Spelling.NATIVE, path) for path in paths]
    pieces = [entry.pieces[0] for entry in sqlite.entries()]
    wanted = [Change(p.cell, p.text, to_srv(p.text)) for p in pieces if p and p.text.startswith("/")]
    assert list(listed) == [c for c in wanted if c.old != c.new] + []


@pytest.mark.skipif(shutil.which("sqlite3") is None, reason="the sqlite3 shell is not on this machine")
def test_the_sqlite3_shell_agrees(sqlite: Bench, tmp_path: Path) -> None:
    moved, _ = sqlite.rewrite(sqlite.path, tmp_path / "moved", to_srv)
    said = subprocess.run(["sqlite3", str(moved), "PRAGMA integrity_check"], capture_output=True, text=True, check=True)
    assert said.stdout.strip() == "ok"
