"""Crates in parts: shared out, cut, copied twice, unplugged, and unpacked in any order."""

from __future__ import annotations

import hashlib
import random
import shutil
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import bagit
import pytest
from hypothesis import given
from hypothesis import strategies as st

from support.moves import SmallMove, picture
from support.outside import LONG_STRIDE, FaultyDisk, Killed, outside
from zesty_crate.crate import PackReport, Scope, Targets, open_finished, pack, verify
from zesty_crate.crate.distribution import PendingFile, Space, distribute
from zesty_crate.errors import HalfwayError, ZestyError
from zesty_crate.machines import Disk, Outside, load_sheet
from zesty_crate.moving import prepare_unpack, unpack
from zesty_crate.paths import FORMATS
from zesty_crate.plan import make_plan, open_move

SOUNDS = "c/Users/Odile/Music/Wimblethorn Sounds"
PLACED = "system/Users/odile.k/Music/Wimblethorn Sounds"
SIZES = {"Thunder.wav": 900_000, "Storm.wav": 400_000, "Mill.wav": 300_000, "Kiln.wav": 250_000}
PART = 1_200_000


@pytest.fixture
def surveyed(tmp_path: Path) -> SmallMove:
    """A small move with some larger sounds, surveyed."""
    move = SmallMove(tmp_path / "demo")
    for name, size in SIZES.items():
        (move.old_disks / SOUNDS / name).write_bytes(random.Random(size).randbytes(size))
    move.survey()
    return move


def pack_onto(move: SmallMove, targets: Targets, world: Outside | None = None) -> PackReport:
    return pack(move.crate, Scope(outside=True), world or outside(), targets=targets)


def unpacked(move: SmallMove, crate: Path, *parts: Path, ask: Iterator[Path] | None = None) -> dict[str, str]:
    """Unpack from a crate and parts; the larger sounds as they were placed, by their digests."""
    world = outside()
    sheet = load_sheet(move.demo.new_sheet, world.disk)
    opened = open_move(open_finished(crate, world.disk), sheet, world, parts)
    try:
        make_plan(opened)
        plan = prepare_unpack(opened, may_ask=ask is not None)
        unpack(opened, plan, ask=(lambda _missing: next(ask, None)) if ask is not None else None)
    finally:
        opened.survey.close()
    return digests(move.new_disks / PLACED)


def digests(folder: Path) -> dict[str, str]:
    return {name: hashlib.sha512((folder / name).read_bytes()).hexdigest() for name in SIZES}


def test_every_part_is_a_bag_that_stands_for_itself_and_names_its_group(surveyed: SmallMove) -> None:
    report = pack_onto(surveyed, Targets(part_bytes=PART))
    assert len(report.parts) > 2
    groups = set()
    for part in report.parts:
        bag = bagit.Bag(part.at)
        bag.validate()
        assert bag.info["Bag-Count"] == f"{part.part} of {len(report.parts)}"
        groups.add(bag.info["Bag-Group-Identifier"])
        assert verify(open_finished(Path(part.at), Disk()), Disk()).files == part.files
        assert sum(path.stat().st_size for path in Path(part.at).rglob("*") if path.is_file()) <= PART
    assert len(groups) == 1
    assert sum(part.size_bytes for part in report.parts) == report.size_bytes
    names = [path.name for part in report.parts for path in Path(part.at, "data").rglob("Thunder*")]
    assert len(names) > 1, "a file that fits in no part goes in segments"
    assert all("~(from " in name for name in names)
    assert unpacked(surveyed, surveyed.crate.root) == digests(surveyed.old_disks / SOUNDS)


def test_parts_are_asked_for_when_unpacking_and_any_of_them_will_do_as_the_crate(surveyed: SmallMove) -> None:
    report = pack_onto(surveyed, Targets(part_bytes=PART))
    away = surveyed.demo.root / "away"
    moved = [Path(shutil.move(part.at, away / f"{part.part}" / Path(part.at).name)) for part in report.parts]
    crate, *others = reversed(moved)
    with pytest.raises(ZestyError) as raised:
        unpacked(surveyed, crate, others[0])
    assert any("Part 1 (crate) is not here" in line for line in raised.value.details)
    assert not (surveyed.new_disks / PLACED).exists()
    with pytest.raises(HalfwayError) as raised:
        unpacked(surveyed, crate, ask=iter([others[1].parent]))
    placed = int(others[1].parent.name)
    lacking = [number for number in range(1, len(moved)) if number != placed]
    assert list(raised.value.details) == [f"not here: part {n} ({moved[n - 1].name})" for n in lacking]
    assert unpacked(surveyed, crate, ask=iter([*others])) == digests(surveyed.old_disks / SOUNDS)


def test_another_crates_part_is_refused(surveyed: SmallMove, planned: Path) -> None:
    pack_onto(surveyed, Targets(part_bytes=PART))
    with pytest.raises(ZestyError, match="is not a part that this crate needs"):
        unpacked(surveyed, surveyed.crate.root, SmallMove.at(planned).crate.root)


class Sticks(Disk):
    """Carriers of so much room each, by the folder they are plugged in at."""

    def __init__(self, room: dict[Path, int]) -> None:
        self._room = room

    def free_bytes(self, folder: Path) -> int:
        top = next((each for each in self._room if folder == each or each in folder.parents), None)
        if top is None:
            return 1 << 40
        return self._room[top] - sum(path.stat().st_size for path in top.rglob("*") if path.is_file())


def test_sticks_are_asked_for_in_turn_and_may_be_pulled_out(surveyed: SmallMove) -> None:
    port, pulled = surveyed.demo.root / "port", surveyed.demo.root / "pulled"
    port.mkdir()
    disk = Sticks({surveyed.crate.root.parent: PART, port: PART})
    asked: list[tuple[int, int]] = []

    def swap(number: int, size: int) -> Path:
        """Whoever is asked pulls out one stick, and puts in the next."""
        asked.append((number, size))
        for each in list(port.iterdir()):
            verify(open_finished(each, Disk()), Disk())
            shutil.move(each, pulled / each.name)
        return port

    report = pack_onto(surveyed, Targets(ask=swap), outside(disk))
    assert [number for number, _ in asked] == list(range(2, len(report.parts) + 1))
    assert [size for _, size in asked] == sorted((size for _, size in asked), reverse=True)
    first = min(pulled.iterdir())
    assert bagit.Bag(str(first)).info["Bag-Count"] == "2 of ?"
    with pytest.raises(ZestyError, match="does not list all parts"):
        unpacked(surveyed, first)
    parts = [*pulled.iterdir(), *port.iterdir()]
    assert unpacked(surveyed, surveyed.crate.root, *parts) == digests(surveyed.old_disks / SOUNDS)


def test_a_full_stick_is_refused_and_another_one_will_do(surveyed: SmallMove) -> None:
    full, other = surveyed.demo.root / "full", surveyed.demo.root / "other"
    full.mkdir()
    other.mkdir()
    disk = Sticks({surveyed.crate.root.parent: PART, full: 100_000})
    with pytest.raises(HalfwayError, match="100,000 bytes free, which is not enough"):
        pack_onto(surveyed, Targets(ask=lambda *_: full), outside(disk))
    assert [part.part for part in pack_onto(surveyed, Targets(onto=(other,)), outside(disk)).parts] == [1, 2]
    assert list(full.iterdir()) == []


def test_a_carrier_that_is_not_needed_is_left_as_it_is(surveyed: SmallMove) -> None:
    other, third = surveyed.demo.root / "other", surveyed.demo.root / "third"
    other.mkdir()
    third.mkdir()
    assert len(pack_onto(surveyed, Targets(onto=(other, third))).parts) == 1
    assert list(other.iterdir()) == list(third.iterdir()) == []
    assert "Bag-Count" not in bagit.Bag(str(surveyed.crate.root)).info


def test_nobody_to_ask_is_refused_before_anything_is_copied(surveyed: SmallMove) -> None:
    disk = Sticks({surveyed.crate.root.parent: PART})
    with pytest.raises(ZestyError, match=r"has [0-9,]+ bytes free; [0-9,]+ bytes are lacking"):
        pack_onto(surveyed, Targets(), outside(disk))
    with pytest.raises(ZestyError, match="has room only for the crate's own records"):
        pack_onto(surveyed, Targets(part_bytes=1000))
    with pytest.raises(ZestyError, match="folder for part 2 does not exist"):
        pack_onto(surveyed, Targets(onto=(surveyed.demo.root / "none",)))
    assert not surveyed.crate.data.exists()
    pack_onto(surveyed, Targets())


def test_what_is_on_a_carrier_is_not_touched(surveyed: SmallMove) -> None:
    beside = surveyed.crate.root.with_name("crate - part 2")
    beside.mkdir()
    (beside / "letter.txt").write_text("mine")
    with pytest.raises(ZestyError, match="does not belong to this crate"):
        pack_onto(surveyed, Targets(part_bytes=PART))
    assert [path.name for path in beside.iterdir()] == ["letter.txt"]


class Silent(Disk):
    """A carrier that does not tell its format."""

    def format_of(self, folder: Path) -> str:  # noqa: ARG002
        return ""


def test_a_carrier_that_does_not_tell_its_format_is_told(surveyed: SmallMove, monkeypatch: pytest.MonkeyPatch) -> None:
    limit = 3 << 20  # far less than it really is, so that no gigabytes need be written
    monkeypatch.setitem(FORMATS, "fat32", replace(FORMATS["fat32"], largest_file_bytes=limit))
    with (surveyed.old_disks / SOUNDS / "Flood.wav").open("wb") as stream:
        stream.truncate(5 << 20)
    shutil.rmtree(surveyed.crate.root)
    surveyed.survey()
    report = pack_onto(surveyed, Targets(format="fat32"), outside(Silent()))
    segments = list(surveyed.crate.data.rglob("Flood*"))
    assert sorted(path.stat().st_size for path in segments) == [(5 << 20) - limit, limit]
    assert report.parts[0].files == report.files + 1
    assert all(path.stat().st_blocks < 1000 for path in segments), "holes stay holes"


def test_a_second_copy_is_the_same_and_whole(surveyed: SmallMove, tmp_path: Path) -> None:
    second = tmp_path / "space"
    second.mkdir()
    with pytest.raises(ZestyError, match="must not be the crate itself"):
        pack_onto(surveyed, Targets(second=surveyed.demo.carrier))
    with pytest.raises(HalfwayError):
        pack_onto(surveyed, Targets(), outside(FaultyDisk(50, full=True)))
    report = pack_onto(surveyed, Targets(second=second, part_bytes=PART))
    assert report.already_there
    for part in report.parts:
        assert picture(Path(part.at), dates=False) == picture(Path(part.second), dates=False)
        bagit.Bag(part.second).validate()
    assert unpacked(surveyed, Path(report.parts[0].second)) == digests(surveyed.old_disks / SOUNDS)


def test_a_cut_file_that_changed_before_the_rest_of_it_was_taken_is_taken_anew(surveyed: SmallMove) -> None:
    disk = Sticks({surveyed.crate.root.parent: PART})
    with pytest.raises(HalfwayError, match="have no carrier yet"):
        pack_onto(surveyed, Targets(ask=lambda *_: None), outside(disk))
    thunder = surveyed.old_disks / SOUNDS / "Thunder.wav"
    thunder.write_bytes(bytes(reversed(thunder.read_bytes())))
    other = surveyed.demo.root / "other"
    other.mkdir()
    report = pack_onto(surveyed, Targets(onto=(other,)), outside(disk))
    assert any("Thunder" in path for path in report.changed_since_survey)
    assert unpacked(surveyed, surveyed.crate.root, other) == digests(surveyed.old_disks / SOUNDS)


class Noting(FaultyDisk):
    """One that notes at which of its changes a part or a copy is finished."""

    def __init__(self) -> None:
        super().__init__()
        self.finished: list[int] = []

    def strike(self, name: str, arguments: tuple[Any, ...]) -> None:
        super().strike(name, arguments)
        if name == "write_text" and Path(arguments[0]).name == "tagmanifest-sha512.txt":
            self.finished.append(self.changes)


@pytest.mark.parametrize("first", [1, 8])  # two halves, since they take long; every other one is torn
def test_parts_killed_at_any_change_resume_to_the_same(surveyed: SmallMove, tmp_path: Path, first: int) -> None:
    laid_out, place = surveyed.demo.root, tmp_path / "copy"

    def fresh() -> SmallMove:
        shutil.rmtree(place, ignore_errors=True)
        shutil.copytree(laid_out, place, symlinks=True)
        (place / "space").mkdir()
        return SmallMove.at(place)

    def payload(move: SmallMove) -> list[dict[str, str]]:
        return [joined(folder) for folder in (move.demo.carrier, place / "space")]

    targets = Targets(part_bytes=PART, second=place / "space")
    counting = Noting()
    move = fresh()
    pack_onto(move, targets, outside(counting))
    unbroken = payload(move)
    end, between = counting.changes, [at + 1 for at in counting.finished[first % 2 :: 2]]
    assert between
    for at in sorted({*range(first, end, 7 * LONG_STRIDE), *between[::LONG_STRIDE]}):
        move = fresh()
        with pytest.raises(Killed):
            pack_onto(move, targets, outside(FaultyDisk(at, torn=at % 2 == 0)))
        if not move.crate.is_finished(Disk()):
            pack_onto(move, targets)
        assert payload(move) == unbroken, f"killed at change {at} of {end}"


def joined(folder: Path) -> dict[str, str]:
    """The files of all parts in a folder, each part whole and each file made of its segments, by their digests."""
    pieces: defaultdict[str, dict[int, bytes]] = defaultdict(dict)
    for part in folder.glob("crate*"):
        verify(open_finished(part, Disk()), Disk())
        for path in (path for path in (part / "data").rglob("*") if path.is_file()):
            name, _, first = path.relative_to(part).as_posix().partition("~(from ")
            pieces[name][int(first.rstrip(")") or 0)] = path.read_bytes()
    return {
        name: hashlib.sha512(b"".join(content for _, content in sorted(found.items()))).hexdigest()
        for name, found in pieces.items()
    }


# -- sharing out -----------------------------------------------------------------------------------------------------

SHELVES = st.builds(
    lambda left, more, largest: (left, left + more, largest),
    st.integers(0, 40),
    st.integers(0, 10),
    st.integers(1, 60),
)


@given(st.lists(st.integers(0, 90), max_size=12), st.lists(SHELVES, min_size=1, max_size=5), st.integers(1, 5))
def test_what_is_shared_out_fits_and_is_whole(sizes: list[int], rooms: list[tuple[int, int, int]], first: int) -> None:
    made = [Space(number, *room) for number, room in enumerate(rooms, start=1)]
    spaces, later = made[:first], iter(made[first:])
    files = [PendingFile(number, size) for number, size in enumerate(sizes)]
    pieces = list(distribute(files, spaces, lambda: next(later, None)))
    used: defaultdict[int, int] = defaultdict(int)
    ends: dict[int, int] = {}
    for piece in pieces:
        left, _, largest = rooms[piece.bag - 1]
        assert piece.length <= largest
        used[piece.bag] += piece.length
        assert used[piece.bag] <= left
        assert piece.first == ends.get(piece.file, 0)
        ends[piece.file] = piece.first + piece.length
        assert piece.is_segment or piece.length == sizes[piece.file]
    assert all(end <= sizes[file] for file, end in ends.items())


def test_nothing_is_cut_that_fits_somewhere_whole() -> None:
    spaces = [Space(1, 50, 50, 100), Space(2, 100, 100, 100)]
    pieces = list(distribute([PendingFile(1, 80), PendingFile(2, 40)], spaces, lambda: None))
    assert [(piece.file, piece.bag, piece.is_segment) for piece in pieces] == [(1, 2, False), (2, 1, False)]
