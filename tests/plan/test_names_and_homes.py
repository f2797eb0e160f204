"""Names that the new computer cannot hold, homes for strays, differences, and routes of an earlier move."""

from __future__ import annotations

from pathlib import Path

import pytest

from support.barn import HOME, NEW_HOME, SPOOLS, Barn
from support.moves import SmallMove
from zesty_crate.check import check
from zesty_crate.moving import prepare_unpack, unpack
from zesty_crate.paths import unescape_name
from zesty_crate.plan import PlanOptions, PlanReport, make_plan
from zesty_crate.relink import relink

ODD = (
    "take 1?.wav",
    "CON.wav",
    "Take.wav",
    "take.wav",
    "For\u00eat.wav",
    "ends with a dot.",
    "a: b/one.wav",
    "a: b/two|.wav",
    "Wet/x.wav",
    "wet/x.wav",
)


def carried_out(
    barn: Barn, options: PlanOptions | None = None, name: str = "crate"
) -> tuple[PlanReport, dict[str, int]]:
    with barn.opened(name) as move:
        plan = make_plan(move, options or PlanOptions())
        assert plan.blockers == ()
        unpack(move, prepare_unpack(move))
        relink(move)
        return plan, {state: number for state, number in check(move).totals.items() if number}


@pytest.fixture
def odd(tmp_path: Path) -> Barn:
    barn = Barn(tmp_path)
    for name in ODD:
        barn.write(f"{HOME}/Music/{name}", name)
    lines = [f"/home/odile/Music/{name}\n" for name in ODD]
    barn.write(f"{HOME}/Documents/odd.m3u8", "#EXTM3U\n" + "".join(lines))
    barn.packed()
    return barn


def test_names_that_cannot_be_are_called_otherwise_and_lists_follow(odd: Barn) -> None:
    plan, states = carried_out(odd)
    called = {route.old.name: route.new.name for route in plan.renames}
    assert set(called) == {"take 1?.wav", "CON.wav", "take.wav", "ends with a dot.", "a: b", "two|.wav", "wet"}
    assert {unescape_name(new): old for old, new in called.items()} == {old: old for old in called}
    music = odd.root / NEW_HOME / "Music"
    assert (music / "take 1~(3f).wav").read_text() == "take 1?.wav"
    assert (music / "a~(3a) b/two~(7c).wav").read_text() == "a: b/two|.wav"
    assert states == {"found": len(ODD), "entries": len(ODD)}
    contents = {path.read_text() for path in music.rglob("*") if path.is_file()}
    assert contents >= set(ODD)


def test_a_name_that_a_person_gave_is_kept(odd: Barn) -> None:
    carried_plan = odd.root / "crate/moves/cart/plan.toml"
    with odd.opened() as move:
        make_plan(move)
        text = carried_plan.read_text(encoding="utf-8")
        carried_plan.write_text(text.replace("take 1~(3f).wav", "take one.wav", 1), encoding="utf-8")
    _, states = carried_out(odd)
    assert (odd.root / NEW_HOME / "Music/take one.wav").exists()
    assert states["found"] == len(ODD)


def test_paths_longer_than_older_programs_open_are_told(tmp_path: Path) -> None:
    barn = Barn(tmp_path)
    deep = "/".join(["a folder with a rather long name"] * 8)
    barn.write(f"{HOME}/Music/{deep}/drip.wav", "drip")
    barn.write(f"{HOME}/Documents/deep.m3u8", f"/home/odile/Music/{deep}/drip.wav\n")
    barn.packed()
    plan, _ = carried_out(barn)
    assert "cannot open: 1." in plan.notes[0]
    assert deep.replace("/", "\\") in plan.notes[0]


SHELF = """
[guide]
id = "shelf"
title = "Shelf"
language = 1
[[holding]]
id = "sounds"
kind = "media"
at = "{music}/Sounds"
[[holding]]
id = "strays"
kind = "media"
sweep = ["take *.wav"]
[[holding]]
id = "list"
kind = "catalog"
at = "{documents}/shelf.list"
syntax = "lines"
[[holding.entries]]
each = '(?P<path>.+)'
path = [{ at = "path" }]
spelling = "native"
"""
STRAYS = (
    "Downloads/take 1.wav",
    "Downloads/more/take 2.wav",
    "Desktop/take 3.wav",
    "Elsewhere/take 3.wav",
)


def test_strays_and_outside_media_are_folded_in(tmp_path: Path) -> None:
    barn = Barn(tmp_path)
    for name in STRAYS:
        barn.write(f"{HOME}/{name}", name)
    barn.write(f"{HOME}/Music/Sounds/own.wav", "own")
    barn.write(f"{HOME}/Desktop/other.wav", "outside")
    barn.write(f"{SPOOLS}/Desktop/bell.wav", "outside, too")
    barn.write(f"{NEW_HOME}/Music/Sounds/Folded in/Desktop/mine.wav", "mine")
    names = [
        *(f"/home/odile/{name}" for name in (*STRAYS, "Music/Sounds/own.wav", "Desktop/other.wav")),
        "/mnt/spools/Desktop/bell.wav",
    ]
    barn.write(f"{HOME}/Documents/shelf.list", "\n".join(names) + "\n")
    barn.write("guides/shelf.toml", SHELF)
    barn.packed("crate", tmp_path / "guides")
    plan, states = carried_out(barn, PlanOptions(fold_in=True))
    assert states == {"found": len(names), "entries": len(names)}
    folded = {str(each.route.old): str(each.route.new) for each in plan.routes if "Folded in" in str(each.route.new)}
    home = "C:\\Users\\Odile\\Music\\Sounds\\Folded in"
    assert folded == {
        "/home/odile/Downloads": f"{home}\\Downloads",
        "/home/odile/Desktop": f"{home}\\Desktop (2)",
        "/home/odile/Elsewhere": f"{home}\\Elsewhere",
        "/mnt/spools/Desktop": f"{home}\\Desktop (3)",
    }
    assert (tmp_path / NEW_HOME / "Music/Sounds/Folded in/Desktop/mine.wav").read_text() == "mine"


def test_every_difference_that_breaks_paths_is_named(tmp_path: Path) -> None:
    barn = Barn(tmp_path)
    lines = ["/home/odile/Music/Rain & Wind/drip.wav", "/mnt/spools/Moth's Wing.png"]
    barn.write(f"{HOME}/Documents/here.m3u8", "\n".join(lines))
    barn.packed()
    plan, _ = carried_out(barn)
    said = {each.what: (each.old, each.new, each.entries) for each in plan.differences}
    assert said["system"] == ("linux", "windows", 2)
    assert said["user, different case"] == ("odile", "Odile", 1)
    assert said["home"] == ("/home/odile", "C:\\Users\\Odile", 1)
    assert said["volume Spools"] == ("/mnt/spools", "E:\\", 1)
    assert said["names compared"] == ("exact", "uppercase", 2)
    assert all(each.done for each in plan.differences)


def test_two_alike_computers_have_no_differences(small: SmallMove) -> None:
    text = small.demo.old_sheet.read_text()
    small.demo.new_sheet.write_text(text.replace('"paintloft"', '"paintloft two"'))
    for disk in ("c", "e"):
        (small.new_disks / disk).mkdir()
    with small.opened() as move:
        assert make_plan(move).differences == ()


def test_routes_of_an_earlier_move_are_proposed_again(tmp_path: Path) -> None:
    barn = Barn(tmp_path)
    barn.write(f"{HOME}/Documents/here.m3u8", "/home/odile/Music/Rain & Wind/drip.wav\n")
    barn.packed("first")
    with barn.opened("first") as move:
        make_plan(move, PlanOptions(routes=("/home/odile/Music=C:\\Weather",)))
    barn.packed("second")
    plan, states = carried_out(barn, name="second")
    (route,) = [each.route for each in plan.routes if str(each.route.new) == "C:\\Weather"]
    assert route.why.startswith("as in the move of 20")
    assert route.why.endswith("first")
    assert states == {"found": 1, "entries": 1}
    assert (tmp_path / "new/c/Weather/Rain & Wind/drip.wav").exists()
