"""Retiring the old computer: refused while anything is open, each thing by name; and nothing is ever deleted."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from conftest import Zesty
from support.moves import SmallMove, picture
from support.outside import outside
from zesty_crate.errors import ZestyError
from zesty_crate.machines import load_sheet
from zesty_crate.retire import RetireReport, Second, weigh
from zesty_crate.todo import list_steps, tick

DECLINED = Second(declined=True)


@pytest.fixture
def moved(small: SmallMove) -> SmallMove:
    small.unpack()
    small.relink()
    return small


def weighed(move: SmallMove, second: Second = DECLINED, sheet: Path | None = None) -> RetireReport:
    loaded = load_sheet(sheet or move.demo.old_sheet, outside().disk)
    return weigh(move.crate, loaded, outside(), move.demo.root / "aside", second)


def tick_all(move: SmallMove) -> None:
    with move.opened() as opened:
        report = list_steps(move.crate, opened.survey, outside(), opened)
    tick(report, move.crate, outside(), done=[each.id for each in report.steps])


def still_open(report: RetireReport) -> list[str]:
    return [each.about for each in report.evidence if not each.holds]


def test_everything_in_order_may_be_wiped_and_nothing_is_deleted(moved: SmallMove) -> None:
    moved.check()
    tick_all(moved)
    before = picture(moved.old_disks)
    report = weighed(moved)
    assert report.may_be_wiped, still_open(report)
    assert [each.what.split()[0] for each in report.removable][-3:] == ["the", "entries", "the"]
    assert any("C:\\Users\\Odile\\Music\\Wimblethorn Sounds" in each.where for each in report.removable)
    assert picture(moved.old_disks) == before


def test_each_open_end_is_named(moved: SmallMove) -> None:
    assert still_open(weighed(moved, Second())) == ["the check on cartshed", "a second copy", "manual steps"]
    tick_all(moved)
    moved.check()
    assert still_open(weighed(moved)) == []
    next((moved.new_disks / "system").rglob("Lamp Lit.wav")).unlink()
    moved.check()
    (check,) = [each for each in weighed(moved).evidence if not each.holds]
    assert "1 missing" in check.found


def test_a_check_from_before_the_last_change_does_not_count(moved: SmallMove) -> None:
    moved.check()
    tick_all(moved)
    moved.undo(outside(days=1))
    moved.unpack(outside(days=2))
    moved.relink(outside(days=2))
    (check,) = [each for each in weighed(moved).evidence if not each.holds]
    assert "before the last change" in check.found


def test_new_work_on_the_old_computer_is_found(moved: SmallMove) -> None:
    moved.check()
    tick_all(moved)
    music = moved.old_disks / "c/Users/Odile/Music/Wimblethorn Sounds"
    (music / "Only here.wav").write_bytes(b"new work")
    (new,) = [each for each in weighed(moved).evidence if not each.holds]
    assert any("Only here.wav" in each for each in new.places)
    assert "--since" in new.next_step


def test_a_second_copy_must_be_a_copy_of_this_crate(moved: SmallMove) -> None:
    moved.check()
    tick_all(moved)
    shelf = moved.demo.root / "shelf"
    shelf.mkdir()
    assert still_open(weighed(moved, Second(shelf))) == ["a second copy"]
    shutil.copytree(moved.crate.root, shelf / moved.crate.name)
    assert weighed(moved, Second(shelf)).may_be_wiped


def test_another_computers_sheet_is_refused(moved: SmallMove) -> None:
    with pytest.raises(ZestyError, match="the crate is of paintloft"):
        weighed(moved, sheet=moved.demo.new_sheet)


def test_the_command_refuses_with_its_own_status(moved: SmallMove, zesty: Zesty) -> None:
    refused = zesty("retire", moved.crate.root, "--from", moved.demo.old_sheet)
    assert refused.returncode == 3
    assert "must not be wiped yet" in refused.stdout
