"""A packed crate is judged anew by a corrected guide: without the old computer, and without packing twice."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from conftest import Zesty
from support.outside import FaultyDisk, Killed, outside
from support.trip import SQLITE, Trip, document
from zesty_crate.crate import judge_anew, open_finished
from zesty_crate.guides import load_guides
from zesty_crate.machines import Disk

WRONG = SQLITE.replace('key = "id"', 'key = "id"\nwhere = "stars > 5"')
RIGHT = SQLITE.replace('key = "id"', 'key = "id"\nannotations = ["stars"]\nremote-like = "^stream:"')
COLUMNS = "sound (id INTEGER PRIMARY KEY, path, stars DEFAULT 3)"


def packed(tmp_path: Path, zesty: Zesty) -> Trip:
    """A crate that was packed with a guide that finds nothing in the catalog; the old computer is gone."""
    trip = Trip(tmp_path, zesty)
    trip.guide(WRONG)
    paths = [*trip.sounds(3), "stream:dawn", "C:\\Users\\Odile\\Music\\Lamps\\gone.wav", "C:\\Elsewhere\\owl.wav"]
    trip.database(paths, table=COLUMNS)
    assert "nothing selected" in trip.survey().stdout
    assert trip.pack().returncode == 0
    shutil.rmtree(trip.root / "loft")
    trip.guide(RIGHT)
    return trip


def again(trip: Trip) -> dict[str, int]:
    said = trip.run("survey", trip.crate, "--again", "--guides", trip.guides, "--json")
    assert said.returncode == 1, said.stderr + said.stdout
    totals: dict[str, int] = document(said)["totals"]
    return {state: number for state, number in totals.items() if number}


def test_catalogs_are_read_from_the_crate_and_judged_by_what_the_survey_saw(tmp_path: Path, zesty: Zesty) -> None:
    trip = packed(tmp_path, zesty)
    assert again(trip) == {"entries": 6, "found": 3, "remote": 1, "missing-before": 1, "unclear": 1}
    shown = trip.survey_again().stdout
    assert "it was not looked at when the survey was taken" in shown
    assert trip.run("pack", trip.crate, "--verify-only").returncode == 0
    checked = trip.arrived()
    assert trip.new_paths()[:3] == [f"/Users/odile/Music/Lamps/{each}.wav" for each in range(3)]
    assert "annotations are the same as before" in checked.stdout
    assert "1 missing-before" in checked.stdout


def test_a_guide_that_would_have_other_files_carried_is_refused(tmp_path: Path, zesty: Zesty) -> None:
    trip = packed(tmp_path, zesty)
    before = open_finished(trip.crate, Disk()).guides(Disk())
    trip.guide(RIGHT.replace("scenes.db", "other.db"))
    said = trip.run("survey", trip.crate, "--again", "--guides", trip.guides)
    assert (said.returncode, "which files are carried (the holding scenes)" in said.stderr) == (3, True), said.stderr
    assert open_finished(trip.crate, Disk()).guides(Disk()) == before
    trip.guide(WRONG)
    said = trip.run("survey", trip.crate, "--again", "--guides", trip.guides)
    assert "none of its guides has another text" in said.stderr


def test_killed_at_any_change_it_goes_on(tmp_path: Path, zesty: Zesty) -> None:
    trip = packed(tmp_path, zesty)
    guides = load_guides([trip.guides], Disk())
    shutil.copytree(trip.crate, tmp_path / "kept")
    counting = FaultyDisk()
    unbroken, _ = judge_anew(trip.crate, guides, (), outside(counting), lambda _: None)
    for at in range(1, counting.changes + 1):
        shutil.rmtree(trip.crate)
        shutil.copytree(tmp_path / "kept", trip.crate)
        with pytest.raises(Killed):
            judge_anew(trip.crate, guides, (), outside(FaultyDisk(at, torn=at % 2 == 0)), lambda _: None)
        report, _ = judge_anew(trip.crate, guides, (), outside(), lambda _: None)
        assert report.totals == unbroken.totals
        assert {each.text for each in guides} <= {
            each.text for each in open_finished(trip.crate, Disk()).guides(Disk())
        }
        assert not (trip.crate / "zesty/anew").exists()
