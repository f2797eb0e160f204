"""Crates that build on earlier ones: only what is new or changed, and a chain of them unpacks as one."""

from __future__ import annotations

import hashlib
import shutil
from pathlib import Path

import bagit
import pytest

from support.moves import SmallMove
from support.outside import outside
from zesty_crate.check import check
from zesty_crate.crate import Crate, PackReport, Scope, Since, Targets, open_finished, pack
from zesty_crate.errors import ZestyError
from zesty_crate.machines import Disk, load_sheet
from zesty_crate.moving import prepare_unpack, unpack
from zesty_crate.plan import make_plan, open_move
from zesty_crate.relink import relink

SOUNDS = "c/Users/Odile/Music/Wimblethorn Sounds"
PLACED = "system/Users/odile.k/Music/Wimblethorn Sounds"


class Days:
    """One computer, and a crate of each of several days, each building on the one before."""

    def __init__(self, root: Path) -> None:
        self.move = SmallMove(root)
        self.crates: list[Crate] = []

    def day(self, targets: Targets | None = None) -> PackReport:
        earlier = self.crates[-1] if self.crates else None
        crate = Crate(self.move.demo.carrier / f"day {len(self.crates) + 1}")
        self.move.crate = crate
        world = outside(days=len(self.crates))
        self.move.survey(world)
        self.crates.append(crate)
        return pack(crate, Scope(outside=True), world, targets=targets or Targets(), since=earlier)

    def sound(self, name: str, content: bytes | None) -> Path:
        path = self.move.old_disks / SOUNDS / name
        if content is None:
            path.unlink()
        else:
            path.write_bytes(content)
        return path

    def unpacked(self, *parts: Path) -> tuple[dict[str, int], Path]:
        """The states after the move of the last day's crate."""
        world = outside()
        sheet = load_sheet(self.move.demo.new_sheet, world.disk)
        move = open_move(open_finished(self.crates[-1].root, world.disk), sheet, world, parts)
        try:
            assert make_plan(move).blockers == ()
            unpack(move, prepare_unpack(move))
            relink(move)
            return dict(check(move).totals), self.move.new_disks / PLACED
        finally:
            move.survey.close()


@pytest.fixture
def days(tmp_path: Path) -> Days:
    """Three days: a sound changed, a sound new, a sound gone, nothing."""
    made = Days(tmp_path / "demo")
    made.day()
    return made


def since(report: PackReport) -> Since:
    assert report.since is not None
    return report.since


def test_only_what_is_new_or_changed_goes_and_what_is_gone_is_listed(days: Days) -> None:
    days.sound("Lamp Lit.wav", b"another lamp")
    days.sound("New Bell.wav", b"bell")
    days.sound("Weather/Rain/Rain 80% Softer.wav", None)
    report = days.day()
    held = sorted(path.name for path in days.crates[1].data.rglob("*.wav"))
    assert held == ["Lamp Lit.wav", "New Bell.wav"]
    assert report.files == 2
    told = since(report)
    assert (told.name, told.entries_new, told.entries_changed, told.entries_gone) == ("day 1", 0, 0, 0)
    assert [path.rsplit("\\", 1)[-1] for path in told.gone] == ["Rain 80% Softer.wav"]
    bagit.Bag(str(days.crates[1].root)).validate()


def test_a_chain_unpacks_as_one(days: Days) -> None:
    days.sound("Lamp Lit.wav", b"another lamp")
    days.day()
    days.sound("New Bell.wav", b"bell")
    report = days.day()
    assert report.files == 1
    expected = {
        path.relative_to(days.move.old_disks / SOUNDS): hashlib.sha512(path.read_bytes()).digest()
        for path in (days.move.old_disks / SOUNDS).rglob("*.wav")
        if "Supplied" not in path.parts
    }
    totals, placed = days.unpacked()
    assert totals["missing"] == totals["changed"] == 0
    for name, digest in expected.items():
        assert hashlib.sha512((placed / name).read_bytes()).digest() == digest


def test_a_missing_link_in_the_chain_is_named(days: Days, tmp_path: Path) -> None:
    days.sound("Lamp Lit.wav", b"another lamp")
    days.day()
    days.sound("New Bell.wav", b"bell")
    days.day()
    away = Path(shutil.move(days.crates[0].root, tmp_path / "elsewhere"))
    with pytest.raises(ZestyError) as raised:
        days.unpacked()
    assert any("The earlier crate (day 1) is not here" in line for line in raised.value.details)
    totals, _ = days.unpacked(away)
    assert totals["missing"] == 0


def test_a_day_without_changes_is_a_valid_bag_with_nothing_in_it(days: Days) -> None:
    report = days.day()
    assert report.files == 0
    assert since(report).unchanged > 0
    assert bagit.Bag(str(days.crates[1].root)).is_valid()
    assert days.unpacked()[0]["missing"] == 0


def test_parts_and_segments_of_an_earlier_crate_are_found_again(tmp_path: Path) -> None:
    days = Days(tmp_path / "demo")
    thunder = days.sound("Thunder.wav", bytes(range(256)) * 4000)
    parts = days.day(Targets(part_bytes=1_200_000)).parts
    assert len(parts) > 1
    days.sound("Lamp Lit.wav", b"another lamp")
    assert days.day().files == 1
    _, placed = days.unpacked()
    assert (placed / "Thunder.wav").read_bytes() == thunder.read_bytes()


def test_what_a_crate_builds_on_is_of_the_same_computer_and_does_not_change(days: Days, planned: Path) -> None:
    other = SmallMove.at(planned).crate
    crate = Crate(days.move.demo.carrier / "other")
    days.move.crate = crate
    sheet = days.move.demo.old_sheet
    sheet.write_text(sheet.read_text().replace('"paintloft"', '"attic"'))
    days.move.survey()
    with pytest.raises(ZestyError, match="is of the computer paintloft, and this crate of attic"):
        pack(crate, Scope(), outside(), since=other)
    assert pack(crate, Scope(), outside()).since is None
    assert crate.is_finished(Disk())
