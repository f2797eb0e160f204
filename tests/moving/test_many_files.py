"""A move of many small files."""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
import time
from pathlib import Path

import bagit
import pytest

from conftest import Zesty
from support.barn import HOME, NEW_HOME, Barn
from support.moves import picture
from zesty_crate.check import Content, check
from zesty_crate.crate import DamagedCrate
from zesty_crate.moving import prepare_unpack, undo, unpack
from zesty_crate.plan import make_plan

ALL_MUSIC = """[guide]
id = "all"
title = "All music"
language = 1
[[holding]]
id = "music"
kind = "media"
at = "{music}"
"""


def with_many_files(root: Path) -> tuple[Barn, list[str]]:
    """A barn with so much music that another process lends a hand; the names of the files below the home."""
    barn = Barn(root)
    names = [f"Music/Set {number % 7}/{number} d\u00e9j\u00e0.wav" for number in range(1_200)]
    for name in names:
        barn.write(f"{HOME}/{name}", name)
    barn.write("guides/all.toml", ALL_MUSIC)
    return barn, names


def test_many_small_files_go_there_and_back_whole(tmp_path: Path) -> None:
    """So many that another process lends a hand; one of them is damaged in the crate, and is named."""
    barn, names = with_many_files(tmp_path)
    barn.packed("crate", tmp_path / "guides")
    bagit.Bag(str(tmp_path / "crate")).validate()
    with barn.opened() as move:
        make_plan(move)
        report = unpack(move, prepare_unpack(move))
        assert report.files == 1_202
        assert {name: (tmp_path / NEW_HOME / name).read_text() for name in names} == {name: name for name in names}
        read = check(move, content=Content.ALL).content
        assert read is not None
        assert (read.carried, read.read, read.differ) == (1_202, 1_202, 0)
        spoilt = tmp_path / NEW_HOME / names[500]
        facts = spoilt.stat()
        spoilt.write_text("x" * facts.st_size)
        os.utime(spoilt, ns=(facts.st_atime_ns, facts.st_mtime_ns))
        read = check(move, content=Content.ALL).content
        assert read is not None
        assert (read.read, read.differ) == (1_202, 1)
        undo(move)
        assert [path for path in (tmp_path / NEW_HOME / "Music").rglob("*") if path.is_file()] == [spoilt]
        spoilt.unlink()
        harmed = next((tmp_path / "crate/data").rglob("77 *.wav"))
        harmed.write_text("x" * harmed.stat().st_size)
        with pytest.raises(DamagedCrate) as raised:
            prepare_unpack(move)
    assert [line.partition(": ")[2] for line in raised.value.details] == ["content differs from what was carried"]


@pytest.mark.skipif(not hasattr(signal, "SIGKILL"), reason="this system has no such signal")
def test_killed_while_both_are_at_work_it_goes_on_and_all_is_whole(zesty: Zesty, tmp_path: Path) -> None:
    with_many_files(tmp_path)
    crate, to, chance = tmp_path / "crate", ("--to", tmp_path / "new.toml"), random.Random(7)
    assert zesty("survey", crate, "--from", tmp_path / "old.toml", "--guides", tmp_path / "guides").returncode == 0

    def killed_and_begun_again(*arguments: str | Path) -> None:
        program = [Path(sys.executable).parent / "zesty", *arguments]
        for _ in range(4):
            with subprocess.Popen(program, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL) as process:
                time.sleep(chance.uniform(0.4, 1.2))
                process.kill()
        again = zesty(*arguments)
        assert again.returncode == 0 or "already packed" in again.stderr, again.stderr

    killed_and_begun_again("pack", crate, "--outside")
    bagit.Bag(str(crate)).validate()
    assert sorted(path.name for path in (crate / "zesty").iterdir()) == [
        "about.json",
        "guides",
        "sheet.toml",
        "survey.db",
    ]
    assert zesty("plan", crate, *to).returncode == 0
    killed_and_begun_again("unpack", crate, *to, "--yes")
    old, new = tmp_path / HOME / "Music", tmp_path / NEW_HOME / "Music"
    assert picture(new, dates=False) == picture(old, dates=False)
    assert zesty("undo", crate, *to, "--yes").returncode == 0
    assert not [path for path in new.rglob("*") if path.is_file()]
