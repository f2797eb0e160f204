"""A disk that was taken for another one is noticed by the files on it, before anything is packed."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import HEAD, SQLITE, Trip, document


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(HEAD + SQLITE)
    trip.sound("here.wav")
    spools = tmp_path / "spools/Takes"
    spools.mkdir(parents=True)
    for number in range(20):
        (spools / f"{number}.wav").write_bytes(b"%d" % number)
    return trip


def with_letter(trip: Trip, letter: str) -> None:
    sheet = trip.old.read_text().partition('[[volume]]\nanchor = "D')[0].partition('[[volume]]\nanchor = "E')[0]
    trip.old.write_text(f'{sheet}[[volume]]\nanchor = "{letter}:"\nmount = "spools"\n')


def test_what_is_expected_on_another_letter_is_proposed_and_then_found(trip: Trip) -> None:
    trip.database([f"E:\\Takes\\{number}.wav" for number in range(22)])
    with_letter(trip, "D")
    surveyed = trip.survey()
    assert surveyed.returncode == 1
    told = " ".join(surveyed.stdout.split())
    assert (
        "22 catalog entries are on E:, where nothing is connected; the disk taken for D: has 20 of their files" in told
    )
    assert "zesty pack" not in told
    assert "--again" in told
    (found,) = document(trip.survey("--again", "--json"))["lookalikes"]
    assert (found["volume"], found["other"], found["entries"], found["found"]) == ("E:", "D:", 22, 20)
    with_letter(trip, "E")
    surveyed = trip.survey("--again")
    assert "Disks that seem" not in surveyed.stdout
    assert "zesty pack" in surveyed.stdout


def test_two_disks_that_were_taken_for_each_other(trip: Trip) -> None:
    """Both letters are connected; what is expected on one is on the other."""
    trip.database([f"D:\\Takes\\{number}.wav" for number in range(20)])
    (trip.root / "empty").mkdir()
    with_letter(trip, "E")
    trip.old.write_text(f'{trip.old.read_text()}[[volume]]\nanchor = "D:"\nmount = "empty"\n')
    (found,) = document(trip.survey("--json"))["lookalikes"]
    assert (found["volume"], found["is-here"], found["other"], found["found"]) == ("D:", True, "E:", 20)


@pytest.mark.parametrize("there", [2, 9])
def test_chance_is_not_said_to_be_a_disk(trip: Trip, there: int) -> None:
    names = [f"{number}.wav" if number < there else f"none {number}.wav" for number in range(20)]
    trip.database([f"E:\\Takes\\{name}" for name in names])
    with_letter(trip, "D")
    assert document(trip.survey("--json"))["lookalikes"] == []
