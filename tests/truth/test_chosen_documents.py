"""Catalogs that are in a folder of media: chosen by their folder or by their holding, they count as chosen."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import HEAD, SOUNDS, Trip, document

SWEPT = """sweep = ["*.scene"]
syntax = "xml"
[[holding.entries]]
each = "//sound"
path = [{ at = "@path" }]
"""


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(HEAD + SWEPT)
    owl, kiln = trip.sound("owl.wav"), trip.sound("kiln.wav")
    for name, path in (("Night", owl), ("Fire", kiln)):
        (trip.home / f"Music/Lamps/{name}.scene").write_text(f'<s><sound path="{path}"/></s>')
    assert trip.survey().returncode == 0
    return trip


@pytest.mark.parametrize(
    "scope",
    [
        ("--folder", f"{SOUNDS}Night.scene", "--folder", f"{SOUNDS}owl.wav"),
        ("--only", "lamps/scenes", "--folder", f"{SOUNDS}owl.wav"),
    ],
)
def test_a_chosen_catalog_is_relinked_and_counted(trip: Trip, scope: tuple[str, ...]) -> None:
    assert trip.pack(*scope).returncode == 0
    for step in (trip.plan, trip.unpack, trip.relink):
        assert step().returncode == 0
    assert (trip.new_home / "Music/Lamps/Night.scene").read_text() == (
        '<s><sound path="/Users/odile/Music/Lamps/owl.wav"/></s>'
    )
    checked = trip.check("--json")
    told = document(checked)
    assert told["totals"]["found"] == 1, checked.stdout
    assert {each["state"] for each in told["problems"]} == {"left-out"}


def test_what_was_not_chosen_is_not_missing(trip: Trip) -> None:
    assert trip.pack("--folder", f"{SOUNDS}Night.scene", "--folder", f"{SOUNDS}owl.wav").returncode == 0
    for step in (trip.plan, trip.unpack, trip.relink, trip.check):
        done = step()
        assert done.returncode == 0, done.stdout
