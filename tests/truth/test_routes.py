"""Which route counts: a person's first, and proposals as the sheets are now, to what the new computer really has."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import HEAD, OLD, SQLITE, Trip, document
from zesty_crate.machines import Host

NEW_WINDOWS = OLD.replace("loft", "shed").replace('"Odile"', '"Ode"')
DRIVE = '[[volume]]\nanchor = "{}:"\nmount = "{}"\n'
PACKS = '[[holding]]\nid = "packs"\nkind = "content-pack"\nat = "E:/Packs"\n'


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.guide(SQLITE)
    trip.database(trip.sounds(2))
    return trip


def packed(trip: Trip) -> None:
    for step in (trip.survey, trip.pack):
        assert step().returncode in (0, 1)


def routes(trip: Trip, *more: str) -> dict[str, str]:
    report = document(trip.plan("--json", *more))
    return {each["route"]["old"]: each["route"]["new"] for each in report["routes"]}


def test_a_proposal_follows_a_corrected_sheet_and_what_a_person_wrote_stays(trip: Trip) -> None:
    packed(trip)
    assert routes(trip)["C:\\Users\\Odile\\Music"] == "/Users/odile/Music"
    trip.new.write_text(trip.new.read_text() + "[places]\nmusic = '{home}/Klang'\n")
    assert routes(trip)["C:\\Users\\Odile\\Music"] == "/Users/odile/Klang"
    plan = trip.crate / "moves/shed/plan.toml"
    text = plan.read_text(encoding="utf-8")
    plan.write_text(text.replace('new = "/Users/odile/Klang"', 'new = "/Users/odile/Sound"'), encoding="utf-8")
    trip.new.write_text(trip.new.read_text().replace("Klang", "Tone"))
    assert routes(trip)["C:\\Users\\Odile\\Music"] == "/Users/odile/Sound"


def test_a_manual_route_counts_for_all_below_it(trip: Trip) -> None:
    packed(trip)
    found = routes(
        trip, "--route", "C:\\Users\\Odile=/Users/Shared/Odile", "--route", "C:\\Users\\Odile\\Music\\Lamps=/S"
    )
    assert found == {"C:\\Users\\Odile": "/Users/Shared/Odile", "C:\\Users\\Odile\\Music\\Lamps": "/S"}
    assert trip.arrived().returncode == 1  # the catalog is not where its program looks for it
    assert (trip.root / "shed/S/1.wav").exists()


def test_nothing_is_proposed_to_a_volume_that_the_new_computer_lacks(trip: Trip) -> None:
    trip.guide(
        SQLITE + PACKS.replace('"E:/Packs"', '"{packs}"') + "[places]\npacks = "
        "{ windows = 'E:\\Packs', macos = '/Volumes/Packs' }\n"
    )
    trip.old.write_text(trip.old.read_text() + DRIVE.format("E", "spools"))
    (trip.root / "spools/Packs").mkdir(parents=True)
    (trip.root / "spools/Packs/owl.pack").touch()
    packed(trip)
    blocked = trip.plan()
    assert blocked.returncode == 3
    assert "Carried files without a route: 1." in blocked.stdout


@pytest.mark.parametrize(
    "known", ['serial = "1A2B-3C4D"', 'serial = "9F001A2B3C4D1234"', 'uuid = "77-a"', 'label = "S"']
)
def test_a_volume_is_known_by_its_serial_before_its_label(trip: Trip, known: str) -> None:
    """A drive that travels gets a new letter; the label may be anybody's."""
    trip.guide(SQLITE.replace("{app-data}/Lamps/scenes.db", "E:/scenes.db") + PACKS)
    travels = known + '\nlabel = "Spools"\ntravels = true\n' if "label" not in known else known + "\ntravels = true\n"
    trip.old.write_text(trip.old.read_text() + DRIVE.format("E", "spools") + travels)
    (trip.root / "spools/Packs").mkdir(parents=True)
    database = sqlite3.connect(trip.root / "spools/scenes.db")
    database.execute("CREATE TABLE sound (id INTEGER PRIMARY KEY, path)")
    (trip.root / "spools/Packs/a.wav").touch()
    database.execute("INSERT INTO sound (path) VALUES ('E:\\Packs\\a.wav')")
    database.commit()
    database.close()
    packed(trip)
    other = '[[volume]]\nanchor = "E:"\nmount = "other"\nlabel = "Spools"\nserial = "0000-0000"\nuuid = "0"\n'
    seen = known.replace("9F001A2B3C4D1234", "3C4D-1234")
    trip.new.write_text(NEW_WINDOWS + DRIVE.format("V", "spools") + seen + "\n" + other)
    assert routes(trip)["E:\\"] == "V:\\"
    assert trip.arrived().returncode == 0
    with sqlite3.connect(trip.root / "spools/scenes.db") as database:
        assert database.execute("SELECT path FROM sound").fetchone() == ("V:\\Packs\\a.wav",)


def test_a_sheet_of_this_very_machine_describes_what_runs_here(trip: Trip) -> None:
    """Programs are looked at wherever the sheet was made here, not only where it says so."""
    running = (
        '\n[program]\nprocesses = ["python", "python3", "python3.11", "python3.12", "python3.13", "pytest", "zesty"]\n'
    )
    trip.guide(HEAD.partition("[[holding]]")[0] + running + "[[holding]]" + HEAD.partition("[[holding]]")[2] + SQLITE)
    packed(trip)
    machine = Host().machine()
    if not machine:
        pytest.skip("this system does not say which machine it is")
    assert machine in trip.run("sheet").stdout
    for known, status in ((machine, 3), ("0" * 32, 0)):
        head = f'user = "odile"\nmachine = "{known}"'
        trip.new.write_text(trip.new.read_text().replace('user = "odile"', head, 1))
        assert trip.plan().returncode == status
        trip.new.write_text(trip.new.read_text().replace(head, 'user = "odile"'))


def test_what_would_make_relinking_unnecessary_is_said_first(trip: Trip) -> None:
    trip.guide(SQLITE + PACKS.replace("E:/Packs", "E:/Packs/*.wav"))
    trip.old.write_text(trip.old.read_text() + DRIVE.format("E", "spools") + 'label = "Spools"\ntravels = true\n')
    (trip.root / "spools/Packs").mkdir(parents=True)
    (trip.root / "spools/Packs/a.wav").touch()
    at = trip.home / "AppData/Roaming/Lamps/scenes.db"
    trip.execute(at, "INSERT INTO sound (path) VALUES ('E:\\Packs\\a.wav')")
    packed(trip)
    trip.new.write_text(NEW_WINDOWS.replace("Ode", "Odile") + DRIVE.format("V", "spools") + 'label = "Spools"\n')
    plan = " ".join(trip.plan().stdout.split())
    do = "Give the drive V: (Spools) the letter E: on shed, in its Disk Management."
    assert f"{do} 1 entry would keep its paths. Then correct the sheet of shed" in plan
    todo = trip.run("todo", trip.crate, "--to", trip.new, "--json")
    (step,) = [each for each in document(todo)["steps"] if each["do"] == do]
    trip.run("todo", trip.crate, "--to", trip.new, "--done", step["id"])
    assert "It is ticked off, but shed does not show it" in " ".join(trip.plan().stdout.split())
    trip.new.write_text(trip.new.read_text().replace('"V:"', '"E:"'))
    assert do not in " ".join(trip.plan().stdout.split())
    assert trip.arrived().returncode == 0


def test_a_folder_that_may_be_where_it_was_is_offered(trip: Trip) -> None:
    trip.guide(SQLITE.replace("{app-data}/Lamps", "{own}") + "[places]\nown = { windows = 'C:\\Lamps' }\n")
    (trip.root / "loft/Lamps").mkdir()
    (trip.home / "AppData/Roaming/Lamps/scenes.db").rename(trip.root / "loft/Lamps/scenes.db")
    (trip.root / "loft/Lamps/own.wav").touch()
    trip.execute(trip.root / "loft/Lamps/scenes.db", "INSERT INTO sound (path) VALUES ('C:\\Lamps\\own.wav')")
    packed(trip)
    new = NEW_WINDOWS + "[programs.lamps.places]\nown = '{home}\\Lamps'\n"
    trip.new.write_text(new)
    plan = " ".join(trip.plan().stdout.split())
    assert "Place C:\\Lamps in the same folder on shed. 1 entry would keep its paths." in plan
    assert "Plan again with --route 'C:\\Lamps=C:\\Lamps'." in plan
    assert routes(trip, "--route", "C:\\Lamps=C:\\Lamps")["C:\\Lamps"] == "C:\\Lamps"
    assert "in the same folder" not in trip.plan().stdout


def test_a_letter_that_changed_is_found_by_looking(trip: Trip) -> None:
    """With no crate: what was on D: is on M: now, and D: is no drive of this computer."""
    (trip.root / "big/Sounds").mkdir(parents=True)
    at = trip.home / "AppData/Roaming/Lamps/scenes.db"
    for number in range(6):
        (trip.root / f"big/Sounds/owl {number}.wav").write_bytes(b"owl")
        trip.execute(at, f"INSERT INTO sound (path) VALUES ('D:\\Sounds\\owl {number}.wav')")
    trip.old.write_text(trip.old.read_text() + DRIVE.format("M", "big"))
    looking = ("--at", trip.old, "--guides", trip.guides, "--look-in", "M:\\", "--keep-in", trip.root / "kept")
    found = trip.run("relink", *looking, "--yes")
    assert found.returncode == 0, found.stdout + found.stderr
    assert "6 of 6" in found.stdout
    totals = document(trip.run("check", "--at", trip.old, "--guides", trip.guides, "--json"))["totals"]
    assert (totals["found"], totals["outside"]) == (2, 6)
