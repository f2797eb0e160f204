"""What could not be looked at is never called absent: not by a survey, a check, or a comparison."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from conftest import Zesty
from support.rights import closed, held, in_one_line
from support.trip import OLD, SOUNDS, SQLITE, Trip

PRESETS = """[guide]
id = "knobs"
title = "Knobs"
language = 1
[[holding]]
id = "presets"
kind = "presets"
at = "{app-data}/Knobs/Presets"
[[holding]]
id = "looks"
kind = "presets"
at = "{app-data}/Knobs/*.look"
"""
PACKS = '[[holding]]\nid = "packs"\nkind = "content-pack"\nat = "E:/Packs"\n'
LISTS = """[guide]
id = "lists"
title = "Lists"
language = 1
[[holding]]
id = "lists"
kind = "catalog"
sweep = ["*.playlist"]
syntax = "lines"
[[holding.entries]]
each = "(?P<path>.+)"
path = [{ at = "path" }]
spelling = "native"
"""


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.guide(PRESETS, "knobs")
    trip.database(trip.sounds(3))
    presets = trip.home / "AppData/Roaming/Knobs/Presets"
    presets.mkdir(parents=True)
    (presets / "Barn.knob").write_text("1")
    (presets.parent / "Dusk.look").write_text("2")
    return trip


def surveyed(trip: Trip) -> str:
    done = held("survey", trip.crate, "--from", trip.old, "--guides", trip.guides)
    assert done.returncode == 1, done.stderr
    return done.stdout


def section(said: str, title: str) -> str:
    """What stands under a title."""
    return said.partition(f"\n{title}\n")[2].partition("\n\n")[0]


def test_a_holding_in_a_folder_that_may_not_be_read_is_not_called_not_found(trip: Trip) -> None:
    knobs = trip.home / "AppData/Roaming/Knobs"
    with closed(knobs, reading=False):
        for mode in (0o444, 0):  # its names may be listed, or not even these
            knobs.chmod(mode)
            shutil.rmtree(trip.crate, ignore_errors=True)
            said = surveyed(trip)
            assert "Knobs" not in section(said, "Looked for and not found")
            told = in_one_line(section(said, "Not looked at"))
            assert "Knobs: presets" in told
            assert "Knobs: looks" in told
            assert "Permission denied" in told
    assert trip.pack().returncode == 1
    assert "that could not be looked at before the move" in in_one_line(trip.arrived().stdout)
    assert "Knobs: presets" in section(trip.survey_again().stdout, "Not looked at")
    retired = trip.retire()
    assert retired.returncode == 3
    assert "places that could not be looked at" in in_one_line(retired.stdout)
    assert "Knobs\\Presets" in retired.stdout


def test_a_holding_on_a_volume_that_is_not_connected_is_not_called_not_found(trip: Trip) -> None:
    bank = '[[volume]]\nanchor = "E:"\n[programs.knobs]\nplaces = { bank = "E:\\\\Bank" }\n'
    trip.old.write_text(trip.old.read_text() + bank)
    places = "[places]\nbank = { windows = '{documents}', macos = '{documents}' }\n"
    trip.guide(PRESETS.replace("{app-data}/Knobs/Presets", "{bank}/Presets") + places, "knobs")
    said = trip.survey().stdout
    assert "Knobs: presets" not in section(said, "Looked for and not found")
    assert "Knobs: presets" in section(said, "Not looked at")
    assert "E: is not connected" in section(said, "Not looked at")


def test_a_catalog_in_a_folder_that_may_not_be_read_is_not_said_to_be_elsewhere(trip: Trip) -> None:
    with closed(trip.home / "AppData/Roaming/Lamps", reading=False):
        said = surveyed(trip)
    assert "scenes.db" in said
    assert "Permission denied" in in_one_line(said.partition("not read")[2])
    assert "Correct its place" not in said


def test_what_a_check_cannot_look_at_is_unclear_and_not_missing(trip: Trip) -> None:
    assert trip.moved().returncode == 0
    programs = trip.new_home / "Library/Application Support"
    for places in ((trip.new_database.parent, programs / "Knobs"), (trip.new_database,)):
        with closed(*places, reading=False):
            done = held("check", trip.crate, "--to", trip.new)
        assert done.returncode == 1, done.stderr
        first = done.stdout.partition("\n")[0]
        assert "3 catalog entries" in first
        assert "3 unclear" in first
        assert "missing" not in done.stdout
        assert " gone" not in done.stdout.replace("0 gone", "")
        assert "there is no file" not in done.stdout  # a spot check, for one
        assert "Permission denied" in done.stdout


def test_a_check_of_one_computer_tells_of_folders_that_it_could_not_look_into(trip: Trip) -> None:
    trip.guide(LISTS, "lists")
    lists = trip.home / "Music/Lists"
    lists.mkdir()
    (lists / "Dusk.playlist").write_text("C:\\nowhere.wav\n")
    with closed(lists, reading=False):
        done = held("check", "--at", trip.old, "--guides", trip.guides)
    assert done.returncode == 1, done.stderr
    assert "C:\\Users\\Odile\\Music\\Lists" in done.stdout
    assert "Permission denied" in done.stdout


def test_a_comparison_calls_nothing_absent_that_it_could_not_look_at(trip: Trip) -> None:
    trip.guide(LISTS, "lists")
    (trip.home / "Music/Lamps/Dusk.playlist").write_text(f"{SOUNDS}1.wav\n")
    assert trip.survey().returncode == 0
    with closed(trip.home / "Music/Lamps", trip.home / "AppData/Roaming/Lamps", reading=False):
        done = held("compare", trip.crate, "--with", trip.old)
    assert done.returncode == 1, done.stderr
    assert "Only in" not in done.stdout
    assert "only here" not in done.stdout
    told = in_one_line(section(done.stdout, "Not looked at on loft"))
    assert "C:\\Users\\Odile\\Music\\Lamps" in told
    assert "Permission denied" in told


@pytest.mark.parametrize("catalog", ["{app-data}/Lamps/scenes.db", "E:/scenes.db"])
def test_what_was_found_before_and_is_on_a_drive_that_is_away_is_neither_well_nor_missing(
    trip: Trip, catalog: str
) -> None:
    trip.guide(SQLITE.replace("{app-data}/Lamps/scenes.db", catalog) + PACKS)
    drive = '[[volume]]\nanchor = "{}:"\nlabel = "Spools"\n'
    trip.old.write_text(trip.old.read_text() + drive.format("E") + 'mount = "spools"\ntravels = true\n')
    packs = trip.root / "spools/Packs"
    packs.mkdir(parents=True)
    names = [f"{number:03}.wav" for number in range(40)]  # more than are picked for spot checks
    for name in names:
        (packs / name).write_text(name)
    (trip.home / "AppData/Roaming/Lamps/scenes.db").unlink()
    at = trip.database([f"E:\\Packs\\{name}" for name in names])
    if catalog.startswith("E:"):
        at.rename(trip.root / "spools/scenes.db")
    for step in (trip.survey, trip.pack):
        assert step().returncode in (0, 1)
    sheet = OLD.replace("loft", "shed").replace('"Odile"', '"Ode"') + drive.format("V")
    trip.new.write_text(sheet + 'mount = "spools"\n')
    arrived = trip.arrived()
    assert arrived.stdout.startswith("shed: 40 catalog entries: 40 found"), arrived.stdout
    trip.new.write_text(sheet)
    said = trip.check()
    assert said.stdout.startswith("shed: 40 catalog entries: 40 unplugged"), said.stdout
    assert "All well" not in said.stdout
    assert "missing" not in said.stdout
    assert "40 unplugged" in said.stdout.partition("Needs attention")[2]
    alone = trip.run("check", "--at", trip.new, "--guides", trip.guides)
    assert "every entry finds its file" not in alone.stdout


def test_a_trial_of_a_guide_calls_nothing_absent_that_it_could_not_look_at(trip: Trip) -> None:
    with closed(trip.home / "Music", reading=False):
        done = held("guide", "try", trip.guides / "lamps.toml", "--at", trip.old)
    assert done.returncode == 1, done.stderr
    assert "not there" not in done.stdout
    assert "lamps/sounds: not looked at" in in_one_line(done.stdout)
    assert "Permission denied" in done.stdout


@pytest.mark.parametrize("what", [["--look-in", "C:\\Users\\Odile\\Music"], ["--not-covered", "-o", "drafts"]])
def test_a_draft_names_the_folders_that_it_could_not_look_into(trip: Trip, what: list[str]) -> None:
    with closed(trip.home / "Music", reading=False):
        done = held(
            "guide", "draft", "--at", trip.old, *[str(trip.root / each) if each == "drafts" else each for each in what]
        )
    assert done.returncode in (1, 3)
    said = in_one_line(done.stdout + done.stderr)
    assert "C:\\Users\\Odile\\Music" in said
    assert "Permission denied" in said


def test_a_search_for_lost_files_names_the_folders_that_it_could_not_look_into(trip: Trip) -> None:
    sounds = trip.home / "Music/Lamps"
    elsewhere = trip.home / "Documents/Sounds"
    elsewhere.parent.mkdir()
    sounds.rename(elsewhere)
    with closed(elsewhere, reading=False):
        done = held(
            "relink", "--at", trip.old, "--guides", trip.guides, "--look-in", "C:\\Users\\Odile\\Documents", "--dry-run"
        )
    assert done.returncode in (0, 1, 3), done.stderr
    assert "C:\\Users\\Odile\\Documents\\Sounds" in done.stdout
    assert "Permission denied" in done.stdout
    with closed(elsewhere.parent, reading=False):
        done = held(
            "relink", "--at", trip.old, "--guides", trip.guides, "--look-in", "C:\\Users\\Odile\\Documents\\Sounds"
        )
    assert "There is no folder" not in done.stderr
    assert "Permission denied" in done.stderr


SEQUENCE = """[guide]
id = "lamps"
title = "Lamps"
language = 1
[[holding]]
id = "shots"
kind = "catalog"
at = "{app-data}/Lamps/shots.txt"
syntax = "lines"
[[holding.entries]]
each = "(?P<path>[^,]+),(?P<first>[0-9]+),(?P<last>[0-9]+)"
path = [{ at = "path" }]
spelling = "native"
"""


@pytest.mark.parametrize("represents", ["folder = true\n", 'numbered = { first = "first", last = "last" }\n'])
def test_an_entry_of_many_files_is_unclear_where_their_folder_cannot_be_listed(trip: Trip, represents: str) -> None:
    trip.guide(SEQUENCE + represents)
    whole = "folder" in represents
    path = SOUNDS.rstrip("\\") if whole else SOUNDS + "####.png"
    (trip.home / "AppData/Roaming/Lamps/shots.txt").write_text(f"{path},1,2\n")
    for number in (1, 2):
        (trip.home / f"Music/Lamps/{number:04}.png").touch()
    assert "1 found" in trip.run("check", "--at", trip.old, "--guides", trip.guides).stdout.partition("\n")[0]
    with closed(trip.home / "Music/Lamps", reading=False):
        done = held("check", "--at", trip.old, "--guides", trip.guides)
    assert "1 unclear" in done.stdout.partition("\n")[0]
    assert "files are missing" not in done.stdout


def test_a_comparison_and_retiring_tell_of_files_that_cannot_be_looked_at_one_by_one(trip: Trip) -> None:
    assert trip.moved().returncode == 0
    with closed(trip.home / "Music/Lamps", trip.home / "AppData/Roaming/Knobs", reading=False):
        for folder in ("Music/Lamps", "AppData/Roaming/Knobs"):
            (trip.home / folder).chmod(0o444)  # the names may be listed
        done = held("compare", trip.crate, "--with", trip.old)
        retired = held("retire", trip.crate, "--from", trip.old, "--no-second-copy")
    assert done.returncode == 1, done.stderr
    assert "Only in" not in done.stdout
    assert "C:\\Users\\Odile\\Music\\Lamps\\0.wav" in in_one_line(section(done.stdout, "Not looked at on loft"))
    assert "the old computer since packing: places that could not be looked at" in in_one_line(retired.stdout)


def test_what_was_on_a_drive_that_was_away_before_is_not_said_to_have_been_found(trip: Trip) -> None:
    trip.old.write_text(trip.old.read_text() + '[[volume]]\nanchor = "E:"\n')
    database = trip.home / "AppData/Roaming/Lamps/scenes.db"
    trip.execute(database, "INSERT INTO sound (path) VALUES ('E:\\away.wav')")
    assert "1 unplugged" in trip.moved().stdout.partition("\n")[0]
    trip.execute(trip.new_database, "DELETE FROM sound WHERE path LIKE '%away.wav'")
    said = trip.check().stdout
    assert "1 unplugged" in said.partition("\n")[0]
    assert "found before" not in said
