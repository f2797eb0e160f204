"""Folders as rows of a tree: each becomes the folder that its files go to, with new rows around it if need be."""

from __future__ import annotations

import sqlite3
from collections import Counter
from contextlib import closing
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from conftest import Zesty
from support.trip import HEAD, Trip
from zesty_crate.catalogs import CatalogError, ChangeList, Entry, syntax_of
from zesty_crate.guide_trials.invented import Routed
from zesty_crate.guides import HoldingPart
from zesty_crate.machines import Computer, Disk
from zesty_crate.paths import MachinePath, Route, System
from zesty_crate.split_paths import Branches, CarriedCatalog, decided, prove_meaning, relinked_copy

GUIDE = (
    HEAD
    + """at = "{app-data}/Lamps/scenes.db"
syntax = "sqlite"
[[holding.entries]]
table = "sound"
key = "id"
path = [{ table = "shelf", via = "shelf", parent = "within", at = "label"MORE }, { at = "file" }]
"""
)
SHELVES = (
    (1, None, "C:"),
    (2, 1, "Users"),
    (3, 2, "Odile"),
    (4, 3, "Music"),
    (5, 4, "Lamps"),
    (6, 5, "Deep"),
    (7, 1, "Far"),
)
SOUNDS = ((1, 5, "owl.wav"), (2, 6, "moth.wav"), (3, 6, "bat.wav"), (4, 7, "gone.wav"), (5, 5, "rain.wav"))


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(GUIDE.replace("MORE", ", may-add = true"))
    lamps = trip.home / "Music/Lamps"
    (lamps / "Deep").mkdir()
    for name in ("owl.wav", "rain.wav", "Deep/bat.wav", "Deep/moth.wav"):
        (lamps / name).write_bytes(name.encode())
    with closing(sqlite3.connect(trip.home / "AppData/Roaming/Lamps/scenes.db")) as made:
        made.execute(
            "CREATE TABLE shelf (id INTEGER PRIMARY KEY, within INTEGER REFERENCES shelf, label TEXT, color DEFAULT 7)"
        )
        made.execute("CREATE TABLE sound (id INTEGER PRIMARY KEY, shelf INTEGER, file TEXT)")
        made.executemany("INSERT INTO shelf (id, within, label) VALUES (?, ?, ?)", SHELVES)
        made.executemany("INSERT INTO sound VALUES (?, ?, ?)", SOUNDS)
        made.commit()
    return trip


def paths(at: Path) -> list[str]:
    """The whole path of each entry, put together here."""
    with closing(sqlite3.connect(at)) as database:
        shelves = {
            key: (within, label) for key, within, label in database.execute("SELECT id, within, label FROM shelf")
        }
        found = []
        for shelf, file in database.execute("SELECT shelf, file FROM sound ORDER BY id").fetchall():
            names, at_row = [file], shelf
            while at_row is not None:
                at_row, label = shelves[at_row]
                names.append(label)
            found.append("/".join(reversed(names)).replace("//", "/"))
        return found


def move(trip: Trip, *routes: str) -> None:
    assert trip.survey().returncode in (0, 1)
    assert trip.pack().returncode == 0
    options = [each for route in routes for each in ("--route", route)]
    assert trip.plan(*options).returncode in (0, 1)
    assert trip.unpack().returncode == 0


def test_a_folder_that_goes_deeper_gets_other_rows_around_it(trip: Trip) -> None:
    move(trip, r"C:\Users\Odile\Music\Lamps=/Users/odile/Sounds/of 2026/Lamps")
    said = trip.relink()
    assert said.returncode == 0, said.stdout
    new = "/Users/odile/Sounds/of 2026/Lamps"
    assert paths(trip.new_database) == [
        f"{new}/owl.wav",
        f"{new}/Deep/moth.wav",
        f"{new}/Deep/bat.wav",
        "C:/Far/gone.wav",
        f"{new}/rain.wav",
    ]
    with closing(sqlite3.connect(trip.new_database)) as database:
        assert database.execute("SELECT label, color FROM shelf WHERE id = 7").fetchall() == [("Far", 7)]
        assert database.execute("SELECT count(*), min(color) FROM shelf").fetchall() == [(9, 7)]
    assert trip.run("undo", trip.crate, "--to", trip.new, "--yes").returncode == 0


def test_files_of_one_folder_may_go_to_two(trip: Trip) -> None:
    move(
        trip,
        r"C:\Users\Odile\Music\Lamps=/Users/odile/Music/Lamps",
        r"C:\Users\Odile\Music\Lamps\Deep\moth.wav=/Users/odile/Moths/moth.wav",
        r"C:\Far=/Users/odile/Far",
    )
    said = trip.relink()
    assert said.returncode == 0, said.stdout
    new = "/Users/odile/Music/Lamps"
    assert paths(trip.new_database) == [
        f"{new}/owl.wav",
        "/Users/odile/Moths/moth.wav",
        f"{new}/Deep/bat.wav",
        "/Users/odile/Far/gone.wav",
        f"{new}/rain.wav",
    ]
    checked = trip.check()
    assert "4 found" in checked.stdout, checked.stdout


def test_without_new_rows_what_cannot_be_said_is_foreseen(trip: Trip) -> None:
    trip.guide(GUIDE.replace("MORE", ""))
    assert trip.survey().returncode in (0, 1)
    assert trip.pack().returncode == 0
    deeper = r"C:\Users\Odile\Music\Lamps=/Users/odile/Sounds/of 2026/Lamps"
    planned = trip.plan("--route", deeper, "--route", r"C:\Far=/Users/odile/Far")
    assert planned.returncode == 3
    assert "allow new rows in the guide" in " ".join(planned.stdout.split() + planned.stderr.split())


# -- what is said of many by their folder ------------------------------------------------------------------------------


PART = HoldingPart.model_validate(
    {
        "id": "scenes",
        "kind": "catalog",
        "at": "{home}/scenes.db",
        "syntax": "sqlite",
        "entries": [
            {
                "table": "sound",
                "key": "id",
                "path": [{"table": "shelf", "via": "shelf", "parent": "within", "at": "label"}, {"at": "file"}],
            }
        ],
    }
)
OLD = Computer("old", System.WINDOWS, "Odile", [], {})
NEW = Computer("new", System.MACOS, "odile", [], {})
TO = Routed.of_routes([Route(OLD.parse("C:\\"), NEW.parse("/Volumes/Spools"))], OLD)
AT = OLD.parse("C:\\scenes.db"), NEW.parse("/Volumes/Spools/scenes.db")


@pytest.fixture
def drive(tmp_path: Path) -> Path:
    """Three folders of ten names each, within each other on a drive."""
    with closing(sqlite3.connect(tmp_path / "scenes.db")) as made:
        made.execute("CREATE TABLE shelf (id INTEGER PRIMARY KEY, within INTEGER, label TEXT)")
        made.execute("CREATE TABLE sound (id INTEGER PRIMARY KEY, shelf INTEGER, file TEXT)")
        made.executemany("INSERT INTO shelf VALUES (?, ?, ?)", SHELVES[:4])
        made.executemany("INSERT INTO sound VALUES (?, ?, ?)", ((n, 2 + n % 3, f"{n}.wav") for n in range(30)))
        made.commit()
    return tmp_path / "scenes.db"


def test_a_drive_becomes_a_folder_without_new_rows(drive: Path) -> None:
    before = paths(drive)
    moved = relinked_copy(CarriedCatalog(PART, drive, *AT, (OLD, NEW)), TO, drive.parent, Disk())
    assert paths(moved) == [each.replace("C:", "/Volumes/Spools") for each in before]
    with closing(sqlite3.connect(moved)) as database:
        assert [label for (label,) in database.execute("SELECT label FROM shelf")][1:] == ["Users", "Odile", "Music"]


@pytest.mark.parametrize(
    "harm",
    [
        "UPDATE shelf SET label = 'Other' WHERE id = 4",
        "UPDATE shelf SET within = 1 WHERE id = 4",
        "UPDATE sound SET shelf = 3 WHERE id = 29",
        "UPDATE sound SET file = 'else.wav' WHERE id = 29",
    ],
)
def test_an_entry_that_leads_elsewhere_is_seen_among_many_of_its_folder(drive: Path, harm: str) -> None:
    moved = relinked_copy(CarriedCatalog(PART, drive, *AT, (OLD, NEW)), TO, drive.parent, Disk())
    syntax, disk = syntax_of(PART), Disk()

    def prove() -> None:
        with (
            closing(syntax.open(drive, PART, AT[0], disk, drive.parent)) as before,
            closing(syntax.open(moved, PART, AT[1], disk, drive.parent)) as after,
        ):
            pieces = decided(PART, before, TO, (OLD, NEW), AT[1])
            assert pieces.says_all_of(3, "1.wav")  # so that it is not one by one that they are looked at
            prove_meaning(Branches(before), Branches(after), pieces, OLD, NEW)

    prove()
    with closing(sqlite3.connect(moved)) as database:
        database.execute(harm)
        database.commit()
    with pytest.raises(CatalogError, match="would not lead where they must"):
        prove()


NAMES = ["drip.wav", "gutter é.wav", "", ".", "..", "a/b.wav", "a\\b.wav", "nul\0.wav", None, 7, b"bytes.wav"]
ROWS = st.lists(st.tuples(st.sampled_from([1, 2, 3, 4, 9, None]), st.sampled_from(NAMES)), max_size=12)


@given(rows=ROWS, harmed=ROWS, folders=st.sets(st.sampled_from([1, 2, 3, 4])))
@settings(max_examples=80, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_sqlite_and_each_row_by_itself_tell_the_same_of_folders(
    tmp_path_factory: pytest.TempPathFactory,
    rows: list[tuple[object, object]],
    harmed: list[tuple[object, object]],
    folders: set[object],
) -> None:
    folder = tmp_path_factory.mktemp("rows")
    for name, some in (("one.db", rows), ("other.db", [*rows[: len(rows) // 2], *harmed][: len(rows)])):
        with closing(sqlite3.connect(folder / name)) as made:
            made.execute("CREATE TABLE shelf (id INTEGER PRIMARY KEY, within INTEGER, label TEXT)")
            made.execute("CREATE TABLE sound (id INTEGER PRIMARY KEY, shelf INTEGER, file)")
            made.executemany("INSERT INTO shelf VALUES (?, ?, ?)", SHELVES[:4])
            made.executemany("INSERT INTO sound (shelf, file) VALUES (?, ?)", some)
            made.commit()
    syntax, disk = syntax_of(PART), Disk()
    with (
        closing(syntax.open(folder / "one.db", PART, AT[0], disk, folder)) as one,
        closing(syntax.open(folder / "other.db", PART, AT[0], disk, folder)) as other,
    ):
        each, each_other = Branches(one), Branches(other)
        everything = {row[0]: row for row in each}
        plain = {
            key
            for key, row in everything.items()
            if not isinstance(row, Entry) and row[1] in folders and row[2] not in (".", "..")
        }
        found = each.but_for({folder: int(str(folder)) for folder in folders})
        if found is not None:
            of_each = Counter(row[1] for key, row in everything.items() if key in plain and not isinstance(row, Entry))
            assert (found[0], {row[0] for row in found[1]}) == (of_each, everything.keys() - plain)
        assert {first[1] for first in each.firsts()} <= {
            row[1] for row in everything.values() if not isinstance(row, Entry)
        }
        unlike = each.unlike(each_other, folders)
        same = {row[0] for row in each_other if row == everything.get(row[0])}
        if unlike is not None:
            assert {row[0] for row, _ in unlike} >= everything.keys() - (plain & same)
            assert all(before[0] == after[0] for before, after in unlike)


# -- branches that go along as one -------------------------------------------------------------------------------------


class OneByOne(Routed):
    """The same destinations, which never say that all in a folder goes along."""

    def goes_whole(self, folder: MachinePath) -> bool:  # noqa: ARG002
        return False


LABELS = ["Users", "Odile", "Musik ä", "a.b"] * 5 + ["..", "x/y", "", "C:", None]
TREE_ROWS = st.lists(st.tuples(st.integers(0, 20), st.sampled_from(LABELS)), min_size=1, max_size=12)
TREE_SOUNDS = st.lists(
    st.tuples(st.integers(1, 13), st.sampled_from([*["drip.wav", "moth.wav", "owl.wav"] * 20, *NAMES])),
    min_size=1,
    max_size=20,
)
FOLDERS = [r"C:", r"C:\Users", r"C:\Users\Odile", r"C:\Musik ä", r"C:\Users\a.b", r"C:\Users\Odile\drip.wav"]
PLACES = ["/Volumes/Spools", "/Users/odile", "/Users/odile/Deep/er", "/Volumes/Spools/Users"]


def outcome(database: Path, destinations: Routed, part: HoldingPart) -> list[object]:
    """Everything that was decided, and written."""
    with closing(syntax_of(part).open(database, part, AT[0], Disk(), database.parent)) as catalog:
        pieces = decided(part, catalog, destinations, (OLD, NEW), AT[1])
        changes = ChangeList(database.with_suffix(f".{len(list(database.parent.iterdir()))}"))
        pieces.write(changes, catalog)
        texts = sorted((each.cell, each.old, each.new) for each in changes.first(1000))
        unsaid = [[each.key for each in some] for some in (pieces.inexpressible, pieces.made_wrong, pieces.stale)]
        left = [(entry.key, why) for entry, why in pieces.without_route]
        return [texts, pieces.moved, pieces.rows_added, unsaid, left]


@given(
    shelves=TREE_ROWS,
    sounds=TREE_SOUNDS,
    routes=st.dictionaries(st.sampled_from(FOLDERS), st.sampled_from(PLACES), min_size=1, max_size=3),
    may_add=st.booleans(),
)
@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_branches_as_one_are_decided_as_each_folder_by_itself(
    tmp_path_factory: pytest.TempPathFactory,
    shelves: list[tuple[int, str | None]],
    sounds: list[tuple[int, object]],
    routes: dict[str, str],
    may_add: bool,
) -> None:
    folder = tmp_path_factory.mktemp("branches")
    with closing(sqlite3.connect(folder / "scenes.db")) as made:
        made.execute("CREATE TABLE shelf (id INTEGER PRIMARY KEY, within INTEGER, label TEXT)")
        made.execute("CREATE TABLE sound (id INTEGER PRIMARY KEY, shelf INTEGER, file)")
        made.execute("INSERT INTO shelf VALUES (1, NULL, 'C:')")
        # Most are in a row before them, a few in none, or within each other.
        around = (None if n == 20 else n if n > 17 else 1 + n % row for row, (n, _) in enumerate(shelves, start=1))
        labels = (label for _, label in shelves)
        made.executemany("INSERT INTO shelf (within, label) VALUES (?, ?)", zip(around, labels, strict=True))
        made.executemany("INSERT INTO sound (shelf, file) VALUES (?, ?)", sounds)
        made.commit()
    tree, own = PART.entries[0].path
    path = (tree.model_copy(update={"may_add": may_add}), own)
    part = PART.model_copy(update={"entries": (PART.entries[0].model_copy(update={"path": path}),)})
    several = [Route(OLD.parse(old + "\\" * old.endswith(":")), NEW.parse(new)) for old, new in routes.items()]
    database = folder / "scenes.db"
    each, together = (outcome(database, some.of_routes(several, OLD), part) for some in (OneByOne, Routed))
    assert together == each
