"""A move of many small files."""

from __future__ import annotations

import os
from pathlib import Path

import bagit
import pytest

from support.barn import HOME, NEW_HOME, Barn
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


def test_many_small_files_go_there_and_back_whole(tmp_path: Path) -> None:
    """So many that another process lends a hand; one of them is damaged in the crate, and is named."""
    barn = Barn(tmp_path)
    names = [f"Music/Set {number % 7}/{number} d\u00e9j\u00e0.wav" for number in range(1_200)]
    for name in names:
        barn.write(f"{HOME}/{name}", name)
    barn.write("guides/all.toml", ALL_MUSIC)
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
        assert not [path for path in (tmp_path / NEW_HOME / "Music").rglob("*") if path.is_file()]
        harmed = next((tmp_path / "crate/data").rglob("77 *.wav"))
        harmed.write_text("x" * harmed.stat().st_size)
        with pytest.raises(DamagedCrate) as raised:
            prepare_unpack(move)
    assert [line.partition(": ")[2] for line in raised.value.details] == ["other content than was carried"]
