"""Two of us at once: the second one says who is at work, and nothing is left behind."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from conftest import Zesty
from support.moves import picture
from support.trip import SQLITE, Trip

pytestmark = pytest.mark.skipif(os.name == "nt", reason="processes are stopped as on other systems")


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.database(trip.sounds(3))
    return trip


def stopped(trip: Trip, begun: Path, step: str, *arguments: str | Path) -> subprocess.Popen[bytes]:
    """A command that was stopped in the middle of its work, once it has made ``begun``."""
    zesty = Path(sys.executable).with_name("zesty")
    running = subprocess.Popen(
        [zesty, step, trip.crate, *arguments], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )
    for _ in range(20_000):
        if begun.exists():
            running.send_signal(signal.SIGSTOP)
            if [*trip.crate.rglob("lock.json")]:
                return running
            running.send_signal(signal.SIGCONT)
        assert running.poll() is None, "it ended before it could be stopped"
        time.sleep(0.0005)
    raise AssertionError("it never began")


def test_what_somebody_else_is_at_is_refused_and_taken_over_after_a_death(trip: Trip) -> None:
    for number in range(1_500):
        (trip.home / f"Music/Lamps/x{number}").touch()
    start = picture(trip.root / "shed")
    assert trip.survey().returncode == 0
    packing = stopped(trip, trip.crate / "data", "pack")
    refused = trip.pack()
    assert refused.returncode == 3
    assert f"Another zesty is at work on {trip.crate}: zesty pack, process {packing.pid}" in refused.stderr
    packing.kill()
    packing.wait()
    assert trip.pack().returncode == 0
    assert trip.plan().returncode == 0
    unpacking = stopped(trip, trip.new_home / "Music", "unpack", "--to", trip.new, "--yes")
    refused = trip.unpack()
    assert refused.returncode == 3
    assert f"zesty unpack, process {unpacking.pid}" in refused.stderr
    assert trip.undo().returncode == 3  # whether there is anything to undo yet, or not
    assert trip.run("todo", trip.crate).returncode == 0  # what only reads works beside it
    unpacking.kill()
    unpacking.wait()
    assert trip.undo().returncode == 0
    assert picture(trip.root / "shed") == start
    assert [*trip.root.rglob("lock*")] == []


def test_two_crates_are_not_unpacked_on_one_computer_at_once(trip: Trip, tmp_path: Path) -> None:
    for number in range(1_500):
        (trip.home / f"Music/Lamps/x{number}").touch()
    for step in (trip.survey, trip.pack, trip.plan):
        assert step().returncode == 0
    other = tmp_path / "another crate"
    trip.run("survey", other, "--from", trip.old, "--guides", trip.guides)
    trip.run("pack", other)
    trip.run("plan", other, "--to", trip.new)
    unpacking = stopped(trip, trip.new_home / "Music", "unpack", "--to", trip.new, "--yes")
    refused = trip.run("unpack", other, "--to", trip.new, "--yes")
    unpacking.kill()
    unpacking.wait()
    assert refused.returncode == 3
    assert "Another zesty is at work on shed: zesty unpack" in refused.stderr
