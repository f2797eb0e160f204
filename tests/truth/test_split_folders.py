"""A catalog in pieces, and one folder of its library that goes elsewhere: all of its entries follow, or it is said."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import Zesty
from support.moves import picture
from support.trip import OLD, Trip, document

SPLIT = """at = "{app-data}/Lamps/scenes.db"
syntax = "sqlite"
[[holding.entries]]
table = "sound"
key = "id"
path = [
  { table = "drawer", via = "drawer", column = "base"MORE },
  { table = "tray", via = "tray", column = "rel" },
  { column = "leaf" },
]
spelling = "native"
"""
LAMPS = "C:\\Users\\Odile\\Music\\Lamps"
YEARS = (2023, 2024)


@pytest.fixture(params=[True, False], ids=["may-add", "fixed"])
def trip(tmp_path: Path, zesty: Zesty, request: pytest.FixtureRequest) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SPLIT.replace("MORE", ", may-add = true" if request.param else ""))
    at = trip.database([], table="sound (id INTEGER PRIMARY KEY, drawer, tray, leaf, path)")
    trip.execute(
        at,
        "CREATE TABLE drawer (drawer_id INTEGER PRIMARY KEY, base)",
        "CREATE TABLE tray (tray_id INTEGER PRIMARY KEY, rel)",
        f"INSERT INTO drawer VALUES (1, '{LAMPS}\\')",
    )
    for number, year in enumerate(YEARS):
        trip.execute(at, f"INSERT INTO tray VALUES ({number}, '{year}\\')")
        folder = trip.home / f"Music/Lamps/{year}"
        folder.mkdir()
        for each in range(3):
            (folder / f"{each}.wav").write_text(f"{year} {each}")
            trip.execute(at, f"INSERT INTO sound (drawer, tray, leaf) VALUES (1, {number}, '{each}.wav')")
    return trip


def can_add(trip: Trip) -> bool:
    return "may-add" in (trip.guides / "lamps.toml").read_text()


def at(trip: Trip) -> tuple[str | Path, ...]:
    return ("--at", trip.old, "--guides", trip.guides, "--keep-in", trip.root / "kept")


def found(trip: Trip) -> int:
    totals = document(trip.run("check", "--at", trip.old, "--guides", trip.guides, "--json"))["totals"]
    return int(totals["found"]) + int(totals["outside"])


def test_a_route_for_one_folder(trip: Trip) -> None:
    trip.new.write_text(OLD.replace("loft", "shed") + '[[volume]]\nanchor = "D:"\nmount = "big"\n')
    (trip.root / "big").mkdir()
    for step in (trip.survey, trip.pack):
        assert step().returncode == 0
    plan = trip.plan("--route", f"{LAMPS}\\2023=D:\\2023")
    said = " ".join(plan.stdout.split())
    assert plan.returncode == (0 if can_add(trip) else 3)
    assert ("Entries whose new paths their catalog cannot say: 3." in said) != can_add(trip)
    if can_add(trip):
        assert trip.arrived().returncode == 0
        return
    assert "may-add" in said and f"--route '{LAMPS}=" in said
    assert trip.unpack().returncode == 3
    assert trip.plan("--leave-entries").returncode == 0
    assert trip.arrived().returncode == 1
    assert document(trip.check("--json"))["totals"]["missing"] == 3
    assert trip.undo().returncode == 0
    plan_file = trip.crate / "moves/shed/plan.toml"
    plan_file.write_text(
        plan_file.read_text().replace("leave-entries = true\n", "").replace("D:\\2023", "D:\\All\\2023")
    )
    assert trip.plan().returncode == 3
    assert trip.plan("--route", f"{LAMPS}=D:\\All").returncode == 0
    assert trip.arrived().returncode == 0


def test_a_folder_that_is_moved_with_its_paths(trip: Trip) -> None:
    start = picture(trip.root / "loft")
    route = f"{LAMPS}\\2023=C:\\Archive\\2023"
    told = trip.run("relink", *at(trip), "--rehome", route, "--dry-run")
    assert told.returncode == (0 if can_add(trip) else 3)
    assert picture(trip.root / "loft") == start
    done = trip.run("relink", *at(trip), "--rehome", route, "--yes")
    assert done.returncode == (0 if can_add(trip) else 3), done.stdout
    if can_add(trip):
        assert found(trip) == 6
    else:
        assert "may-add" in done.stdout + done.stderr
        assert picture(trip.root / "loft") == start


def test_a_folder_that_somebody_moved_is_found(trip: Trip) -> None:
    (trip.root / "loft/Archive").mkdir()
    (trip.home / "Music/Lamps/2023").rename(trip.root / "loft/Archive/2023")
    start = picture(trip.root / "loft")
    looked = trip.run("relink", *at(trip), "--look-in", "C:\\Archive", "--yes")
    if can_add(trip):
        assert looked.returncode == 0
        assert found(trip) == 6
    else:
        assert looked.returncode in (1, 3)
        assert "may-add" in looked.stdout
        assert picture(trip.root / "loft") == start
