"""Two crates, or a crate and a computer, compared file by file."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import ExitStack, closing
from pathlib import Path

import pytest

from support.moves import SmallMove
from support.outside import outside
from zesty_crate.check import CompareReport, Side, compare, survey_aside
from zesty_crate.crate import Crate
from zesty_crate.machines import Disk, computer_of, load_sheet

HOUSE = "C:\\Users\\Odile\\Music\\Wimblethorn Sounds\\"
SOUNDS = "c/Users/Odile/Music/Wimblethorn Sounds"


class Bench:
    """A move, and what comparing its crate with something comes to."""

    def __init__(self, root: Path) -> None:
        self.move = SmallMove(root)
        self.sounds = self.move.old_disks / SOUNDS
        self._stack = ExitStack()

    def close(self) -> None:
        self._stack.close()

    def crate(self, crate: Crate) -> Side:
        survey = self._stack.enter_context(closing(crate.open_survey(Disk())))
        sheet = crate.old_sheet(Disk(), survey)
        return Side(crate.name, survey, computer_of(sheet), sheet, tuple(crate.guides(Disk())))

    def computer(self, path: Path) -> Side:
        sheet, guides = load_sheet(path, Disk()), self.move.crate.guides(Disk())
        aside = survey_aside(sheet, guides, outside(), self.move.demo.root / "aside")
        return Side(path.name, self._stack.enter_context(aside), computer_of(sheet), sheet, tuple(guides))

    def with_old(self) -> CompareReport:
        self.close()
        return compare(self.crate(self.move.crate), self.computer(self.move.demo.old_sheet), Disk())


@pytest.fixture
def bench(tmp_path: Path) -> Iterator[Bench]:
    made = Bench(tmp_path / "demo")
    made.move.survey()
    yield made
    made.close()


def test_a_computer_that_is_as_it_was_does_not_differ(bench: Bench) -> None:
    report = bench.with_old()
    assert report.differences == ()
    assert sum(holding.same for holding in report.holdings) > 5
    assert all(h.entries_here == h.entries_there and not h.entries_only_here for h in report.holdings)


def test_each_kind_of_difference_is_told_with_the_newer_side(bench: Bench) -> None:
    (bench.sounds / "New Bell.wav").write_bytes(b"bell")
    (bench.sounds / "Owl Hoot.wav").unlink(missing_ok=True)
    lamp = bench.sounds / "Lamp Lit.wav"
    lamp.write_bytes(lamp.read_bytes() + b"more")
    report = bench.with_old()
    told = {each.here or each.there: (each.state, each.newer) for each in report.differences}
    assert told.pop(f"{HOUSE}New Bell.wav") == ("only-there", "")
    assert told.pop(f"{HOUSE}Lamp Lit.wav") == ("differs", "there")
    assert {state for state, _ in told.values()} <= {"only-here"}
    (sounds,) = [holding for holding in report.holdings if holding.id == "wimblethorn/sounds"]
    assert (sounds.only_there, sounds.newer_there, sounds.newer_here) == (1, 1, 0)


def test_another_date_alone_is_no_difference_when_the_content_is_known(bench: Bench) -> None:
    bench.move.pack()
    os.utime(bench.sounds / "Lamp Lit.wav", (1, 1))
    assert bench.with_old().differences == ()
    content = (bench.sounds / "Lamp Lit.wav").read_bytes()
    (bench.sounds / "Lamp Lit.wav").write_bytes(bytes(reversed(content)))
    (difference,) = bench.with_old().differences
    assert (difference.why, difference.newer) == ("different content", "there")


def test_across_systems_files_stand_for_each_other_where_a_move_would_put_them(bench: Bench) -> None:
    bench.move.pack()
    bench.move.plan()
    bench.move.unpack()
    report = compare(bench.crate(bench.move.crate), bench.computer(bench.move.demo.new_sheet), Disk())
    assert {each.state for each in report.differences} <= {"only-here"}, "what lies outside is not asked for there"
    assert sum(holding.same for holding in report.holdings) > 5
    bench.move.relink()
    bench.close()
    report = compare(bench.crate(bench.move.crate), bench.computer(bench.move.demo.new_sheet), Disk())
    assert [each.why for each in report.differences if each.state == "differs"] != []


def test_the_states_of_both_sides_are_told(bench: Bench) -> None:
    (bench.sounds / "Lamp Lit.wav").unlink()
    report = bench.with_old()
    here, there = report.states_here, report.states_there
    assert here["entries"] == there["entries"] > 0
    assert here["found"] > there["found"]
    assert there["missing"] > here["missing"] == 0
