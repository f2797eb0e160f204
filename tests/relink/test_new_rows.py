"""A shared row whose entries go to places that no one text can say: split where the guide allows it, else named."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import closing
from pathlib import Path

import apsw
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from support.catalog_bench import DISK
from zesty_crate.catalogs import CatalogError, ChangeList, Entry, Proof, syntax_of
from zesty_crate.guides import HoldingPart
from zesty_crate.paths import MachinePath, Spelling, System, read_path
from zesty_crate.split_paths import PathDecider, Target

AT = MachinePath(System.LINUX, "/", ("home", "odile", "shelf.db"))
SCHEMA = """
CREATE TABLE drawer (drawer_id INTEGER PRIMARY KEY AUTOINCREMENT, base TEXT, label TEXT DEFAULT 'new', seen REAL);
CREATE TABLE tray (tray_id INTEGER PRIMARY KEY, rel TEXT);
CREATE TABLE sound (sound_id INTEGER PRIMARY KEY, drawer_id REFERENCES drawer, tray_id REFERENCES tray, leaf TEXT);
CREATE TRIGGER t AFTER INSERT ON drawer BEGIN DELETE FROM sound; END;
"""
DRAWER = {"table": "drawer", "via": "drawer_id", "column": "base"}
TRAY = {"table": "tray", "via": "tray_id", "column": "rel"}


class Shelf:
    """A catalog with shared roots, relinked from Linux to Windows by the place of each file."""

    def __init__(
        self, folder: Path, paths: list[tuple[str, str, str]], *, may_add: bool = True, trays: bool = True
    ) -> None:
        self.path, self.folder = folder / "shelf.db", folder
        pieces = [DRAWER | {"may-add": may_add}, *([TRAY] if trays else []), {"column": "leaf"}]
        entries = {"table": "sound", "key": "sound_id", "path": pieces, "spelling": "native"}
        part = {"id": "shelf", "kind": "catalog", "at": "x", "syntax": "sqlite", "entries": [entries]}
        self.part = HoldingPart.model_validate(part)
        self.syntax = syntax_of(self.part)
        self.without = 0
        with closing(apsw.Connection(str(self.path))) as database, database:
            database.execute(SCHEMA)
            for number, each in enumerate(dict.fromkeys(path[0] for path in paths), start=1):
                database.execute("INSERT INTO drawer VALUES (?, ?, 'mine', 1.5)", (number, each))
            for each in dict.fromkeys(path[1] for path in paths):
                database.execute("INSERT INTO tray VALUES (NULL, ?)", (each,))
            for drawer, tray, leaf in paths:
                database.execute(
                    "INSERT INTO sound SELECT NULL, drawer_id, tray_id, ? FROM drawer, tray WHERE base = ? AND rel = ?",
                    (leaf, drawer, tray),
                )

    def relink(self, places: Mapping[str, str]) -> Proof | None:
        """Send each file to its place, and prove it; None when nothing had to be written."""

        def target(entry: Entry) -> Target:
            old = read_path(entry.recorded, System.LINUX, Spelling.NATIVE).path
            new = places.get(str(old))
            return Target(old, read_path(new, System.WINDOWS, Spelling.NATIVE).path if new else None)

        target_path, listed = self.folder / "relinked.db", ChangeList(self.folder / "listed")
        with closing(self.syntax.open(self.path, self.part, AT, DISK, self.folder)) as catalog:
            decider = PathDecider(catalog.entries, target, System.LINUX, System.WINDOWS)
            levels = len(self.part.entries[0].path)
            decider.decide(levels, may_add=self.part.entries[0].path[0].may_add)
            written = decider.write(listed, catalog)
        self.without = len(decider.inexpressible)
        self.syntax.rewrite(self.path, target_path, self.part, listed, DISK)
        proof = self.syntax.prove(self.path, target_path, self.part, listed, DISK)
        self.path = target_path
        return proof if written else None

    def recorded(self, system: System = System.WINDOWS) -> list[str]:
        at = MachinePath(system, "C:\\", ("shelf.db",)) if system is System.WINDOWS else AT
        with closing(self.syntax.open(self.path, self.part, at, DISK, self.folder)) as catalog:
            return [entry.recorded for entry in catalog.entries()]

    def rows(self, query: str) -> list[tuple[object, ...]]:
        with closing(apsw.Connection(str(self.path))) as database:
            return [tuple(row) for row in database.execute(query)]


HOME = [("/", "home/o/Music", "a.wav"), ("/", "mnt/spools", "b.wav"), ("/", "home/o/Music", "c.wav")]
PLACES = {
    "/home/o/Music/a.wav": "C:\\Users\\O\\Music\\a.wav",
    "/home/o/Music/c.wav": "C:\\Users\\O\\Music\\c.wav",
    "/mnt/spools/b.wav": "E:\\Spools\\b.wav",
}


def test_a_root_that_goes_to_two_volumes_is_split_where_the_guide_allows_it(tmp_path: Path) -> None:
    shelf = Shelf(tmp_path, HOME)
    proof = shelf.relink(PLACES)
    assert proof is not None
    assert (shelf.recorded(), shelf.without, proof.rows_added) == (
        [PLACES[k] for k in sorted(PLACES, key=lambda k: k[-5])],
        0,
        1,
    )
    assert shelf.rows("SELECT * FROM drawer") == [
        (1, "C:\\Users\\O\\Music\\", "mine", 1.5),
        (2, "E:\\Spools\\", "mine", 1.5),
    ]
    assert shelf.rows("PRAGMA integrity_check") == [("ok",)]


def test_a_number_that_a_table_once_gave_is_not_given_again(tmp_path: Path) -> None:
    shelf = Shelf(tmp_path, HOME)
    with closing(apsw.Connection(str(shelf.path))) as database:
        database.execute("UPDATE sqlite_sequence SET seq = 9")  # as if there had been more drawers
    shelf.relink(PLACES)
    assert shelf.rows("SELECT drawer_id FROM drawer") == [(1,), (10,)]
    assert shelf.rows("SELECT name, seq FROM sqlite_sequence") == [("drawer", 10)]


def test_without_leave_nothing_is_added_and_the_entries_are_named(tmp_path: Path) -> None:
    shelf = Shelf(tmp_path, HOME, may_add=False)
    assert shelf.relink(PLACES) is None
    assert shelf.without == 3
    assert shelf.rows("SELECT count(*) FROM drawer") == [(1,)]


def test_those_that_stay_keep_the_row(tmp_path: Path) -> None:
    shelf = Shelf(tmp_path, [("/home/o", "", "a.wav"), ("/home/o", "", "b.wav"), ("/home/o", "", "c.wav")], trays=False)
    shelf.relink({"/home/o/b.wav": "E:\\b.wav", "/home/o/c.wav": "E:\\c.wav"})
    assert [row[:2] for row in shelf.rows("SELECT drawer_id, base FROM drawer")] == [(1, "/home/o"), (2, "E:\\")]
    assert shelf.rows("SELECT drawer_id, leaf FROM sound") == [(1, "a.wav"), (2, "b.wav"), (2, "c.wav")]


def test_a_row_that_may_be_only_once_is_refused_and_nothing_is_left(tmp_path: Path) -> None:
    shelf = Shelf(tmp_path, HOME)
    with closing(apsw.Connection(str(shelf.path))) as database:
        database.execute("CREATE UNIQUE INDEX one ON drawer (label)")
    before = shelf.path.read_bytes()
    with pytest.raises(CatalogError, match="refused a new path: UNIQUE constraint failed"):
        shelf.relink(PLACES)
    assert shelf.path.read_bytes() == before


def test_a_table_whose_key_cannot_be_made_up_is_refused(tmp_path: Path) -> None:
    shelf = Shelf(tmp_path, [])
    with closing(apsw.Connection(str(shelf.path))) as database:
        database.execute("DROP TABLE drawer")
        database.execute("CREATE TABLE drawer (drawer_id TEXT PRIMARY KEY, base TEXT)")
    with pytest.raises(CatalogError, match="no INTEGER PRIMARY KEY"):
        shelf.recorded()


FOLDERS = st.sampled_from(["home/o/Music", "home/o/Clips", "mnt/spools"])
GOES_TO = st.sampled_from(["C:\\Users\\O", "E:\\", "E:\\Kept\\Here", "\\\\shelf\\share\\x"])


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(FOLDERS, GOES_TO | st.none()), min_size=1, max_size=8), st.booleans())
def test_each_entry_leads_where_it_is_sent_or_is_named(
    tmp_path_factory: pytest.TempPathFactory,
    files: list[tuple[str, str | None]],
    trays: bool,
) -> None:
    rows = [
        ("/", folder, f"{n}.wav") if trays else (f"/{folder}", "", f"{n}.wav") for n, (folder, _) in enumerate(files)
    ]
    shelf = Shelf(tmp_path_factory.mktemp("shelf"), rows, trays=trays)
    before = shelf.recorded(System.LINUX)
    places = {
        old: f"{goes_to.rstrip(chr(92))}\\{n}.wav"
        for n, (old, (_, goes_to)) in enumerate(zip(before, files, strict=True))
        if goes_to
    }
    shelf.relink(places)
    after = zip(before, shelf.recorded(), shelf.recorded(System.LINUX), strict=True)
    wrong = [old for old, there, as_before in after if (there if old in places else as_before) != places.get(old, old)]
    assert len(wrong) <= shelf.without
    assert all(old in places for old in wrong)
    if not trays:
        assert not wrong
