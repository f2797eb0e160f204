"""A carrier that is full or read-only after packing: the move goes on elsewhere, and undo needs no room there."""

from __future__ import annotations

import contextlib
import os
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

from conftest import Zesty
from support.carriers import a_carrier, mounted
from support.moves import picture
from support.trip import SQLITE, Trip


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Iterator[Trip]:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.database(trip.sounds(20))
    with a_carrier(tmp_path / "carrier", size_mb=4) as carrier:
        trip.crate = carrier / "crate"
        yield trip


def filled(trip: Trip, how: str, *, but_for: int = 0) -> None:
    """Have the carrier take nothing any more, but for some bytes."""
    carrier = trip.crate.parent
    if how == "read-only":
        assert mounted("-o", "remount,ro", carrier)
        return
    with contextlib.suppress(OSError), (carrier / "other things").open("wb", buffering=0) as stream:
        while True:
            stream.write(bytes(512))
    others = carrier / "other things"
    os.truncate(others, others.stat().st_size - but_for)


def emptied(trip: Trip, how: str) -> None:
    """Have it take everything again."""
    if how == "read-only":
        assert mounted("-o", "remount,rw", trip.crate.parent)
    else:
        (trip.crate.parent / "other things").unlink()


@pytest.mark.parametrize("how", ["full", "read-only"])
def test_the_move_goes_on_with_its_records_elsewhere(trip: Trip, how: str) -> None:
    start = picture(trip.root / "shed")
    for step in (trip.survey, trip.pack):
        assert step().returncode == 0
    filled(trip, how)
    assert trip.run("survey", trip.crate).returncode == 0
    assert trip.run("todo", trip.crate, "--to", trip.new).returncode == 0
    for step in (trip.plan, trip.unpack):
        refused = step()
        assert refused.returncode in (3, 4), refused.stderr  # without a plan there is nothing to unpack
        assert "Traceback" not in refused.stderr
    assert "--work DIR" in trip.plan().stderr
    assert re.search(r"records need up to \d[\d.]* [kM]B", trip.plan().stderr)
    work = ("--work", trip.root / "work")
    for step in (trip.plan, trip.unpack, trip.relink, trip.check):
        done = step(*work)
        assert done.returncode == 0, done.stdout + done.stderr
    assert trip.undo(*work).returncode == 0
    assert picture(trip.root / "shed") == start


@pytest.mark.parametrize("how", ["full", "read-only"])
def test_undo_needs_no_room_on_the_carrier(trip: Trip, how: str) -> None:
    start = picture(trip.root / "shed")
    assert trip.moved().returncode == 0
    filled(trip, how)
    check = trip.check()
    assert check.returncode == 4, check.stdout
    assert "--work DIR" in check.stderr
    undone = trip.undo()
    assert undone.returncode == 0, undone.stderr
    assert "its journal still lists these steps" in " ".join(undone.stdout.split())
    assert picture(trip.root / "shed") == start


def there(trip: Trip) -> list[Path]:
    """What is on the carrier, but for what fills it, and locks."""
    return sorted(each for each in trip.crate.parent.rglob("*") if each.name not in ("lock", "other things"))


@pytest.mark.parametrize("how", ["full", "read-only"])
def test_what_a_carrier_did_not_take_is_done_once_it_does(trip: Trip, how: str) -> None:
    for step, *more in ((trip.survey,), (trip.survey, "--again"), (trip.pack,)):
        before = there(trip)
        filled(trip, how)
        stopped = step(*more)
        assert (stopped.returncode, stopped.stderr.count("failed: ")) == (4, 1), stopped.stdout + stopped.stderr
        assert there(trip) == before
        emptied(trip, how)
        assert step(*more).returncode == 0
    assert trip.arrived().returncode == 0


def test_a_carrier_that_has_room_for_a_plan_alone_stops_the_first_change(trip: Trip) -> None:
    for step in (trip.survey, trip.pack, trip.plan):
        assert step().returncode == 0
    start = picture(trip.root / "shed")
    filled(trip, "full", but_for=1 << 16)
    stopped = trip.unpack()
    assert (stopped.returncode, "before.db.part failed" in stopped.stderr) == (4, True), stopped.stdout + stopped.stderr
    assert picture(trip.root / "shed") == start
    emptied(trip, "full")
    assert trip.arrived().returncode == 0
