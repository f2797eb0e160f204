"""The whole theatre goes to a computer with work on it, and everything that can go wrong goes wrong.

``ZESTY_KILLS`` says how often the program is killed at a random time; ``make faults`` does so 200 times.
"""

from __future__ import annotations

import os
import random
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from conftest import Zesty
from support.moves import SmallMove, picture
from zesty_crate.crate import Crate, Scope, create_crate, pack
from zesty_crate.demo import correct_sheet, lay_out
from zesty_crate.guides import load_guides
from zesty_crate.machines import Outside, load_sheet
from zesty_crate.plan import PlanOptions, make_plan

KILLS = int(os.environ.get("ZESTY_KILLS", "4"))
LAMP = "/Users/odile.k/Music/Wimblethorn Sounds/Lamp Lit.wav"


@pytest.fixture(scope="module")
def theatre(tmp_path_factory: pytest.TempPathFactory) -> SmallMove:
    """The whole theatre, packed and planned, with what is in the way decided."""
    demo = lay_out(tmp_path_factory.mktemp("theatre") / "demo")
    correct_sheet(demo)
    world, crate = Outside(), Crate(demo.carrier / "crate")
    guides = load_guides([demo.guides], world.disk)
    create_crate(crate, load_sheet(demo.old_sheet, world.disk), guides, world)
    pack(crate, Scope(outside=True), world)
    move = SmallMove.at(demo.root)
    with move.opened() as opened:
        assert make_plan(opened, PlanOptions(decisions=("newer", f"{LAMP}=both"))).blockers == ()
    for folder in (move.new_disks, crate.root / "moves"):
        shutil.copytree(folder, folder.with_name(folder.name + " before"), symlinks=True)
    return move


@pytest.fixture
def fresh(theatre: SmallMove) -> SmallMove:
    reset(theatre)
    return theatre


def reset(move: SmallMove) -> None:
    for folder in (move.new_disks, move.crate.root / "moves"):
        shutil.rmtree(folder)
        shutil.copytree(folder.with_name(folder.name + " before"), folder, symlinks=True)


def test_killed_at_random_times_it_resumes_and_undoes(fresh: SmallMove) -> None:
    before, chance = picture(fresh.new_disks), random.Random(KILLS)
    spans = {}
    for step in ("unpack", "relink"):
        begun = time.monotonic()
        assert running(fresh, step).wait() == 0
        spans[step] = time.monotonic() - begun
    after = picture(fresh.new_disks, dates=False)  # what is relinked is of today
    for number in range(KILLS):
        reset(fresh)
        for step in ("unpack", "relink")[: 1 + number % 2]:
            program = running(fresh, step)
            time.sleep(chance.uniform(0.1, spans[step]))
            program.send_signal(signal.SIGKILL)
            program.wait()
            if step == "unpack":
                fresh.unpack()
        if number % 3:
            fresh.relink()
            assert picture(fresh.new_disks, dates=False) == after, f"resumed, round {number}"
        fresh.undo()
        assert picture(fresh.new_disks) == before, f"undone, round {number}"


def running(move: SmallMove, step: str) -> subprocess.Popen[bytes]:
    program = Path(sys.executable).parent / "zesty"
    command = [str(each) for each in (program, step, move.crate.root, "--to", move.demo.new_sheet, "--yes")]
    return subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


@contextmanager
def small_volume(move: SmallMove, options: str) -> Iterator[Path]:
    """The new computer's own volume as a real file system in 8 MB of memory."""
    mount = move.new_disks / "system"
    held = move.new_disks / "held"
    mount.rename(held)
    mount.mkdir()
    command = ["mount", "-t", "tmpfs", "-o", f"size=8m,{options}", "tmpfs", str(mount)]
    if (
        os.name == "nt"
        or not shutil.which("mount")
        or subprocess.run(command, capture_output=True, check=False).returncode
    ):
        pytest.skip("only who may mount file systems can try this")
    try:
        shutil.copytree(held, mount, symlinks=True, dirs_exist_ok=True)
        shutil.rmtree(held)
        yield mount
    finally:
        subprocess.run(["umount", "-l", str(mount)], check=True)


def remount(mount: Path, options: str) -> None:
    subprocess.run(["mount", "-o", f"remount,{options}", str(mount)], check=True)


def test_a_volume_that_fills_up_on_the_way(fresh: SmallMove, zesty: Zesty) -> None:
    to = ("--to", fresh.demo.new_sheet, "--yes")
    with small_volume(fresh, "nr_inodes=120") as mount:
        before = picture(fresh.new_disks)
        said = zesty("unpack", fresh.crate.root, *to)
        assert said.returncode == 4, said.stdout + said.stderr
        assert "No space left on device" in said.stderr
        assert zesty("undo", fresh.crate.root, *to).returncode == 0
        assert picture(fresh.new_disks) == before
        assert zesty("unpack", fresh.crate.root, *to).returncode == 4
        remount(mount, "nr_inodes=2000")
        assert zesty("unpack", fresh.crate.root, *to).returncode == 0
        assert zesty("relink", fresh.crate.root, *to).returncode == 0
        assert fresh.check().totals["missing"] == 0
        filling = mount / "filling"
        filling.write_bytes(bytes(os.statvfs(mount).f_bavail * os.statvfs(mount).f_frsize))
        stopped = zesty("undo", fresh.crate.root, *to)  # what was replaced is brought back beside its place first
        assert (stopped.returncode, "Free some room there" in stopped.stderr) == (4, True)
        filling.unlink()
        assert zesty("undo", fresh.crate.root, *to).returncode == 0
        assert picture(fresh.new_disks) == before


def test_a_volume_without_room_is_refused_before_anything_happens(fresh: SmallMove, zesty: Zesty) -> None:
    with small_volume(fresh, "nr_inodes=0") as mount:
        (mount / "somebody's").write_bytes(bytes(7 << 20))
        before = picture(fresh.new_disks)
        said = zesty("unpack", fresh.crate.root, "--to", fresh.demo.new_sheet, "--yes")
        assert said.returncode == 3
        assert "are needed" in said.stderr
        assert picture(fresh.new_disks) == before


def test_a_volume_that_cannot_be_written_to(fresh: SmallMove, zesty: Zesty) -> None:
    to = ("--to", fresh.demo.new_sheet, "--yes")
    with small_volume(fresh, "nr_inodes=0") as mount:
        before = picture(fresh.new_disks)
        remount(mount, "ro")
        said = zesty("unpack", fresh.crate.root, *to)
        assert said.returncode == 3  # before anything happens
        assert "folders where this user may write nothing" in said.stderr
        remount(mount, "rw")
        assert zesty("unpack", fresh.crate.root, *to).returncode == 0
        assert zesty("undo", fresh.crate.root, *to).returncode == 0
        assert picture(fresh.new_disks) == before


def test_a_volume_that_goes_away(fresh: SmallMove, zesty: Zesty) -> None:
    to = ("--to", fresh.demo.new_sheet, "--yes")
    before = picture(fresh.new_disks)
    spools = fresh.new_disks / "spools"
    program = running(fresh, "unpack")
    while not any(spools.rglob("*.wav")) and program.poll() is None:
        time.sleep(0.005)
    spools.rename(spools.with_name("unplugged"))
    assert program.wait() in (0, 4)
    said = zesty("unpack", fresh.crate.root, *to)
    assert said.returncode == 3
    assert "volume that is not connected" in said.stderr
    spools.with_name("unplugged").rename(spools)
    assert zesty("unpack", fresh.crate.root, *to).returncode == 0
    fresh.relink()
    assert fresh.check().totals["missing"] == 0
    fresh.undo()
    assert picture(fresh.new_disks) == before
