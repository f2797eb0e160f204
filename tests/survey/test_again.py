"""A survey is taken again into its crate, with better guides, as long as nothing is packed."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import Zesty
from support.moves import picture
from support.trip import SQLITE, Trip, document


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE.replace('table = "sound"', 'table = "sounds"'))
    trip.guide(SQLITE.replace("scenes.db", "other.db"), "other")
    text = (
        (trip.guides / "other.toml").read_text().replace('"lamps"', '"other"').replace("{music}/Lamps", "{music}/Other")
    )
    (trip.guides / "other.toml").write_text(text)
    trip.database([trip.sound("owl.wav")])
    (trip.home / "Notes").mkdir()
    (trip.home / "Notes/plan.txt").write_text("notes")
    assert trip.survey("--also", "C:\\Users\\Odile\\Notes").returncode == 1
    return trip


def again(trip: Trip, *more: str | Path) -> int:
    return trip.run("survey", trip.crate, "--from", trip.old, "--guides", trip.guides, "--again", *more).returncode


def test_better_guides_and_the_folders_that_were_added_before(trip: Trip) -> None:
    trip.guide(SQLITE)
    (trip.guides / "other.toml").unlink()
    refused = trip.survey()
    assert refused.returncode == 3 and "add --again" in refused.stderr
    assert again(trip) == 0
    report = document(trip.survey_again("--json"))
    assert report["totals"]["found"] == 1
    assert "also" in {each["guide"] for each in report["holdings"]}
    assert "other" not in {each.stem for each in (trip.crate / "zesty/guides").iterdir()}
    assert trip.pack().returncode == 0
    assert trip.arrived().returncode == 0


def test_a_survey_that_fails_leaves_the_earlier_one(trip: Trip) -> None:
    before = picture(trip.crate)
    (trip.guides / "lamps.toml").write_text("[guide]")
    assert again(trip) == 3
    assert picture(trip.crate) == before


def test_not_once_something_is_packed(trip: Trip) -> None:
    assert trip.pack().returncode in (0, 1)
    told = trip.run("survey", trip.crate, "--from", trip.old, "--guides", trip.guides, "--again")
    assert told.returncode == 3
    assert "packed into" in told.stderr
    assert trip.run("survey", trip.crate, "--again").returncode == 3  # no guide was corrected
    assert trip.run("survey", trip.root / "none", "--from", trip.old, "--again").returncode == 3
