"""Two computers in regular use: only what the other lacks, or has older, is carried; and both catalogs become one."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from conftest import Zesty
from merge.test_merging import CARRIED, GUIDE, THERE, fill, rows
from support.trip import Trip, document


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    """Both computers have the owl as it is, and the mill in two states; the old one has a new sound."""
    trip = Trip(tmp_path, zesty)
    trip.guide(GUIDE)
    library = trip.new_home / "Music/Lamps"
    library.mkdir(parents=True)
    for name, content, days in (("owl.wav", b"owl", 0), ("mill.wav", b"mill", 1)):
        for number, folder in enumerate((trip.home / "Music/Lamps", library)):
            (folder / name).write_bytes(content)
            os.utime(folder / name, (1_700_000_000 - number * days * 86_400,) * 2)
    trip.sound("kiln.wav")
    sounds = [("owl.wav", 3, ""), ("mill.wav", 1, "")]
    fill(trip.home / "AppData/Roaming/Lamps/scenes.db", CARRIED, [*sounds, ("kiln.wav", 5, "")], {})
    fill(trip.new_database, THERE, sounds, {})
    return trip


@pytest.mark.parametrize("by", ["sheet", "crate"])
def test_only_what_is_lacking_is_carried(trip: Trip, by: str) -> None:
    other: Path = trip.new
    if by == "crate":
        other = trip.root / "of the other"
        assert trip.run("survey", other, "--from", trip.new, "--guides", trip.guides).returncode == 0
    assert trip.survey().returncode == 0
    packed = trip.pack("--lacking-on", other)
    assert packed.returncode == 0, packed.stderr
    assert "the other computer has it as it is" in packed.stdout
    carried = sorted(path.name for path in (trip.crate / "data").rglob("*") if path.is_file())
    assert carried == ["kiln.wav", "mill.wav", "scenes.db"]
    done = trip.run("merge", trip.crate, "--to", trip.new, "--yes")
    assert done.returncode == 0, done.stdout
    assert rows(trip.new_database, "SELECT path FROM sound ORDER BY id") == [
        (f"{THERE}{name}.wav",) for name in ("owl", "mill", "kiln")
    ]
    assert trip.check().returncode == 0


def test_routes_and_decisions_hold_the_other_way_too(trip: Trip) -> None:
    """What was sent to another folder on the way out comes back from there, and catalogs are merged again."""
    folder, elsewhere = "C:\\Users\\Odile\\Music\\Lamps", "/Users/odile/Desktop/Lamps"
    (trip.new_home / "Desktop").mkdir()
    assert trip.survey().returncode == trip.pack().returncode == 0
    assert trip.plan("--route", f"{folder}={elsewhere}", "--decide", "merge").returncode == 0
    assert trip.unpack().returncode == trip.relink().returncode == 0
    back = trip.root / "back"
    surveyed = trip.run("survey", back, "--from", trip.new, "--guides", trip.guides)
    assert surveyed.returncode in (0, 1)
    assert trip.run("pack", back, "--lacking-on", trip.old, "--outside").returncode == 0
    planned = trip.run("plan", back, "--to", trip.old, "--json")
    told = document(planned)
    (route,) = [each["route"] for each in told["routes"] if each["route"]["manual"]]
    assert (route["old"], route["new"]) == (elsewhere, folder)
    assert route["why"].startswith("back, as in the move of 20")
    (catalog,) = [each for each in told["conflicts"] if each["new"].endswith("scenes.db")]
    assert catalog["outcome"] == "merge"
