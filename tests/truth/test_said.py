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


def packed(trip: Trip) -> None:
    for step in (trip.survey, trip.pack):
        assert step().returncode in (0, 1)


def test_a_plan_names_a_volume_that_is_not_mounted_and_a_folder_that_is_not_writable(trip: Trip) -> None:
    packed(trip)
    blocked = trip.plan("--route", "C:\\Users\\Odile\\Music=/Volumes/Spools/Music")
    assert "Files whose route leads to a volume that is not connected: 2." in blocked.stdout
    assert "No blockers" not in blocked.stdout


def test_a_plan_names_parts_that_are_not_here(trip: Trip) -> None:
    for number in range(3):
        (trip.home / f"Music/Lamps/long {number}.wav").write_bytes(bytes(500_000))
    packed(trip)
    trip.crate = trip.root / "parts/crate"
    trip.survey()
    assert trip.pack("--part-size", "900kB").returncode == 0
    (second,) = [each for each in trip.crate.parent.iterdir() if each != trip.crate][:1]
    second.rename(trip.root / "away")
    assert "is not here." in trip.plan().stdout


def test_where_a_route_leads_is_where_a_holding_is(trip: Trip) -> None:
    packed(trip)
    trip.plan("--route", "C:\\Users\\Odile\\Music\\Lamps=/Users/odile/Sounds")
    for step in (trip.unpack, trip.relink):
        assert step().returncode == 0
    report = document(trip.check("--json"))
    (sounds,) = [each for each in report["holdings"] if each["id"] == "lamps/sounds"]
    assert (sounds["at"], sounds["new"]["files"]) == ("/Users/odile/Sounds", 2)


def test_a_fixed_place_goes_to_the_volume_of_its_label(trip: Trip) -> None:
    trip.guide(SQLITE + "[[holding]]\nid = 'packs'\nkind = 'content-pack'\nat = 'E:\\Packs'\n")
    (trip.root / "spools/Packs").mkdir(parents=True)
    (trip.root / "spools/Packs/a.pack").touch()
    sheet = trip.old.read_text()
    trip.old.write_text(sheet + '[[volume]]\nanchor = "E:"\nlabel = "Spools"\nmount = "spools"\n')
    (trip.root / "new spools").mkdir()
    there = '[[volume]]\nanchor = "D:"\nlabel = "Spools"\nmount = "new spools"\n'
    trip.new.write_text(sheet.replace("loft", "shed") + there)
    packed(trip)
    assert trip.plan().returncode == 0, trip.plan().stdout
    for step in (trip.unpack, trip.relink):
        assert step().returncode == 0
    assert (trip.root / "new spools/Packs/a.pack").exists()
    said = trip.check()
    assert said.returncode == 0, said.stdout
    (packs,) = [h for h in document(trip.check("--json"))["holdings"] if h["id"] == "lamps/packs"]
    assert (packs["at"], packs["new"]["files"]) == ("D:\\Packs", 1)


def test_a_log_beside_a_catalog_is_not_missing_once_it_was_brought_in(trip: Trip) -> None:
    at = trip.home / "AppData/Roaming/Lamps/scenes.db"
    trip.execute(at, "PRAGMA journal_mode = wal", f"INSERT INTO sound (path) VALUES ('{trip.sound('late.wav')}')")
    at.with_name("scenes.db-wal").touch()
    log = at.with_name("scenes.db-wal")
    log.write_bytes(log.read_bytes() or bytes(32))
    trip.moved()
    said = trip.check()
    assert "scenes.db-wal" not in said.stdout, said.stdout


def test_resuming_counts_what_an_earlier_run_placed(trip: Trip) -> None:
    packed(trip)
    trip.plan()
    trip.unpack()
    again = trip.unpack()
    assert "3 files placed by an earlier run of this command, and still there." in again.stdout
    assert "already there" not in again.stdout


def test_outside_is_said_only_where_a_guide_says_what_is_inside(trip: Trip) -> None:
    lists = trip.home / "Music/Lists"
    lists.mkdir()
    (lists / "Storm.m3u8").write_text("..\\Lamps\\0.wav\n..\\..\\Desktop\\bell.wav\n")
    (trip.home / "Desktop").mkdir()
    (trip.home / "Desktop/bell.wav").touch()
    trip.execute(
        trip.home / "AppData/Roaming/Lamps/scenes.db",
        "INSERT INTO sound VALUES (9, 'C:\\Users\\Odile\\Desktop\\bell.wav')",
    )
    said = trip.survey()
    assert "Not simply found" not in said.stdout
    report = document(trip.survey_again("--json"))
    states = {each["id"]: each["totals"] for each in report["holdings"]}
    assert states["m3u/lists"]["found"] == 2
    assert (states["lamps/scenes"]["found"], states["lamps/scenes"]["outside"]) == (2, 1)
    assert "outside the programs' folders" in said.stdout


def test_a_catalog_beside_another_is_a_step_and_a_sentence(trip: Trip) -> None:
    trip.new_database.parent.mkdir(parents=True)
    trip.new_database.write_bytes((trip.home / "AppData/Roaming/Lamps/scenes.db").read_bytes())
    trip.execute(trip.new_database, "UPDATE sound SET path = '/Users/odile/own.wav' WHERE id = 1")
    packed(trip)
    trip.plan("--decide", "both")
    for step in (trip.unpack, trip.relink, trip.check):
        assert step().returncode in (0, 1)
    assert "shows nothing of the carried catalog" in trip.run("todo", trip.crate, "--to", trip.new).stdout
    assert "the program does not open it by itself" in trip.page()


def test_a_letter_that_the_new_computer_never_had_is_no_unplugged_drive(trip: Trip) -> None:
    (trip.root / "archive").mkdir()
    (trip.root / "archive/storm.wav").touch()
    sheet = trip.old.read_text()
    trip.old.write_text(sheet + '[[volume]]\nanchor = "D:"\nmount = "archive"\n')
    trip.new.write_text(sheet.replace("loft", "shed"))
    at = trip.home / "AppData/Roaming/Lamps/scenes.db"
    trip.execute(at, "INSERT INTO sound (path) VALUES ('D:\\storm.wav')")
    packed(trip)
    trip.plan()
    trip.unpack()
    trip.relink()
    said = trip.check()
    assert said.returncode == 1
    assert "its drive was not carried and has no route" in said.stdout
    assert document(trip.check("--json"))["totals"]["unplugged"] == 0


def test_a_wildcard_makes_nothing_else_in_its_folder_the_programs_own(trip: Trip) -> None:
    trip.guide(SQLITE + '[[holding]]\nid = "lists"\nkind = "installer"\nat = "{downloads}/lamps-*.msi"\n')
    downloads = trip.home / "Downloads"
    downloads.mkdir()
    (downloads / "lamps-1.msi").touch()
    (downloads / "bell.wav").touch()
    at = trip.home / "AppData/Roaming/Lamps/scenes.db"
    trip.execute(at, "INSERT INTO sound (path) VALUES ('C:\\Users\\Odile\\Downloads\\bell.wav')")
    totals = document(trip.survey("--json"))["totals"]
    assert (totals["found"], totals["outside"]) == (2, 1)
    assert trip.pack("--outside").returncode == 0
    for step in (trip.plan, trip.unpack, trip.relink, trip.check):
        assert step().returncode == 0
    assert (trip.new_home / "Downloads/bell.wav").exists()


def test_a_playlist_in_a_media_folder_that_is_there_already_is_weighed(trip: Trip) -> None:
    (trip.home / "Music/Lamps/Storm.m3u8").write_text("0.wav\n1.wav\n")
    there = trip.new_home / "Music/Lamps/Storm.m3u8"
    there.parent.mkdir(parents=True)
    there.write_text("own.wav\n")
    packed(trip)
    (conflict,) = document(trip.plan("--json"))["conflicts"]
    assert (conflict["carried"]["work"]["entries"], conflict["there"]["work"]["entries"]) == (2, 1)
    assert trip.plan("--decide", "both").returncode == 0


def test_a_playlist_in_a_media_folder_is_a_document_and_no_media(trip: Trip) -> None:
    (trip.home / "Music/Lamps/Storm.m3u8").write_text("0.wav\n1.wav\n")
    assert trip.survey().returncode == 0
    assert trip.pack("--metadata-only").returncode == 0
    assert [each.name for each in (trip.crate / "data").rglob("*.m3u8")] == ["Storm.m3u8"]
    assert [*(trip.crate / "data").rglob("*.wav")] == []
    check = trip.arrived()
    assert "no catalog knows" not in check.stdout and "Storm.m3u8" not in check.stdout


@pytest.mark.parametrize(
    ("written", "becomes"),
    [
        ("file:///C%3A/Users/Odile/Music/Lamps/0.wav", "file:///Users/odile/Music/Lamps/0.wav"),
        ("/C:/Users/Odile/Music/Lamps/0.wav", "/Users/odile/Music/Lamps/0.wav"),
        ("FILE:///c:/Users/Odile/Music/Lamps/a%20b.wav", "FILE:///Users/odile/Music/Lamps/a%20b.wav"),
        (
            "File://localhost/C:/Users/Odile/Music/Lamps/%c3%bc.wav",
            "File://localhost/Users/odile/Music/Lamps/%c3%bc.wav",
        ),
        ("file:///C:/Users/Odile/Music/Lamps/Rain/", "file:///Users/odile/Music/Lamps/Rain/"),
        ("C:\\Users\\Odile\\Music\\Lamps\\Rain\\", "/Users/odile/Music/Lamps/Rain/"),
        ("c:/Users/Odile/Music/Lamps/Rain/", "/Users/odile/Music/Lamps/Rain/"),
    ],
)
def test_a_path_is_known_in_every_spelling(trip: Trip, written: str, becomes: str) -> None:
    spelling = "file-url" if written[:5].lower() == "file:" else "slashes" if "/" in written else "native"
    folder = "folder = true\n" if written[-1] in "/\\" else ""
    trip.guide(SQLITE.replace('"native"', f'"{spelling}"') + folder)
    (trip.home / "AppData/Roaming/Lamps/scenes.db").unlink()
    (trip.home / "Music/Lamps/Rain").mkdir()
    for name in ("a b.wav", "ü.wav", "Rain/drip.wav"):
        trip.sound(name)
    trip.database([written])
    assert trip.moved().returncode == 0
    assert trip.new_paths() == [becomes]


def test_nothing_is_written_through_a_link_that_leads_out_of_the_computer(trip: Trip) -> None:
    packed(trip)
    assert trip.plan().returncode == 0
    elsewhere = trip.root / "the technician's own"
    elsewhere.mkdir()
    (trip.new_home / "Music").symlink_to(elsewhere)
    blocked = trip.plan()
    assert blocked.returncode == 3
    assert "through a link which leads to nothing on this computer's volumes: 2." in blocked.stdout
    assert trip.unpack().returncode == 3
    assert [*elsewhere.iterdir()] == []
    (trip.new_home / "Music").unlink()
    (trip.root / "shed/Sounds").mkdir()
    (trip.new_home / "Music").symlink_to("../../Sounds")  # which stays on the computer
    assert trip.plan().returncode == 0
    for step in (trip.unpack, trip.relink, trip.check):
        assert step().returncode == 0
    assert (trip.root / "shed/Sounds/Lamps/0.wav").exists()


@pytest.mark.parametrize("side", ["carried", "there"])
def test_what_two_presets_are_weighed_by_is_said(trip: Trip, side: str) -> None:
    """They are compared by what their guide reads of them, and not by all that is in them."""
    presets = '[[holding]]\nid = "looks"\nkind = "project"\nat = "{app-data}/Lamps/looks"\nsyntax = "lines"\n'
    entries = '[[holding.entries]]\neach = "sound=(?P<path>.*)"\npath = [{ at = "path" }]\nspelling = "native"\n'
    trip.guide(SQLITE + presets.replace("/looks", "/*.look") + entries)
    carried = [f"sound={each}\n" for each in trip.sounds(2)]
    there = ["sound=/Users/odile/Music/Lamps/0.wav\n", "sound=/Users/odile/Music/Lamps/1.wav\n", "brightness=7\n"]
    at = trip.new_home / "Library/Application Support/Lamps/a.look"
    at.parent.mkdir(parents=True)
    (trip.home / "AppData/Roaming/Lamps/a.look").write_text("".join(carried[: 2 if side == "carried" else 1]))
    at.write_text("".join(there[: 1 if side == "carried" else 3]))
    packed(trip)
    said = " ".join(trip.plan().stdout.split())
    if side == "carried":
        assert "Of entries, groups and annotations, the carried one has all that is there, and more." in said
    else:
        assert "Of entries, groups and annotations, the one there has all that is carried, and more." in said
    assert "holds all" not in said


def test_a_catalog_that_two_holdings_read_is_weighed_by_both(trip: Trip) -> None:
    more = SQLITE.replace("sound", "cover")
    trip.guide(SQLITE + '[[holding]]\nid = "covers"\nkind = "catalog"\n' + more)
    at = trip.home / "AppData/Roaming/Lamps/scenes.db"
    table = "CREATE TABLE cover (id INTEGER PRIMARY KEY, path)"
    trip.execute(at, table, f"INSERT INTO cover (path) VALUES ('{trip.sound('a.png')}')")
    trip.new_database.parent.mkdir(parents=True)
    trip.new_database.write_bytes(at.read_bytes())
    trip.execute(trip.new_database, "DELETE FROM sound WHERE id = 1", "UPDATE cover SET path = '/Users/odile/own.png'")
    packed(trip)
    (conflict,) = document(trip.plan("--json"))["conflicts"]
    weighed = (conflict["carried"]["work"]["entries"], conflict["there"]["work"]["entries"])
    assert weighed == (3, 2), conflict
    assert "loses work" in conflict["warning"] and conflict["outcome"] is None
