"""What is known of a program: its version where a system tells it, and whether it was ever started."""

from __future__ import annotations

import plistlib
from pathlib import Path

import pytest

from conftest import Zesty
from support.hives import hive
from support.trip import SQLITE, Trip, document

PROGRAM = """[program]
processes = ["lamps.exe", "Lamps"]
versions = "RULE"
first-start = "{app-data}/Lamps"
"""


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    trip = Trip(tmp_path, zesty)
    trip.database(trip.sounds(2))
    return trip


def guide(trip: Trip, rule: str) -> None:
    trip.guide(SQLITE + PROGRAM.replace("RULE", rule))


def test_an_unknown_version_is_not_the_same(trip: Trip) -> None:
    guide(trip, "same")
    for step in (trip.survey, trip.pack):
        assert step().returncode == 0
    blocked = trip.plan()
    assert blocked.returncode == 3
    assert "The version of Lamps must be the same on both computers, and it is not known." in blocked.stdout
    assert trip.unpack().returncode == 3
    steps = document(trip.run("todo", trip.crate, "--to", trip.new, "--json"))["steps"]
    (check,) = [each for each in steps if "fits (same)" in each["do"]]
    assert trip.run("todo", trip.crate, "--to", trip.new, "--done", check["id"]).returncode == 0
    assert trip.arrived().returncode == 0


def test_an_unknown_version_that_may_be_newer_is_asked_for(trip: Trip) -> None:
    guide(trip, "same-or-newer")
    for step in (trip.survey, trip.pack):
        assert step().returncode == 0
    plan = trip.plan()
    assert plan.returncode == 0
    assert "Check that the version of Lamps fits (same-or-newer)" in " ".join(plan.stdout.split())


def test_our_own_folders_do_not_show_that_a_program_was_started(trip: Trip) -> None:
    guide(trip, "any")
    trip.new.write_text(trip.new.read_text() + '[programs.lamps]\nversion = "3"\n')
    trip.moved()
    start = "Start Lamps once on shed"
    assert trip.run("todo", trip.crate, "--to", trip.new).stdout.count(start) == 1
    (program,) = document(trip.plan("--json"))["programs"]
    assert program["started"] is False


@pytest.mark.parametrize("system", ["windows", "macos", "linux"])
def test_a_sheet_has_the_versions_that_the_system_tells(trip: Trip, system: str) -> None:
    guide(trip, "same")
    disk = trip.root / system
    uninstall = {"DisplayName": "Lamps 3.1", "DisplayVersion": "3.1", "DisplayIcon": "C:\\Programs\\lamps.exe,0"}
    windows = {"Microsoft": {"Windows": {"CurrentVersion": {"Uninstall": {"{7-7}": uninstall}}}}}
    for name, content in {
        "windows/Users/Odile/a": b"",
        "windows/Windows/System32/config/SOFTWARE": hive(windows),
        "macos/Users/odile/a": b"",
        "macos/Library/a": b"",
        "macos/Applications/Lamps.app/Contents/Info.plist": plistlib.dumps({"CFBundleShortVersionString": "3.1"}),
        "macos/Applications/Broken.app/Contents/Info.plist": b"<plist",
        "linux/home/odile/a": b"",
        "linux/etc/a": b"",
        "linux/var/lib/dpkg/status": b"Package: lamps\nStatus: install ok installed\nVersion: 1:3.1-2\n\nPackage: x\n",
    }.items():
        (trip.root / name).parent.mkdir(parents=True, exist_ok=True)
        (trip.root / name).write_bytes(content)
    sheet = trip.run("sheet", "--mounted", disk, "--guides", trip.guides)
    assert '[programs.lamps]\nversion = "3.1"' in sheet.stdout, sheet.stdout + sheet.stderr
