"""Crates in parts and second copies, as a technician with a handful of sticks meets them."""

from __future__ import annotations

import random
import re
import shutil
from pathlib import Path

import bagit
import pytest

from conftest import Zesty
from support.carriers import a_carrier
from support.trip import SQLITE, Trip, document

SIZE = 300_000
PIECES = SQLITE.replace('[{ at = "path" }]', '[{ at = "at", via = "folder_id", table = "folder" }, { at = "name" }]')


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    """Ten sounds of 300 kB."""
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    paths = trip.sounds(10)
    for number in range(len(paths)):
        (trip.home / f"Music/Lamps/{number}.wav").write_bytes(random.Random(number).randbytes(SIZE))
    trip.database(paths)
    return trip


def in_parts(trip: Trip, size: str = "2MB") -> list[Path]:
    """Pack into parts of a size; where they are."""
    assert trip.survey().returncode == 0
    packed = trip.pack("--part-size", size, "--json")
    assert packed.returncode == 0, packed.stderr
    return [Path(part["at"]) for part in document(packed)["parts"]]


def test_a_second_copy_needs_a_folder_that_is_there(trip: Trip) -> None:
    assert trip.survey().returncode == 0
    refused = trip.pack("--second-copy", trip.root / "stick")
    assert refused.returncode == 3, refused.stdout
    said = " ".join(refused.stderr.split())
    assert f"The folder for the second copy does not exist: {trip.root / 'stick'}" in said
    assert "still" not in said
    assert not (trip.crate / "data").exists()


def test_two_parts_on_one_carrier_are_both_found(trip: Trip) -> None:
    _, *others = in_parts(trip)
    assert len(others) > 1
    stick = trip.root / "stick"
    for each in others:
        shutil.move(each, stick / each.name)
    assert trip.plan().returncode == 0
    for named in ([stick], [stick / each.name for each in others]):
        parts = [word for each in named for word in ("--part", each)]
        assert trip.unpack("--dry-run", *parts).returncode == 0
    assert trip.unpack("--part", stick).returncode == 0
    assert trip.relink().returncode == 0
    assert trip.check().returncode == 0


def test_a_plan_says_which_parts_are_not_here(trip: Trip) -> None:
    _, *others = in_parts(trip)
    for each in others:
        shutil.move(each, trip.root / "drawer" / each.name)
    planned = trip.plan()
    assert planned.returncode == 0
    for number, each in enumerate(others, start=2):
        assert f"Part {number} ({each.name}) is not here" in planned.stdout
    assert "can begin with what is here" in planned.stdout
    assert len(document(trip.plan("--json"))["absent-parts"]) == len(others)


def test_a_small_stick_gets_only_what_its_part_needs(trip: Trip) -> None:
    for number in range(1500):  # so that the survey is large beside a part
        (trip.home / f"Music/Lamps/cue {number}.txt").write_text(f"{number}")
    first, *others = in_parts(trip, "1500kB")
    survey = (first / "zesty/survey.db").stat().st_size
    assert survey > 750_000, survey
    assert others
    for part in others:
        assert not (part / "zesty/survey.db").exists()
        bagit.Bag(str(part)).validate()
        assert trip.run("pack", part, "--verify-only").returncode == 0
        refused = trip.run("plan", part, "--to", trip.new)
        assert refused.returncode == 3
        said = " ".join(refused.stderr.split())
        assert "has only what belongs to itself" in said
        assert "--part" in said
    damaged = next(path for path in (others[0] / "data").rglob("*") if path.is_file())
    whole = damaged.read_bytes()
    damaged.write_bytes(bytes(len(whole)))
    assert trip.run("pack", others[0], "--verify-only").returncode == 3
    damaged.write_bytes(whole)
    checked = trip.arrived()
    assert checked.returncode == 0, checked.stdout


def test_what_is_lacking_adds_up(trip: Trip) -> None:
    with a_carrier(trip.root / "stick", size_mb=2) as carrier:
        trip.crate = carrier / "crate"
        assert trip.survey().returncode == 0
        refused = trip.pack()
        assert refused.returncode == 3
        said = " ".join(refused.stderr.split())
        files, records, free, lacking = (
            int(re.search(pattern, said)[1].replace(",", ""))  # type: ignore[index]
            for pattern in (
                r"files need ([\d,]+) bytes",
                r"records about ([\d,]+)",
                r"has ([\d,]+) bytes free",
                r"([\d,]+) bytes are lacking",
            )
        )
        assert files > 10 * SIZE
        assert files + records - free == lacking


def test_a_catalog_in_pieces_that_a_plan_cannot_see_is_named(trip: Trip) -> None:
    trip.guide(PIECES)
    catalog = trip.home / "AppData/Roaming/Lamps/scenes.db"
    catalog.unlink()
    trip.execute(
        catalog,
        "CREATE TABLE folder (id INTEGER PRIMARY KEY, at)",
        "CREATE TABLE sound (id INTEGER PRIMARY KEY, folder_id, name)",
        "CREATE TABLE filler (bytes)",
        "INSERT INTO folder VALUES (1, 'C:\\Users\\Odile\\Music\\Lamps')",
        "INSERT INTO sound VALUES (1, 1, '1.wav')",
        "INSERT INTO filler VALUES (zeroblob(1500000))",
    )
    parts = in_parts(trip)
    assert [part for part in parts if list((part / "data").rglob("scenes.db~*"))], "it is cut"
    said = " ".join(trip.plan().stdout.split())
    assert "scenes.db can say the new paths of all its entries is not known yet" in said
