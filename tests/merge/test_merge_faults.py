"""What may go wrong while two catalogs are merged: a full disk, one that is open, rows not yet in its main file."""

from __future__ import annotations

import sqlite3
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

from conftest import Zesty
from merge.test_merging import CARRIED, GUIDE, THERE, fill, rows
from support.carriers import a_carrier
from support.moves import picture
from support.trip import Trip

PATHS = "SELECT path FROM sound ORDER BY id"


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Iterator[Trip]:
    """A new computer with little room."""
    with a_carrier(tmp_path / "shed", size_mb=4):
        trip = Trip(tmp_path, zesty)
        trip.guide(GUIDE)
        trip.sound("kiln.wav")
        fill(trip.home / "AppData/Roaming/Lamps/scenes.db", CARRIED, [("kiln.wav", 5, "hot" * 100_000)], {})
        fill(trip.new_database, THERE, [("mill.wav", 2, "turns")], {})
        yield trip


def unpacked(trip: Trip) -> None:
    for done in (trip.survey(), trip.pack(), trip.plan("--decide", "merge"), trip.unpack()):
        assert done.returncode == 0, done.stdout + done.stderr


def test_a_full_disk_stops_it_and_it_is_gone_on_with(trip: Trip) -> None:
    unpacked(trip)
    before, filler = trip.new_database.read_bytes(), trip.root / "shed/filler"
    free = 4 * 2**20 - sum(each.stat().st_size for each in (trip.root / "shed").rglob("*") if each.is_file())
    filler.write_bytes(bytes(free - 200_000))
    stopped = trip.relink()
    assert stopped.returncode == 4, stopped.stdout + stopped.stderr
    assert "Traceback" not in stopped.stderr
    assert trip.new_database.read_bytes() == before
    filler.unlink()
    assert trip.relink().returncode == 0
    assert rows(trip.new_database, PATHS) == [(f"{THERE}mill.wav",), (f"{THERE}kiln.wav",)]
    assert trip.check().returncode in (0, 1)  # the mill's file was never there


def test_a_catalog_that_is_open_waits(trip: Trip) -> None:
    unpacked(trip)
    before = picture(trip.root / "shed")
    hold = "import sys, time; kept = open(sys.argv[1], 'r+b'); print('open', flush=True); time.sleep(60)"
    program = subprocess.Popen([sys.executable, "-c", hold, trip.new_database], stdout=subprocess.PIPE, text=True)
    assert program.stdout is not None
    program.stdout.readline()
    try:
        refused = trip.relink()
    finally:
        program.kill()
        program.wait()
    assert refused.returncode in (1, 3), refused.stdout
    assert "is open in" in " ".join((refused.stdout + refused.stderr).split())
    assert picture(trip.root / "shed") == before
    assert trip.relink().returncode == 0
    assert len(rows(trip.new_database, PATHS)) == 2


def test_rows_that_are_in_its_journal_alone_are_kept(trip: Trip) -> None:
    """A program that died leaves committed rows in the write-ahead log beside its catalog."""
    write = """import os, sqlite3, sys
database = sqlite3.connect(sys.argv[1])
database.execute("PRAGMA journal_mode = wal")
database.execute("INSERT INTO sound (path, stars) VALUES (?, 1)", (sys.argv[2],))
database.commit()
os._exit(0)"""
    subprocess.run([sys.executable, "-c", write, trip.new_database, f"{THERE}late.wav"], check=True)
    assert trip.new_database.with_name("scenes.db-wal").stat().st_size
    trip.new_database.with_name("scenes.db-shm").unlink()
    start = picture(trip.root / "shed")
    unpacked(trip)
    assert trip.relink().returncode == 0
    with sqlite3.connect(trip.new_database) as database:
        found = database.execute(PATHS).fetchall()
    database.close()
    assert found == [(f"{THERE}{name}.wav",) for name in ("mill", "late", "kiln")]
    assert trip.undo().returncode == 0
    assert picture(trip.root / "shed") == start  # but for the shared memory, which SQLite makes anew
