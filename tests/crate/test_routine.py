"""A crate each week: whole in itself, shared with the one before, and thinned by the rule."""

from __future__ import annotations

import datetime as dt
import os
from pathlib import Path
from typing import Any

import bagit
import pytest
from hypothesis import given
from hypothesis import strategies as st

from support.moves import SmallMove
from support.outside import FaultyDisk, Killed, outside
from zesty_crate.crate import Crate, KeepRule, RoutineReport, Scope, run_routine
from zesty_crate.crate.routine import Dated
from zesty_crate.guides import load_guides
from zesty_crate.machines import Copied, Disk, DiskError, FileFacts, load_sheet
from zesty_crate.machines.files import AnyPath

SOUNDS = "c/Users/Odile/Music/Wimblethorn Sounds"


class Weeks:
    """One computer, and a folder with a crate of each week."""

    def __init__(self, root: Path) -> None:
        self.move = SmallMove(root)
        self.folder = root / "weekly"
        self.folder.mkdir()

    def run(self, days: int, rule: str = "2w", disk: Disk | None = None) -> RoutineReport:
        world = outside(disk, days=days)
        sheet = load_sheet(self.move.demo.old_sheet, world.disk)
        guides = load_guides([self.move.demo.guides], world.disk)
        return run_routine(self.folder, KeepRule.parse(rule), Scope(outside=True), sheet, guides, world)

    def crates(self) -> list[Path]:
        return sorted(self.folder.iterdir())


@pytest.fixture
def weeks(tmp_path: Path) -> Weeks:
    return Weeks(tmp_path / "demo")


def inodes(crate: Path) -> dict[str, int]:
    return {path.name: path.stat().st_ino for path in (crate / "data").rglob("*") if path.is_file()}


def test_each_crate_is_whole_and_what_is_unchanged_takes_no_room(weeks: Weeks) -> None:
    assert weeks.run(0).packed.shared == 0
    (weeks.move.old_disks / SOUNDS / "Lamp Lit.wav").write_bytes(b"another lamp")
    report = weeks.run(7)
    assert report.packed.shared == report.packed.files - 1
    first, second = weeks.crates()
    assert [first.name, second.name] == ["Odile - paintloft - 2026-11-23", "Odile - paintloft - 2026-11-30"]
    old, new = inodes(first), inodes(second)
    assert {name for name in new if new[name] != old[name]} == {"Lamp Lit.wav"}
    for crate in (first, second):
        bagit.Bag(str(crate)).validate()


def test_a_second_crate_of_one_day_has_a_name_of_its_own_and_takes_the_place_of_the_first(weeks: Weeks) -> None:
    weeks.run(0)
    assert weeks.run(0).thinned == ("Odile - paintloft - 2026-11-23",)
    assert [crate.name for crate in weeks.crates()] == ["Odile - paintloft - 2026-11-23 (2)"]


def test_old_ones_are_thinned_but_not_what_is_in_use_or_of_somebody_else(weeks: Weeks) -> None:
    weeks.run(0)
    (weeks.crates()[0] / "moves").mkdir()
    (weeks.folder / "letters").mkdir()
    weeks.run(7)
    weeks.run(14)
    report = weeks.run(21)
    assert report.thinned == ("Odile - paintloft - 2026-11-30",)
    assert [crate.name for crate in weeks.crates()] == [
        "Odile - paintloft - 2026-11-23",
        "Odile - paintloft - 2026-12-07",
        "Odile - paintloft - 2026-12-14",
        "letters",
    ]
    bagit.Bag(str(weeks.crates()[2])).validate()


def test_nothing_is_thinned_when_not_everything_could_be_carried(weeks: Weeks) -> None:
    class Worn(Disk):
        def copy(self, source: AnyPath, target: AnyPath, facts: FileFacts, **more: Any) -> Copied:
            if Path(source).name == "New Bell.wav":
                raise DiskError("Reading", source, OSError(5, "Input/output error"))
            return super().copy(source, target, facts, **more)

    weeks.run(0)
    (weeks.move.old_disks / SOUNDS / "New Bell.wav").write_bytes(b"bell")
    report = weeks.run(7, "1w", Worn())
    assert (len(report.packed.left), report.thinned, len(weeks.crates())) == (1, (), 2)


def test_a_damaged_shared_file_is_copied_anew_the_next_time(weeks: Weeks) -> None:
    weeks.run(0)
    (shared,) = weeks.crates()[0].rglob("Lamp Lit.wav")
    content = shared.read_bytes()
    facts = shared.stat()
    shared.write_bytes(bytes(reversed(content)))
    os.utime(shared, ns=(facts.st_atime_ns, facts.st_mtime_ns))
    with pytest.raises(Exception, match="returned different data"):
        weeks.run(7)
    report = weeks.run(7, "1w")
    assert report.packed.copied_now == 1
    assert next(Path(report.packed.crate).rglob("Lamp Lit.wav")).read_bytes() == content


def test_a_killed_routine_goes_on_the_same_day(weeks: Weeks) -> None:
    weeks.run(0)
    with pytest.raises(Killed):
        weeks.run(7, disk=FaultyDisk(60))
    weeks.run(7)
    assert len(weeks.crates()) == 2
    for crate in weeks.crates():
        bagit.Bag(str(crate)).validate()


# -- the rule --------------------------------------------------------------------------------------------------------


def dated(day: int, *, in_use: bool = False) -> Dated:
    return Dated(Crate(Path(f"{day}")), dt.datetime(2026, 1, 1, tzinfo=dt.UTC) + dt.timedelta(days=day), in_use)


@given(
    st.lists(st.tuples(st.integers(0, 900), st.booleans()), min_size=1, max_size=30),
    st.lists(st.tuples(st.integers(1, 9), st.sampled_from("dwmy")), min_size=1, max_size=3),
)
def test_the_newest_and_what_is_in_use_always_stay(days: list[tuple[int, bool]], rule: list[tuple[int, str]]) -> None:
    crates = [dated(day, in_use=in_use) for day, in_use in days]
    kept = KeepRule.parse(",".join(f"{number}{unit}" for number, unit in rule)).keeps(crates)
    assert max(each.taken for each in crates) == kept[0].taken
    assert all(each in kept for each in crates if each.is_in_use)
    assert len([each for each in kept if not each.is_in_use]) <= 1 + sum(number for number, _ in rule)


def test_weeks_then_months() -> None:
    kept = KeepRule.parse("4w,6m").keeps([dated(day) for day in range(0, 365, 7)])
    days = [(each.taken.date() - dt.date(2026, 1, 1)).days for each in kept]
    assert days[:4] == [364, 357, 350, 343]
    assert len(days) == 9  # four weeks, and of six months the last, whose newest is among the weeks, and five more


@pytest.mark.parametrize("wrong", ["", "4", "w4", "0w", "4w,", "4x"])
def test_what_is_no_rule_is_refused(wrong: str) -> None:
    with pytest.raises(ValueError, match=f"^{wrong}$"):
        KeepRule.parse(wrong)
