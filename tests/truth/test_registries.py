"""7: registries are files like others. A value that differs is a conflict, and a person decides about it."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import Zesty
from support.trip import HEAD, Trip, document

GUIDE = """at = "{app-data}/Lamps/scenes.txt"
syntax = "lines"
may-have-none = true
[[holding.entries]]
each = "sound=(?P<path>.*)"
path = [{ at = "path" }]
[[holding]]
id = "packs"
kind = "content-pack"
at = "{documents}/Lamps"
[[holding]]
id = "more"
kind = "content-pack"
at = "{music}/More Lamps"
[[holding]]
id = "registered"
kind = "registrations"
branch = 'HKEY_CURRENT_USER\\Software\\Lamps'
syntax = "reg"
registers = ["packs", "more"]
[[holding.entries]]
each = '.*\\\\(?P<name>[^\\\\]+)'
path = [{ at = "Folder" }]
spelling = "native"
"""
OTHER = """[guide]
id = "flags"
title = "Flags"
language = 1
[[holding]]
id = "flags"
kind = "settings"
at = "{app-data}/Flags"
"""
HEADER = "Windows Registry Editor Version 5.00\r\n\r\n"
BRANCH = "HKEY_CURRENT_USER\\Software\\Lamps"


def export(*keys: tuple[str, dict[str, str]]) -> bytes:
    """An export in UTF-16 of keys with texts."""
    lines = [HEADER]
    for key, values in keys:
        lines.append(f"[{key}]\r\n")
        lines += [f'"{name}"="{text}"\r\n'.replace("\\", "\\\\") for name, text in values.items()]
        lines.append("\r\n")
    return b"\xff\xfe" + "".join(lines).encode("utf-16-le")


@pytest.fixture
def trip(tmp_path: Path, zesty: Zesty) -> Trip:
    """A move from one Windows computer to another; both have a registry."""
    trip = Trip(tmp_path, zesty)
    trip.guide(HEAD + GUIDE)
    trip.guide(OTHER, "flags")
    sheet = trip.old.read_text() + '[windows-registry]\nfile = "loft.reg"\n'
    trip.old.write_text(sheet)
    trip.new.write_text(sheet.replace("loft", "shed").replace("Odile", "Ute"))
    for folder in ("Documents/Lamps/Barn", "Documents/Lamps/Mill", "Music/More Lamps/Sea", "AppData/Roaming/Flags"):
        (trip.home / folder).mkdir(parents=True)
        (trip.home / folder / "a.lamp").write_text("x" * 9)
    trip.new_home = trip.root / "shed/Users/Ute"
    trip.new_home.mkdir(parents=True)
    (trip.root / "loft.reg").write_bytes(
        export(
            (BRANCH, {"Bright": "7", "Name": "Odile"}),
            (f"{BRANCH}\\Barn", {"Folder": "C:\\Users\\Odile\\Documents\\Lamps\\Barn"}),
            (f"{BRANCH}\\Sea", {"Folder": "C:\\Users\\Odile\\Music\\More Lamps\\Sea"}),
            ("HKEY_CURRENT_USER\\Software\\Elsewhere\\Mill", {"Folder": "C:\\Users\\Odile\\Documents\\Lamps\\Mill"}),
        )
    )
    return trip


def registry(trip: Trip) -> str:
    return (trip.root / "shed.reg").read_bytes().decode("utf-16")


def there(trip: Trip, *keys: tuple[str, dict[str, str]]) -> bytes:
    """What the new computer's registry holds already."""
    content = export(*keys)
    (trip.root / "shed.reg").write_bytes(content)
    return content


def packed(trip: Trip, *more: str) -> None:
    assert trip.survey().returncode in (0, 1)
    assert trip.pack(*more).returncode == 0


def test_a_value_that_differs_is_a_conflict_that_a_person_decides(trip: Trip) -> None:
    there(trip, (BRANCH, {"Bright": "3", "Own": "yes", "Name": "Odile"}), ("HKEY_CURRENT_USER\\Software\\Empty", {}))
    packed(trip)
    plan = trip.plan("--json")
    (conflict,) = document(plan)["registry-conflicts"]
    assert (conflict["value"], conflict["carried"], conflict["there"]) == (f"{BRANCH}\\Bright", "7", "3")
    assert conflict["outcome"] is None
    shown = trip.plan().stdout
    assert "Bright" in shown and "carried   7" in shown and "there     3" in shown
    assert "Registry values that differ and need a decision: 1." in trip.plan().stdout
    refused = trip.plan("--decide", f"{BRANCH}\\Bright=merge")
    assert refused.returncode == 3
    assert "a value is one or the other" in " ".join(refused.stdout.split())
    assert trip.plan("--decide", f"{BRANCH}\\Bright=keep").returncode == 0
    assert trip.unpack().returncode == 0
    assert trip.relink().returncode == 0
    merged = registry(trip)
    assert '"Bright"="3"' in merged and '"Own"="yes"' in merged and "Empty" in merged
    assert "C:\\\\Users\\\\Ute\\\\Documents\\\\Lamps\\\\Barn" in merged


def test_a_value_that_came_after_the_plan_is_not_overwritten(trip: Trip) -> None:
    there(trip, (BRANCH, {"Bright": "3"}))
    packed(trip)
    trip.plan("--decide", "bring-in")
    assert trip.unpack().returncode == 0
    there(trip, (BRANCH, {"Bright": "4", "Name": "Ute"}))
    refused = trip.relink()
    assert refused.returncode == 1
    assert f"{BRANCH}\\Bright (7 carried, 4 there)" in refused.stdout and "Barn" not in registry(trip)
    assert trip.check().returncode == 1
    trip.plan("--decide", "keep")
    assert trip.relink().returncode == 0
    assert '"Bright"="4"' in registry(trip) and '"Name"="Ute"' in registry(trip) and "Barn" in registry(trip)


def test_what_is_brought_in_can_be_taken_back_to_the_byte(trip: Trip) -> None:
    before = there(trip, (BRANCH, {"Bright": "3"}), (f"{BRANCH}\\Empty", {}), ("HKEY_CURRENT_USER\\Software\\Odd", {}))
    packed(trip)
    trip.plan("--decide", "all=bring-in")
    trip.unpack()
    assert trip.relink().returncode == 0
    assert '"Bright"="7"' in registry(trip)
    assert trip.undo().returncode == 0
    assert (trip.root / "shed.reg").read_bytes() == before


def test_what_is_newer_is_not_claimed_of_a_registry(trip: Trip) -> None:
    there(trip, (BRANCH, {"Bright": "3"}))
    packed(trip)
    (conflict,) = document(trip.plan("--decide", "newer", "--json"))["registry-conflicts"]
    assert conflict["outcome"] is None and "no date" in conflict["why"]


def test_a_path_that_means_the_same_is_no_conflict(trip: Trip) -> None:
    there(trip, (f"{BRANCH}\\Barn", {"Folder": "C:\\Users\\Ute\\Documents\\Lamps\\Barn"}))
    packed(trip)
    assert document(trip.plan("--json"))["registry-conflicts"] == []


def test_what_another_program_was_chosen_for_is_not_merged(trip: Trip) -> None:
    content = there(trip, (BRANCH, {"Bright": "3"}))
    packed(trip, "--only", "flags")
    assert document(trip.plan("--json"))["registry-conflicts"] == []
    for step in (trip.unpack, trip.relink, trip.check):
        said = step()
        assert said.returncode == 0, said.stdout
    assert (trip.root / "shed.reg").read_bytes() == content


def test_entries_are_those_of_the_branch_and_all_that_it_registers_is_known(trip: Trip) -> None:
    there(trip)
    said = document(trip.survey("--json"))
    (registered,) = [each for each in said["holdings"] if each["id"] == "lamps/registered"]
    assert registered["totals"]["entries"] == 2  # not the one of another program
    assert [each["at"] for each in said["unregistered"]] == ["C:\\Users\\Odile\\Documents\\Lamps\\Mill"]


def test_content_that_is_gone_on_the_new_computer_is_told(trip: Trip) -> None:
    there(trip)
    packed(trip)
    for step in (trip.plan, trip.unpack, trip.relink):
        assert step().returncode in (0, 1)
    (trip.new_home / "Documents/Lamps/Barn/a.lamp").unlink()
    (trip.new_home / "Documents/Lamps/Barn").rmdir()
    said = trip.check()
    assert said.returncode == 1
    assert "C:\\Users\\Ute\\Documents\\Lamps\\Barn" in said.stdout


def test_a_registration_of_a_drive_that_is_found_later_follows_it(trip: Trip) -> None:
    """The branch was merged already, with the old drive in it, and is no conflict for that."""
    late = export((BRANCH, {}), (f"{BRANCH}\\Barn", {"Folder": "C:\\Users\\Odile\\Documents\\Lamps\\Barn"}))
    late += export((f"{BRANCH}\\Far", {"Folder": "K:\\Far"}))[2 + 2 * len(HEADER) :]
    (trip.root / "loft.reg").write_bytes(late)
    drive = '[[volume]]\nanchor = "{}:"\nlabel = "Far"\n'
    trip.old.write_text(trip.old.read_text() + drive.format("K"))
    before = there(trip, (BRANCH, {"Own": "yes"}))
    packed(trip)
    assert trip.arrived().returncode in (0, 1)
    assert "K:\\\\Far" in registry(trip)
    (trip.root / "far/Far").mkdir(parents=True)
    trip.new.write_text(trip.new.read_text() + drive.format("V") + 'mount = "far"\n')
    assert trip.arrived().returncode in (0, 1)
    assert "V:\\\\Far" in registry(trip) and "K:\\\\Far" not in registry(trip) and '"Own"="yes"' in registry(trip)
    assert trip.undo().returncode == 0
    assert (trip.root / "shed.reg").read_bytes() == before


def test_a_registration_of_the_new_computer_without_content_is_not_the_moves_doing(trip: Trip) -> None:
    guide = (HEAD + GUIDE).replace('spelling = "native"\n', 'spelling = "native"\nfolder = true\n')
    trip.guide(
        guide.partition('[[holding]]\nid = "scenes"')[0]
        + "[[holding]]"
        + guide.partition("may-have-none")[2].partition("[[holding]]")[2]
    )
    there(trip, (f"{BRANCH}\\Gone", {"Folder": "C:\\Nowhere"}))
    packed(trip)
    check = trip.arrived()
    assert check.returncode == 0, check.stdout
    assert "All well" in check.stdout
    assert [each["before"] for each in document(trip.check("--json"))["without-content"]] == [True]
