"""A run killed at any change resumes to what an unbroken run comes to, and undoes to what was before.

It is killed at every seventh change, and with `make faults` at every one.
"""

from __future__ import annotations

import contextlib
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path

import apsw
import pytest

from support.moves import SmallMove, picture
from support.outside import STRIDE, FaultyDisk, Killed, outside
from zesty_crate.crate import Crate, Scope, create_crate, open_finished, pack
from zesty_crate.errors import ZestyError
from zesty_crate.guides import load_guides
from zesty_crate.machines import Disk, Outside, load_sheet
from zesty_crate.moving import undo
from zesty_crate.plan import open_move
from zesty_crate.relink import rehome, rehome_route


@pytest.fixture
def copies(tmp_path: Path) -> Callable[[Path], Iterator[SmallMove]]:
    """Fresh copies of a laid-out move, one for each kill, at one and the same place."""

    def each(root: Path) -> Iterator[SmallMove]:
        place = tmp_path / "copy"
        while True:
            shutil.rmtree(place, ignore_errors=True)
            shutil.copytree(root, place, symlinks=True)
            yield SmallMove.at(place)

    return each


def changes_in(step: Callable[[Outside], object]) -> int:
    disk = FaultyDisk()
    step(outside(disk))
    return disk.changes


def kill(step: Callable[[Outside], object], at: int, *, torn: bool) -> None:
    with pytest.raises(Killed):
        step(outside(FaultyDisk(at, torn=torn)))


def crate_content(move: SmallMove) -> dict[str, object]:
    """A crate by what it says: payload and manifest byte for byte, the survey row by row."""
    files: dict[str, object] = dict(picture(move.crate.data))
    files["manifest"] = (move.crate.root / "manifest-sha512.txt").read_text()
    database = apsw.Connection(str(move.crate.survey_path), flags=apsw.SQLITE_OPEN_READONLY)
    for (table,) in list(database.execute("SELECT name FROM sqlite_schema WHERE type = 'table'")):
        # Where the sheet lay differs from copy to copy, and is meant to.
        rows = database.execute(f"SELECT * FROM {table}")
        files[f"table {table}"] = sorted((row for row in rows if row[0] != "sheet_folder"), key=repr)
    database.close()
    return files


def test_survey_and_pack_killed_at_every_change_resume_to_the_same_crate(
    tmp_path: Path, copies: Callable[[Path], Iterator[SmallMove]]
) -> None:
    SmallMove(tmp_path / "laid out")
    fresh = copies(tmp_path / "laid out")
    for step, before in (("survey", None), ("pack", "survey")):
        move = next(fresh)
        if before:
            getattr(move, before)()
        total = changes_in(getattr(move, step))
        if step == "survey":
            move.pack()
        unbroken = crate_content(move)
        for at in range(1 + total % STRIDE, total + 1, STRIDE):
            move = next(fresh)
            if before:
                getattr(move, before)()
            kill(getattr(move, step), at, torn=at % 2 == 0)
            if step == "survey" and not move.crate.survey_path.exists():
                move.survey()
            if not (move.crate.root / "tagmanifest-sha512.txt").exists():
                move.pack()
            assert crate_content(move) == unbroken, f"{step} killed at change {at} of {total}"
            assert not move.crate.incoming.exists()


@pytest.mark.parametrize("step", ["unpack", "relink"])
def test_unpack_and_relink_killed_at_every_change(
    step: str, planned: Path, copies: Callable[[Path], Iterator[SmallMove]], tmp_path: Path
) -> None:
    start = SmallMove.at(shutil.copytree(planned, tmp_path / "start", symlinks=True))
    untouched = picture(start.new_disks)
    if step == "relink":
        start.unpack()
    fresh = copies(start.demo.root)
    move = next(fresh)
    total = changes_in(getattr(move, step))
    unbroken = picture(move.new_disks)
    for at in range(1 + total % STRIDE, total + 1, STRIDE):
        move = next(fresh)
        kill(getattr(move, step), at, torn=at % 2 == 0)
        getattr(move, step)()
        assert picture(move.new_disks) == unbroken, f"resumed after {at} of {total}"
        move.undo()
        assert picture(move.new_disks) == untouched, f"resumed and undone after {at} of {total}"

        move = next(fresh)
        kill(getattr(move, step), at, torn=at % 2 == 1)
        move.undo()
        assert picture(move.new_disks) == untouched, f"undone after {at} of {total}"


def test_undo_killed_at_every_change_is_undone_by_the_next(
    planned: Path, copies: Callable[[Path], Iterator[SmallMove]], tmp_path: Path
) -> None:
    start = SmallMove.at(shutil.copytree(planned, tmp_path / "start", symlinks=True))
    untouched = picture(start.new_disks)
    start.unpack()
    start.relink()
    fresh = copies(start.demo.root)
    total = changes_in(next(fresh).undo)
    for at in range(1 + total % STRIDE, total + 1, STRIDE):
        move = next(fresh)
        kill(move.undo, at, torn=at % 2 == 0)
        move.undo()
        assert picture(move.new_disks) == untouched, f"undo killed at change {at} of {total}"


STORE = "E:\\Lanternfold\\Sound Store=E:\\Final\\Sounds"


def keeping(move: SmallMove) -> Callable[[Outside], object]:
    """A crate that keeps the catalogs of the old computer; the rehoming of its sounds as one step."""
    sheet = load_sheet(move.demo.old_sheet, Disk())
    kept = Crate(move.demo.carrier / "kept")
    create_crate(kept, sheet, load_guides([move.demo.guides], Disk()), outside(Disk()))
    pack(kept, Scope(only=("wimblethorn/shelf",)), outside(Disk()))

    def run(given: Outside) -> object:
        opened = open_move(open_finished(kept.root, given.disk), sheet, given)
        try:
            return rehome(opened, rehome_route(STORE, sheet, given, kept.root))
        finally:
            opened.survey.close()

    return run


def take_back(move: SmallMove) -> None:
    sheet = load_sheet(move.demo.old_sheet, Disk())
    opened = open_move(open_finished(move.demo.carrier / "kept", Disk()), sheet, outside(Disk()))
    with contextlib.closing(opened.survey), contextlib.suppress(ZestyError):  # nothing may stand of it yet
        undo(opened)


def test_rehoming_killed_at_every_change_is_taken_back_to_the_same_bytes(
    planned: Path, copies: Callable[[Path], Iterator[SmallMove]]
) -> None:
    fresh = copies(planned)
    move = next(fresh)
    before = picture(move.old_disks)
    total = changes_in(keeping(move))
    assert (move.old_disks / "e/Final/Sounds").is_dir()
    for at in range(1 + total % STRIDE, total + 1, STRIDE):
        move = next(fresh)
        kill(keeping(move), at, torn=at % 2 == 0)
        take_back(move)
        assert picture(move.old_disks) == before, f"killed at change {at} of {total}"


def test_rehoming_that_fails_leaves_everything_as_it_was(small: SmallMove) -> None:
    before = picture(small.old_disks)
    run = keeping(small)
    (catalog,) = small.old_disks.rglob("shelf.db")
    content = catalog.read_bytes()
    catalog.write_bytes(content[:5000])  # damaged since
    damaged = picture(small.old_disks)
    with pytest.raises(ZestyError):
        run(outside(Disk()))
    assert picture(small.old_disks) == damaged
    catalog.write_bytes(content)
    assert before.keys() == picture(small.old_disks).keys()
