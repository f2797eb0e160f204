"""Room and time before anything is copied."""

from __future__ import annotations

from collections import namedtuple
from pathlib import Path

import psutil
import pytest

from support.moves import SmallMove
from support.outside import outside
from zesty_crate.crate import Room, Scope, pack
from zesty_crate.errors import ZestyError
from zesty_crate.machines import Disk


class Stick(Disk):
    """A carrier of some format and some room."""

    def __init__(self, form: str, free_bytes: int = 1 << 40) -> None:
        self._form = form
        self._free = free_bytes

    def format_of(self, folder: Path) -> str:  # noqa: ARG002
        return self._form

    def free_bytes(self, folder: Path) -> int:  # noqa: ARG002
        return self._free


def sparse(move: SmallMove, size: int) -> None:
    """One of the sounds grows, without taking any room."""
    sound = move.old_disks / "c/Users/Odile/Music/Wimblethorn Sounds/Lamp Lit.wav"
    with sound.open("ab") as stream:
        stream.truncate(size)


def test_what_is_to_be_copied_is_told_with_the_room_there_is(tmp_path: Path) -> None:
    move = SmallMove(tmp_path)
    move.survey()
    told: list[Room] = []
    report = pack(move.crate, Scope(), outside(Stick("exfat", 10 << 20)), announce=told.append)
    (room,) = told
    assert (room.files, room.size_bytes) == (report.files, report.size_bytes)
    assert 0 < room.least_s < room.most_s < 60
    assert [(part.free_bytes, part.format, part.files) for part in room.parts] == [(10 << 20, "exfat", room.files)]
    assert room.largest.endswith(".wav")


def test_lacking_room_is_told_with_all_numbers(tmp_path: Path) -> None:
    move = SmallMove(tmp_path)
    move.survey()
    with pytest.raises(ZestyError, match=r"records about [0-9,]+\. .* has 1,000 bytes free; [0-9,]+ bytes are lacking"):
        pack(move.crate, Scope(), outside(Stick("ext4", 1000)))


def test_the_time_comes_from_a_short_trial_that_leaves_nothing(tmp_path: Path) -> None:
    move = SmallMove(tmp_path)
    sparse(move, 65 << 20)
    move.survey()
    told: list[Room] = []
    pack(move.crate, Scope(), outside(), announce=told.append)
    assert told[0].least_s is not None
    assert told[0].most_s is not None
    assert 0 < told[0].least_s < told[0].most_s
    assert sorted(path.name for path in move.crate.own.iterdir()) == ["about.json", "guides", "sheet.toml", "survey.db"]


def test_the_format_is_that_of_the_nearest_mount_by_our_name(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    part = namedtuple("part", ["mountpoint", "fstype"])
    mounts = [
        part("/", "ext4"),
        part(str(tmp_path / "stick"), "vfat"),
        part(str(tmp_path / "stick of another"), "ntfs3"),
    ]
    monkeypatch.setattr(psutil, "disk_partitions", lambda all: mounts)  # noqa: A006, ARG005  psutil's own word
    found = [Disk().format_of(tmp_path / name) for name in ("stick/crates/one", "stick of another", "else")]
    assert found == ["fat32", "ntfs", "ext4"]
    monkeypatch.setattr(psutil, "disk_partitions", lambda all: [])  # noqa: A006, ARG005
    assert Disk().format_of(tmp_path) == ""
