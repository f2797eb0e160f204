"""Files are found as their own computer would find them, on any disk."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest

from support.outside import outside
from zesty_crate.machines import (
    Computer,
    Contents,
    Disk,
    DiskError,
    Finder,
    Sight,
    Volume,
    own_folder,
    working_folder,
)
from zesty_crate.paths import FORMATS, MachinePath, System


def finder(mount: Path | None, format_: str, system: System = System.LINUX) -> Finder:
    anchor = MachinePath(system, "C:" if system is System.WINDOWS else "/")
    volume = Volume(anchor, FORMATS[format_], "", mount)
    return Finder(Computer("barn", system, "odile", [volume], {}), Disk())


def posix(*parts: str) -> MachinePath:
    return MachinePath(System.LINUX, "/", parts)


@pytest.mark.parametrize(
    ("format_", "asked", "sight"),
    [
        ("ext4", "owl.wav", Sight.ABSENT),
        ("ext4", "Owl.wav", Sight.THERE),
        ("ntfs", "OWL.WAV", Sight.THERE),
        ("apfs", "oWl.wav", Sight.THERE),
        ("apfs-case", "owl.wav", Sight.ABSENT),
        ("ntfs", "Fore\u0302t", Sight.ABSENT),
        ("apfs", "Fore\u0302t", Sight.THERE),
        ("apfs-case", "Fore\u0302t", Sight.THERE),
    ],
)
def test_case_and_form_go_by_the_volume(tmp_path: Path, format_: str, asked: str, sight: Sight) -> None:
    (tmp_path / "Owl.wav").touch()
    (tmp_path / "For\u00eat").touch()
    seen = finder(tmp_path, format_).find(posix(asked))
    assert seen.sight is sight
    if sight is Sight.THERE:
        assert seen.path.name in ("Owl.wav", "For\u00eat")
        assert seen.real is not None
        assert seen.real.exists()


def test_twins_are_told_and_the_exact_name_wins(tmp_path: Path) -> None:
    (tmp_path / "Owl.wav").touch()
    (tmp_path / "OWL.wav").touch()
    if len(list(tmp_path.iterdir())) == 1:
        pytest.skip("this disk itself takes them for one")
    look = finder(tmp_path, "ntfs", System.WINDOWS)
    assert look.find(MachinePath(System.WINDOWS, "C:", ("Owl.wav",))).sight is Sight.THERE
    assert look.find(MachinePath(System.WINDOWS, "C:", ("owl.wav",))).sight is Sight.TWINS


def test_a_volume_that_is_not_here_is_unplugged(tmp_path: Path) -> None:
    assert finder(None, "ext4").find(posix("a")).sight is Sight.UNPLUGGED
    assert finder(tmp_path / "gone", "ext4").find(posix("a")).sight is Sight.UNPLUGGED
    assert finder(tmp_path, "ext4").find(MachinePath(System.WINDOWS, "Q:", ("a",))).sight is Sight.UNPLUGGED


def test_a_volume_inside_another_has_its_own_files(tmp_path: Path) -> None:
    outer, inner = tmp_path / "outer", tmp_path / "inner"
    outer.mkdir()
    (inner / "Rain").mkdir(parents=True)
    volumes = [Volume(posix(), FORMATS["ext4"], "", outer), Volume(posix("mnt", "s"), FORMATS["ext4"], "", inner)]
    look = Finder(Computer("barn", System.LINUX, "o", volumes, {}), Disk())
    assert look.find(posix("mnt", "s")).real == inner
    assert look.find(posix("mnt", "s", "Rain")).real == inner / "Rain"
    assert look.find(posix("mnt")).sight is Sight.ABSENT
    assert look.destination(posix("mnt", "s", "New", "a.wav")) == posix("mnt", "s", "New", "a.wav")


@pytest.mark.parametrize("format_", ["ext4", "apfs"])
def test_what_a_folder_lacks_is_never_found_in_it(tmp_path: Path, format_: str) -> None:
    """Nothing is said of a name that may be a volume, a link, or what cannot be listed."""
    drive, main = tmp_path / "drive", tmp_path / "main"
    for each in (drive, main / "media/deep", main / "empty"):
        each.mkdir(parents=True)
    (main / "media/owl.wav").touch()
    (main / "ring").symlink_to("ring")
    volumes = [
        Volume(posix("media", "Spools"), FORMATS[format_], "", drive),
        Volume(posix("media", "Reels"), FORMATS[format_], "", None),
        Volume(posix("gone", "Lamps"), FORMATS[format_], "", drive),
        Volume(posix(), FORMATS[format_], "", main),
    ]
    look = Finder(Computer("barn", System.LINUX, "odile", volumes, {}), Disk())
    names = ("owl.wav", "OWL.wav", "deep", "Spools", "SPOOLS", "Reels", "Lamps", "not there")
    sure = set()
    for folder in ("", "media", "media/deep", "media/owl.wav", "media/Reels", "gone", "gone/further", "empty", "ring"):
        place = posix(*folder.split("/")) if folder else posix()
        for name in names:
            if look.lacks(place)(name):
                assert look.find(place.below(name)).sight is Sight.ABSENT
                sure.add(folder)
    assert sure >= {"", "media/deep", "gone/further", "empty"}, "most is told without looking for each"


def test_walking_tells_links_and_does_not_follow_them(tmp_path: Path) -> None:
    (tmp_path / "top" / "deep").mkdir(parents=True)
    (tmp_path / "top" / "deep" / "a").touch()
    (tmp_path / "top" / "loop").symlink_to(tmp_path / "top")
    kinds = {str(s.path): s.facts.kind for s in finder(tmp_path, "ext4").walk(posix("top")) if s.facts}
    assert kinds == {"/top/deep": "folder", "/top/deep/a": "file", "/top/loop": "link"}


class Forbidding(Disk):
    def scan(self, folder: Path) -> Contents:
        if folder.name == "locked":
            raise DiskError("Listing", folder, PermissionError(13, "Permission denied"))
        return super().scan(folder)


def test_what_may_not_be_looked_at_is_denied_and_never_absent(tmp_path: Path) -> None:
    (tmp_path / "locked").mkdir()
    volume = Volume(posix(), FORMATS["ext4"], "", tmp_path)
    look = Finder(Computer("barn", System.LINUX, "o", [volume], {}), Forbidding())
    assert look.find(posix("locked", "a")).sight is Sight.DENIED
    assert [seen.sight for seen in look.walk(posix())] == [Sight.THERE, Sight.DENIED]


def test_faults_in_reading_and_in_writing_name_the_right_file(tmp_path: Path) -> None:
    (tmp_path / "a").write_text("x")
    facts = Disk().facts(tmp_path / "a")
    assert facts is not None
    with pytest.raises(DiskError, match="No such file") as raised:
        Disk().copy(tmp_path / "none", tmp_path / "b", facts)
    assert raised.value.path == str(tmp_path / "none")
    with pytest.raises(DiskError) as raised:
        Disk().copy(tmp_path / "a", tmp_path / "no" / "b", facts)
    assert raised.value.path == str(tmp_path / "no" / "b")


def test_a_copy_keeps_its_date_to_the_nanosecond(tmp_path: Path) -> None:
    (tmp_path / "a").write_text("x")
    os.utime(tmp_path / "a", ns=(1_600_000_000_123_456_789, 1_600_000_000_123_456_789))
    facts = Disk().facts(tmp_path / "a")
    assert facts is not None
    Disk().copy(tmp_path / "a", tmp_path / "b", facts)
    assert Disk().facts(tmp_path / "b") == facts


def test_a_working_folder_is_empty_before_and_gone_after(tmp_path: Path) -> None:
    (tmp_path / "w").mkdir()
    (tmp_path / "w" / "old").touch()
    with working_folder(Disk(), tmp_path / "w") as folder:
        assert list(folder.iterdir()) == []
        (folder / "new").touch()
    assert list(tmp_path.iterdir()) == []


def test_what_killed_runs_left_is_cleared_away_and_nothing_else(tmp_path: Path) -> None:
    ended = subprocess.Popen([sys.executable, "-c", ""])
    ended.wait()
    left, running = tmp_path / f"look-{ended.pid}", tmp_path / f"look-{os.getppid()}"
    (left / "inner").mkdir(parents=True)
    (left / "inner/copy.db").touch()
    for folder in (running, tmp_path / "look-out", tmp_path / "other-1"):
        folder.mkdir()
        (folder / "kept").touch()
    with own_folder(outside(), tmp_path, "look") as folder:
        (folder / "inner").mkdir()
        assert sorted(each.name for each in tmp_path.iterdir()) == sorted(
            [folder.name, running.name, "look-out", "other-1"]
        )
    assert not folder.exists()
    assert all(list(each.iterdir()) for each in tmp_path.iterdir())
