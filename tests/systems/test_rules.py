"""What systems do differently: every rule of every system, tried with fakes on whatever system the tests run on."""

from __future__ import annotations

import errno
import ntpath
import os
import stat
import struct
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path, PureWindowsPath
from urllib.parse import unquote

import apsw
import pytest
from hypothesis import given
from hypothesis import strategies as st

from support.carriers import a_carrier
from support.systems import FakeMac, FakeWindows, violation
from zesty_crate.systems import CREATED, HIDDEN, OperatingSystem, this_system
from zesty_crate.systems.access_lists import has_own_entries
from zesty_crate.systems.macos import FULL_FLUSH, MacOs
from zesty_crate.systems.model import OF_SYSTEM, TOO_LARGE
from zesty_crate.systems.posix import Posix
from zesty_crate.systems.windows import Windows

POSIX: dict[str, Callable[[], OperatingSystem]] = {
    "this": this_system,
    "posix": Posix,
    "macos": lambda: MacOs(FakeMac()),
    "old macos": lambda: MacOs(FakeMac(old=True)),
}


@pytest.fixture(params=POSIX)
def system(request: pytest.FixtureRequest) -> OperatingSystem:
    made: Callable[[], OperatingSystem] = POSIX[request.param]
    return made()


class TestFilesOfPosix:
    """One suite for all that keep files as POSIX has them."""

    def test_a_name_that_is_taken_is_never_taken_over(self, system: OperatingSystem, tmp_path: Path) -> None:
        one, other = tmp_path / "one", tmp_path / "other"
        one.write_text("1")
        other.write_text("2")
        with pytest.raises(FileExistsError):
            system.rename_to_free_name(one, other)
        assert (one.read_text(), other.read_text()) == ("1", "2")
        system.rename_to_free_name(one, tmp_path / "third")
        assert sorted(each.name for each in tmp_path.iterdir()) == ["other", "third"]

    def test_so_for_links_and_folders(self, system: OperatingSystem, tmp_path: Path) -> None:
        (tmp_path / "folder/inner").mkdir(parents=True)
        (tmp_path / "link").symlink_to("nowhere")
        for name in ("folder", "link"):
            (tmp_path / "taken").mkdir()
            with pytest.raises(FileExistsError):
                system.rename_to_free_name(tmp_path / name, tmp_path / "taken")
            (tmp_path / "taken").rmdir()
            system.rename_to_free_name(tmp_path / name, tmp_path / "taken")
            system.rename_to_free_name(tmp_path / "taken", tmp_path / name)
        assert (tmp_path / "folder/inner").is_dir()
        assert str((tmp_path / "link").readlink()) == "nowhere"

    def test_what_is_not_there_is_an_error(self, system: OperatingSystem, tmp_path: Path) -> None:
        with pytest.raises(FileNotFoundError):
            system.rename_to_free_name(tmp_path / "none", tmp_path / "other")

    def test_flushing_replacing_removing(self, system: OperatingSystem, tmp_path: Path) -> None:
        one, other = tmp_path / "one", tmp_path / "other"
        one.write_text("1")
        other.write_text("2")
        one.chmod(0o444)
        other.chmod(0o444)
        system.flush_at(one)
        system.flush_at(tmp_path)
        system.flush_volume(tmp_path)
        system.replace(one, other)
        assert other.read_text() == "1"
        system.remove(other)
        assert not any(tmp_path.iterdir())
        assert system.is_mount_point("/")
        assert not system.is_mount_point(tmp_path / "none")
        assert system.block_bytes(tmp_path) >= 512

    def test_one_process_holds_a_lock(self, system: OperatingSystem, tmp_path: Path) -> None:
        first, second = (os.open(tmp_path / "lock", os.O_RDWR | os.O_CREAT) for _ in range(2))
        system.lock(first)
        with pytest.raises(BlockingIOError):
            system.lock(second)
        system.let_go(tmp_path / "lock", first)
        assert not (tmp_path / "lock").exists()
        os.close(second)

    def test_databases_are_opened_by_their_uris(self, system: OperatingSystem, tmp_path: Path) -> None:
        place = tmp_path / "a ? b # 100% é"
        apsw.Connection(str(place)).execute("CREATE TABLE t (a)")
        uri = system.database_uri(str(place)) + "?mode=ro&immutable=1"
        opened = apsw.Connection(uri, flags=apsw.SQLITE_OPEN_READONLY | apsw.SQLITE_OPEN_URI)
        assert opened.execute("SELECT name FROM sqlite_schema").get == "t"

    def test_words_of_a_command(self, system: OperatingSystem) -> None:
        assert system.quoted("a b") == "'a b'"


# -- macOS -------------------------------------------------------------------------------------------------------------


def test_macos_waits_for_the_drive_itself(tmp_path: Path) -> None:
    calls = FakeMac()
    (tmp_path / "file").write_text("x")
    MacOs(calls).flush_at(tmp_path / "file")
    assert calls.controls == [FULL_FLUSH]


def test_tags_and_forks_are_read_and_given_and_the_systems_own_left() -> None:
    calls = FakeMac()
    calls.kept = {
        "com.apple.metadata:_kMDItemUserTags": b"bplist",
        "com.apple.ResourceFork": b"fork",
        "com.apple.quarantine": b"0081",
        "note": b"mine",
    }
    calls.flagged = stat.UF_HIDDEN
    told = MacOs(calls).attributes("/x")
    assert told == {
        "com.apple.metadata:_kMDItemUserTags": b"bplist",
        "com.apple.ResourceFork": b"fork",
        "note": b"mine",
        HIDDEN: b"",
    }
    other = FakeMac()
    assert MacOs(other).set_attributes("/x", told)
    assert MacOs(other).attributes("/x") == told
    other.fault = 45
    assert MacOs(other).attributes("/x") == {}
    assert not MacOs(other).set_attributes("/x", told)
    other.fault = errno.EIO
    with pytest.raises(OSError, match="fault"):
        MacOs(other).attributes("/x")


def test_a_date_of_creation_goes_along_where_it_is_before_the_last_change() -> None:
    old, new = FakeMac(), FakeMac()
    assert MacOs(old).attributes("/x") == {}  # both dates are the same
    old.created_s = 1000.7
    told = MacOs(old).attributes("/x")
    assert told == {CREATED: b"1000"}
    assert MacOs(new).set_attributes("/x", told)
    assert (new.created_s, new.modified_s) == (1000, 2000.5)
    bench = Bench()
    bench.calls.files = {"C:\\a": "1", "C:\\b": "2"}
    assert bench.system.attributes("C:\\a") == {}  # that of its copy, which is later than its last change
    assert bench.system.set_attributes("C:\\a", told)
    assert bench.system.attributes("C:\\a") == told == bench.system.kept(told)
    assert Posix().kept({**told, "note": b""}) == {"note": b""}
    bench.calls.is_dated, new.is_locked = False, True
    assert not bench.system.set_attributes("C:\\b", told)  # a refusal stops nothing
    assert not MacOs(new).set_attributes("/x", told)


@pytest.mark.skipif(sys.platform != "linux", reason="no other system tells of mounted NTFS disks so")
def test_a_mounted_ntfs_disk_tells_and_takes_when_a_file_was_created(tmp_path: Path) -> None:
    with a_carrier(tmp_path / "disk", "ntfs") as disk:
        for name in ("old", "new"):
            (disk / name).touch()
            os.utime(disk / name, (4_000_000_000, 4_000_000_000))
        created = this_system().attributes(str(disk / "old"))
        assert set(created) == {CREATED}
        assert abs(int(created[CREATED]) - time.time()) < 100
        assert this_system().set_attributes(str(disk / "new"), {CREATED: b"1000000000"})
        assert this_system().attributes(str(disk / "new")) == {CREATED: b"1000000000"}
    (tmp_path / "file").touch()
    assert this_system().set_attributes(str(tmp_path / "file"), created)  # said by the plan, and not for each file


# -- Windows -----------------------------------------------------------------------------------------------------------


@dataclass
class Bench:
    """A Windows with some files."""

    calls: FakeWindows = field(default_factory=FakeWindows)

    @property
    def system(self) -> Windows:
        return Windows(self.calls)


def test_windows_replaces_and_removes_what_is_read_only() -> None:
    bench = Bench()
    bench.calls.files = {"C:\\new": "1", "C:\\old": "2", "C:\\gone": "3"}
    bench.calls.read_only = {"C:\\old", "C:\\gone"}
    bench.system.replace("C:\\new", "C:\\old")
    bench.system.remove("C:\\gone")
    assert bench.calls.files == {"C:\\old": "1"}


def test_what_cannot_be_replaced_is_read_only_again() -> None:
    bench = Bench()
    bench.calls.files = {"C:\\new": "1", "C:\\old": "2"}
    bench.calls.read_only = {"C:\\old"}
    bench.calls.busy = {"C:\\old": 100}
    with pytest.raises(PermissionError):
        bench.system.replace("C:\\new", "C:\\old")
    assert bench.calls.read_only == {"C:\\old"}
    assert bench.calls.files == {"C:\\new": "1", "C:\\old": "2"}


def test_a_file_that_is_open_elsewhere_is_tried_again_and_then_named() -> None:
    bench = Bench()
    bench.calls.files, bench.calls.busy = {"C:\\a": "1"}, {"C:\\a": 3}
    bench.system.remove("C:\\a")
    assert bench.calls.files == {}
    assert 0 < bench.calls.slept_s < 2
    bench.calls.files, bench.calls.busy = {"C:\\a": "1"}, {"C:\\a": 100}
    with pytest.raises(PermissionError) as told:
        bench.system.rename_to_free_name("C:\\a", "C:\\b")
    assert getattr(told.value, "winerror", None) == 32


def test_it_never_takes_a_name_over() -> None:
    bench = Bench()
    bench.calls.files = {"C:\\a": "1", "C:\\b": "2"}
    with pytest.raises(FileExistsError):
        bench.system.rename_to_free_name("C:\\a", "C:\\b")
    assert bench.calls.files == {"C:\\a": "1", "C:\\b": "2"}


def test_read_only_files_are_flushed_too_and_stay_read_only() -> None:
    bench = Bench()
    bench.calls.files, bench.calls.read_only = {"C:\\a": "1", "C:\\b": "2"}, {"C:\\a"}
    bench.calls.folders = {"C:\\folder"}
    for each in ("C:\\a", "C:\\b", "C:\\folder"):
        bench.system.flush_at(each)
    assert bench.calls.flushed == ["C:\\a", "C:\\b"]
    assert bench.calls.read_only == {"C:\\a"}


def test_streams_are_attributes() -> None:
    bench = Bench()
    bench.calls.files = {"C:\\a": "1", "C:\\b": "2"}
    bench.calls.beside = {("C:\\a", "note"): b"mine", ("C:\\a", "Zone.Identifier"): b"[ZoneTransfer]"}
    bench.calls.marks = {"C:\\a": 6}
    told = bench.system.attributes("C:\\a")
    assert told == {"note": b"mine", HIDDEN: b"", OF_SYSTEM: b""}
    assert bench.system.set_attributes("C:\\b", told)
    assert bench.system.attributes("C:\\b") == told
    assert not bench.system.set_attributes("C:\\b", {"com.apple.metadata:_kMDItemUserTags": b""})
    bench.calls.knows_streams = False
    assert not bench.system.set_attributes("C:\\b", {"note": b""})


NAMES = st.sampled_from(
    ("a", "b.", "c ", "NUL", "con.txt", "com1", "COM¹", "ordinary name", "é" * 90, "..", ".", "x" * 200)
)


@given(st.sampled_from(("C:\\", "\\\\nas\\share\\", "\\\\?\\C:\\")), st.lists(NAMES, min_size=1, max_size=5))
def test_every_path_is_reached_by_its_own_names(root: str, names: list[str]) -> None:
    path = root + "\\".join(names)
    reached = str(Windows(FakeWindows()).reach(path))
    plain = reached.removeprefix("\\\\?\\UNC\\").removeprefix("\\\\?\\")
    if reached == path:
        text = path.removeprefix("\\\\?\\")
        assert root == "\\\\?\\C:\\" or len(path) < 260
        assert root == "\\\\?\\C:\\" or not any(each[-1:] in (".", " ") and each not in (".", "..") for each in names)
        assert root == "\\\\?\\C:\\" or not any(is_device(each) for each in names), text
    else:
        assert reached.startswith("\\\\?\\")
        assert "\\.\\" not in plain
        assert "\\..\\" not in plain
        wanted = list[str]()
        for each in names:
            if each == "..":
                del wanted[-1:]
            elif each != ".":
                wanted.append(each)
        assert plain.split("\\")[2 if "UNC" in reached[:8] else 1 :] == (wanted or [""])


def is_device(name: str) -> bool:
    return PureWindowsPath(name).is_reserved()


@pytest.mark.parametrize("path", ["C:\\a b\\c#.db", "\\\\nas\\share\\c?.db", "C:\\" + "deep\\" * 80 + "c.db"])
def test_a_uri_of_a_database_says_the_path_itself_and_no_other_host(path: str) -> None:
    uri = Windows(FakeWindows()).database_uri(path)
    assert uri.startswith("file:")
    assert not uri.startswith("file:/")
    assert "?" not in uri
    assert unquote(uri.removeprefix("file:")).removeprefix("\\\\?\\") == path


def test_relative_paths_are_reached_from_where_one_is() -> None:
    reached = str(Windows(FakeWindows()).reach("nul"))
    assert reached.startswith("\\\\?\\")
    assert ntpath.basename(reached) == "nul"


def test_a_lock_of_another_process() -> None:
    bench = Bench()
    bench.calls.is_locked = True
    with pytest.raises(BlockingIOError):
        bench.system.lock(3)


def test_words_for_its_shell() -> None:
    system = Bench().system
    assert [system.quoted(each) for each in ("a", "a b", "D:\\it's $5")] == ["a", '"a b"', "'D:\\it''s $5'"]


def test_what_to_do_about_an_open_file_is_said() -> None:
    from zesty_crate.machines import DiskError

    assert "Another program has it open" in (DiskError("Renaming", "C:\\a", violation("C:\\a")).next_step or "")


def test_what_is_too_large_to_go_along_is_marked_and_so_told(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("zesty_crate.systems.model.LARGEST_ATTRIBUTE_BYTES", 3)
    monkeypatch.setattr("zesty_crate.systems.windows.LARGEST_ATTRIBUTE_BYTES", 3)
    bench, mac = Bench(), FakeMac()
    bench.calls.beside = {("C:\\a", "large"): b"long", ("C:\\a", "small"): b"x"}
    mac.kept = {"large": b"long", "small": b"x"}
    for system, path in ((bench.system, "C:\\a"), (MacOs(mac), "/a")):
        told = system.attributes(path)
        assert told == {"small": b"x", TOO_LARGE: b""}
        assert not system.set_attributes(path, told)


# -- access lists ------------------------------------------------------------------------------------------------------


def descriptor(*flags: int, control: int = 0x8004) -> bytes:
    """As Windows writes one, with an entry for each of these flags."""
    entries = b"".join(struct.pack("<BBHI", 0, each, 20, 0x1F01FF) + bytes(12) for each in flags)
    return (
        struct.pack("<BBHIIII", 1, 0, control, 0, 0, 0, 20)
        + struct.pack("<BBHHH", 2, 0, 8 + len(entries), len(flags), 0)
        + entries
    )


@pytest.mark.parametrize(
    ("given", "is_own"),
    [
        (descriptor(0x10, 0x13), False),
        (descriptor(0x10, 0x03), True),
        (descriptor(0x10, control=0x9004), True),
        (descriptor(0x03, control=0x8000), False),
        (b"", False),
        (descriptor(0x10, 0x03)[:30], False),
    ],
)
def test_an_access_list_of_its_own_is_told_from_one_that_is_inherited(given: bytes, *, is_own: bool) -> None:
    bench = Bench()
    bench.calls.descriptors = {"C:\\folder": given}
    assert bench.system.has_access_list("C:\\folder") is is_own
    assert not bench.system.has_access_list("C:\\none")
    assert MacOs(FakeMac()).has_access_list("/a/listed")
    assert not MacOs(FakeMac()).has_access_list("/a")


@given(st.binary(max_size=200))
def test_no_bytes_stop_it(content: bytes) -> None:
    assert has_own_entries(content) in (True, False)


def test_a_list_of_this_system_is_seen(tmp_path: Path) -> None:
    entries = ((1, 7, -1), (2, 5, 12345), (4, 5, -1), (16, 7, -1), (32, 5, -1))
    value = struct.pack("<I", 2) + b"".join(struct.pack("<HHi", *each) for each in entries)
    try:
        os.setxattr(tmp_path, "system.posix_acl_access", value)
    except (OSError, AttributeError):
        pytest.skip("this volume keeps no access lists")
    assert this_system().has_access_list(tmp_path)
    (tmp_path / "inner").mkdir()
    assert not this_system().has_access_list(tmp_path / "inner")
