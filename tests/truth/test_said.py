"""Things that were said and not looked at."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import SQLITE, Trip, document

PROGRAM = """
[program]
processes = ["lamps.exe"]
"""


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE + PROGRAM)
    trip.database(trip.sounds(2))
    return trip


def test_of_a_program_on_a_mounted_disk_nobody_knows_whether_it_is_closed(trip: Trip) -> None:
    survey = trip.survey()
    assert "closed" not in survey.stdout
    assert document(trip.survey_again("--json"))["programs"][0]["running"] is None
    trip.pack()
    plan = trip.plan()
    assert "closed" not in plan.stdout, plan.stdout


def test_a_sheet_may_say_that_a_program_is_closed(trip: Trip) -> None:
    trip.old.write_text(trip.old.read_text() + "[programs.lamps]\nrunning = false\n")
    assert "Lamps, closed" in " ".join(trip.survey().stdout.split())


def test_a_place_that_nothing_uses_is_named(trip: Trip) -> None:
    trip.old.write_text(trip.old.read_text() + "[places]\nmusik = 'C:\\Klang'\nmusic = '{home}\\Music'\n")
    survey = trip.survey()
    assert survey.returncode == 1
    assert "musik" in survey.stdout
    assert "that nothing uses: musik." in " ".join(survey.stdout.split())
