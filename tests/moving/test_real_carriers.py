"""The whole theatre over real carriers: there, checked and back, with kills on the way.

What comes to the new computer over a carrier of any format is what comes over a plain folder. What cannot be
mounted here is skipped.
"""

from __future__ import annotations

import random
import shutil
from pathlib import Path

import pytest

from conftest import Zesty
from support.carriers import MAKERS, a_carrier
from support.moves import SmallMove, picture
from zesty_crate.demo import correct_sheet
from zesty_crate.demo.content import sounds

KILLED = -9


@pytest.fixture(scope="module")
def theatre(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Both computers of the whole theatre."""
    move = SmallMove(tmp_path_factory.mktemp("theatre") / "demo", sounds())
    correct_sheet(move.demo)
    return move.demo.root


@pytest.fixture(scope="module")
def expected(theatre: Path, tmp_path_factory: pytest.TempPathFactory, zesty: Zesty) -> dict[str, object]:
    """What comes to the new computer over a plain folder."""
    root = tmp_path_factory.mktemp("plain") / "demo"
    shutil.copytree(theatre, root, symlinks=True)
    move = SmallMove.at(root)
    travel(move, move.demo.carrier / "crate", zesty, None)
    return dict(picture(move.new_disks, dates=False))


def travel(move: SmallMove, crate: Path, zesty: Zesty, chance: random.Random | None) -> None:
    """Everything from survey to check; by ``chance`` each command is killed on its way first."""
    to = ("--to", move.demo.new_sheet)
    for command in (
        ("survey", crate, "--from", move.demo.old_sheet, "--guides", move.demo.guides),
        ("pack", crate, "--outside"),
        ("plan", crate, *to, "--decide", "bring-in"),
        ("unpack", crate, *to, "--yes"),
        ("relink", crate, *to, "--yes"),
        ("check", crate, *to),
    ):
        if chance is not None:
            killed = zesty(*command, kill_at=int(2 ** chance.uniform(2, 6)))
            assert killed.returncode in (KILLED, 0, 1), killed.stderr
        said = zesty(*command)
        is_over = said.returncode == 3 and "already" in said.stderr
        assert said.returncode in (0, 1) or is_over, f"{command}: {said.stdout}{said.stderr}"


@pytest.mark.parametrize("format", ["tmpfs", *MAKERS])
def test_the_theatre_goes_over_a_real_carrier_and_back(
    theatre: Path,
    expected: dict[str, object],
    tmp_path: Path,
    zesty: Zesty,
    format: str,  # noqa: A002
) -> None:
    with a_carrier(tmp_path / "carrier", format) as carrier:
        shutil.copytree(theatre, tmp_path / "demo", symlinks=True)
        move = SmallMove.at(tmp_path / "demo")
        before = picture(move.new_disks)
        travel(move, carrier / "crate", zesty, random.Random(format))
        assert picture(move.new_disks, dates=False) == expected
        assert zesty("pack", carrier / "crate", "--verify-only").returncode == 0
        undone = zesty("undo", carrier / "crate", "--to", move.demo.new_sheet, "--yes")
        assert undone.returncode == 0, undone.stderr
        assert picture(move.new_disks) == before
