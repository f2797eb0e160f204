"""Drives that go along to the new computer: nothing on them is copied, and all that is on them is found again."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from support.barn import HOME, MEDIA, NEW, NEW_SPOOLS, OLD, SPOOLS, Barn
from support.moves import picture
from zesty_crate.check import CheckReport, check
from zesty_crate.moving import prepare_unpack, undo, unpack
from zesty_crate.plan import PlanReport, make_plan
from zesty_crate.relink import relink

LIST = "#EXTM3U\n/mnt/spools/Moth's Wing.png\n/home/odile/Music/Rain & Wind/drip.wav\n"


@pytest.fixture
def barn(tmp_path: Path) -> Barn:
    """A list on either side, each naming something on the other; the drive goes along."""
    made = Barn(tmp_path)
    made.write("old.toml", OLD.replace('label = "Spools"', 'label = "Spools"\ntravels = true'))
    made.write(f"{HOME}/Documents/here.m3u8", LIST)
    made.write(f"{SPOOLS}/there.m3u8", LIST)
    return made


def plug_in(barn: Barn) -> Path:
    """The drive itself is carried over; it holds what it held."""
    shutil.rmtree(barn.root / NEW_SPOOLS)
    return Path(shutil.move(barn.root / SPOOLS, barn.root / NEW_SPOOLS))


def moved(barn: Barn, *, back: bool = False) -> tuple[PlanReport, CheckReport]:
    with barn.opened() as move:
        plan = make_plan(move)
        unpack(move, prepare_unpack(move))
        relink(move)
        report = check(move)
        if back:
            undo(move)
        return plan, report


def test_what_goes_along_is_not_copied_and_found_again(barn: Barn) -> None:
    barn.packed()
    assert not list((barn.root / "crate/data").rglob("Moth*"))
    drive = plug_in(barn)
    _, checked = moved(barn)
    assert (drive / "there.m3u8").read_text() == LIST.replace("/mnt/spools/", "E:\\").replace(
        "/home/odile/Music/Rain & Wind/", "C:\\Users\\Odile\\Music\\Rain & Wind\\"
    )
    assert checked.totals["entries"] == 4
    assert checked.totals["missing"] == 0
    assert [problem.state for problem in checked.problems if problem.state != "outside"] == []


def test_it_is_undone_on_the_drive_too(barn: Barn) -> None:
    barn.packed()
    drive = plug_in(barn)
    before = picture(drive)
    moved(barn, back=True)
    assert picture(drive) == before


def test_a_file_that_went_from_the_drive_meanwhile_is_said_to_have_been_there(barn: Barn) -> None:
    barn.packed()
    (plug_in(barn) / Path(MEDIA[2]).name).unlink()
    _, checked = moved(barn)
    (why,) = {problem.why for problem in checked.problems if problem.state == "missing"}
    assert why.startswith("its drive travelled to the new computer, but there is no file at E:")


def test_a_drive_with_no_place_on_the_new_computer_blocks_until_it_is_known(barn: Barn) -> None:
    barn.packed()
    barn.write("new.toml", NEW.replace('label = "Spools"', 'label = "Another"'))
    with barn.opened() as move:
        (blocker,) = [each for each in make_plan(move).blockers if each.concerns == "drives"]
    assert "/mnt/spools Spools travels to cart" in blocker.what
    plan = move.plan_path
    plan.write_text(plan.read_text() + "\n[[route]]\nold = '/mnt/spools'\nnew = 'E:\\'\n")
    plug_in(barn)
    _, checked = moved(barn)
    assert checked.totals["missing"] == 0
