"""A drive that is found after everything was placed and relinked: the move goes on, and nothing is undone for it."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from conftest import Zesty
from support.moves import picture
from support.trip import JSON, LINES, SQLITE, XML, Trip, document

DRIVE = '[[volume]]\nanchor = "{}"\nlabel = "{}"\n'
LATE = "K:\\Storms\\gale.wav"


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.old.write_text(trip.old.read_text() + DRIVE.format("K:", "Storms"))
    return trip


def find_drive(trip: Trip, anchor: str) -> None:
    """Somebody finds the drive and connects it to the new computer."""
    (trip.root / "storms/Storms").mkdir(parents=True)
    (trip.root / "storms/Storms/gale.wav").write_bytes(b"gale")
    trip.new.write_text(trip.new.read_text() + DRIVE.format(anchor, "Storms") + 'mount = "storms"\n')


def wrote(trip: Trip, guide: str, lines: list[str]) -> Path:
    """A catalog in a text format."""
    at = trip.home / "AppData/Roaming/Lamps/scenes"
    name, text = {
        XML: ("xml", "<s>{}</s>".format("".join(f'<sound path="{each}"/>' for each in lines))),
        JSON: ("json", json.dumps({"sounds": [{"path": each} for each in lines]})),
        LINES: ("txt", "".join(f"sound={each}\n" for each in lines)),
    }[guide]
    at.with_suffix(f".{name}").write_text(text)
    return trip.new_database.with_suffix(f".{name}")


@pytest.mark.parametrize("guide", [SQLITE, XML, JSON, LINES])
def test_relinking_goes_on_with_what_is_open(trip: Trip, guide: str) -> None:
    trip.guide(guide)
    paths = [*trip.sounds(2), LATE]
    at = trip.new_database if guide is SQLITE else wrote(trip, guide, paths)
    if guide is SQLITE:
        trip.database(paths)
    start = picture(trip.root / "shed")
    assert trip.moved().returncode == 0
    find_drive(trip, "/Volumes/Storms 1")
    assert [each["outcome"] for each in document(trip.relink("--json"))["outcomes"]] == ["proven"]
    assert trip.relink().returncode in (0, 1)  # by the plan that was unpacked, which knows of no drive
    assert trip.arrived().returncode == 0
    content = at.read_bytes()
    assert b"/Volumes/Storms 1/Storms/gale.wav" in content
    assert b"/Users/odile/Music/Lamps/1.wav" in content
    again = document(trip.relink("--json"))
    assert [each["cells"] for each in again["catalogs"]] == [0]
    assert trip.undo().returncode == 0
    assert picture(trip.root / "shed") == start


def test_a_path_that_was_relinked_is_not_read_again_by_the_old_computers_rules(trip: Trip) -> None:
    """The old drive K: is V: on the new computer, and what was on C: is on the new computer's K:."""
    trip.new.write_text(trip.old.read_text().partition('[[volume]]\nanchor = "K:')[0].replace("loft", "shed"))
    trip.new.write_text(trip.new.read_text() + '[[volume]]\nanchor = "K:"\nmount = "big"\nlabel = "Big"\n')
    (trip.root / "big").mkdir()
    trip.guide(SQLITE)
    trip.database([*trip.sounds(2), LATE])
    for step in (trip.survey, trip.pack):
        assert step().returncode in (0, 1)
    assert trip.plan("--route", "C:\\Users\\Odile\\Music\\Lamps=K:\\Storms").returncode == 0
    assert trip.arrived().returncode == 0
    at = trip.new_home / "AppData/Roaming/Lamps/scenes.db"
    find_drive(trip, "V:")
    assert trip.arrived().returncode == 0
    query = trip.run("survey", trip.root / "again", "--from", trip.new, "--guides", trip.guides, "--json")
    assert document(query)["totals"]["found"] == 3
    trip.execute(at, "INSERT INTO sound (path) VALUES ('K:\\Storms\\new.wav')")
    assert [each["cells"] for each in document(trip.relink("--json"))["catalogs"]] == [0]


def test_a_route_that_is_edited_after_relinking_counts(trip: Trip) -> None:
    trip.guide(SQLITE)
    trip.database([*trip.sounds(1), "L:\\Old\\owl.wav"])
    assert trip.moved().returncode == 0
    owl = trip.root / "shed/Owls/owl.wav"
    owl.parent.mkdir()
    owl.touch()
    assert trip.plan("--route", "L:\\Old=/Owls").returncode == 0
    assert trip.arrived().returncode == 0
    assert trip.new_paths() == ["/Users/odile/Music/Lamps/0.wav", "/Owls/owl.wav"]


SPLIT = """at = "{app-data}/Lamps/scenes.db"
syntax = "sqlite"
[[holding.entries]]
table = "sound"
key = "id"
path = [{ table = "drawer", via = "drawer", column = "path" }, { column = "name" }]
spelling = "native"
"""


def test_shared_pieces_of_what_was_relinked_stay(trip: Trip) -> None:
    trip.guide(SPLIT)
    trip.sounds(2)
    at = trip.database([], table="sound (id INTEGER PRIMARY KEY, drawer, name, path)")
    trip.execute(
        at,
        "CREATE TABLE drawer (drawer_id INTEGER PRIMARY KEY, path)",
        "INSERT INTO drawer VALUES (1, 'C:\\Users\\Odile\\Music\\Lamps'), (2, 'K:\\Storms')",
        "INSERT INTO sound (drawer, name) VALUES (1, '0.wav'), (1, '1.wav'), (2, 'gale.wav')",
    )
    assert trip.moved().returncode == 0
    find_drive(trip, "/Volumes/Storms")
    assert trip.arrived().returncode == 0
    assert trip.new_paths("SELECT path FROM drawer") == ["/Users/odile/Music/Lamps", "/Volumes/Storms/Storms"]


def test_files_that_a_new_route_leads_elsewhere_are_told(trip: Trip) -> None:
    trip.guide(SQLITE)
    trip.database(trip.sounds(2))
    start = picture(trip.root / "shed")
    assert trip.moved().returncode == 0
    plan = trip.plan("--route", "C:\\Users\\Odile\\Music\\Lamps=/Sounds")
    assert "where the routes do not lead now: 2." in " ".join(plan.stdout.split())
    assert trip.unpack().returncode == 0
    assert (trip.root / "shed/Sounds/0.wav").exists()
    assert (trip.new_home / "Music/Lamps/0.wav").exists()
    assert trip.undo().returncode == 0
    assert picture(trip.root / "shed") == start
