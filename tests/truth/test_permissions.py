"""What this user may not read or write: it is called so, and what can be done is done."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import Zesty
from support.rights import closed, held, in_one_line
from support.trip import JSON, LINES, SQLITE, XML, Trip

_TEXTS = {
    XML: ("xml", '<s><sound path="{}"/></s>'),
    JSON: ("json", '{{"sounds": [{{"path": "{}"}}]}}'),
    LINES: ("txt", "sound={}\n"),
}


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.database(trip.sounds(2))
    return trip


def test_a_crate_that_may_not_be_written_is_not_called_read_only(trip: Trip) -> None:
    assert trip.survey().returncode == 0
    with closed(trip.crate, *trip.crate.rglob("*")):
        refused = held("pack", trip.crate)
    assert refused.returncode == 3
    expected = "survey.db failed: Permission denied. Give this user permission for it"
    assert expected in in_one_line(refused.stderr)


@pytest.mark.parametrize("command", ["todo", "pack", "survey"])
def test_a_survey_that_may_not_be_read_is_not_called_none(trip: Trip, command: str) -> None:
    assert trip.survey().returncode == 0
    with closed(trip.crate / "zesty/survey.db", reading=False):
        refused = held(command, trip.crate)
    assert refused.returncode == 3
    expected = "survey.db failed: Permission denied. Give this user permission for it"
    assert expected in in_one_line(refused.stderr)


@pytest.mark.parametrize("guide", [SQLITE, XML, JSON, LINES], ids=["sqlite", "xml", "json", "lines"])
def test_a_catalog_that_may_not_be_read_is_named_and_stops_no_survey(trip: Trip, guide: str) -> None:
    trip.guide(guide)
    at = trip.home / "AppData/Roaming/Lamps/scenes.db"
    if guide is not SQLITE:
        ending, text = _TEXTS[guide]
        at = at.with_suffix(f".{ending}")
        at.write_text(text.format("nothing"))
    with closed(at, reading=False):
        done = held("survey", trip.crate, "--from", trip.old, "--guides", trip.guides)
    assert done.returncode in (0, 1), done.stderr
    assert "Permission denied" in done.stdout
    assert at.name in done.stdout
    assert "that this user may read it" in done.stdout
    assert str(trip.root) not in done.stdout.partition("Permission denied")[0][-200:], "it is named by its own place"


def test_relinking_stops_at_it_and_goes_on_later(trip: Trip) -> None:
    for step in (trip.survey, trip.pack, trip.plan, trip.unpack):
        assert step().returncode == 0
    before = trip.new_database.read_bytes()
    with closed(trip.new_database, reading=False):
        stopped = held("relink", trip.crate, "--to", trip.new, "--yes")
    assert stopped.returncode == 4
    assert "Permission denied. Give this user permission for it" in in_one_line(stopped.stderr)
    assert trip.new_database.read_bytes() == before
    assert trip.relink().returncode == 0
    assert trip.check().returncode == 0


def test_a_check_names_it_and_goes_on(trip: Trip) -> None:
    assert trip.moved().returncode == 0
    with closed(trip.new_database, reading=False):
        done = held("check", trip.crate, "--to", trip.new)
    assert done.returncode == 1, done.stderr
    assert "Permission denied" in done.stdout
