"""A first sheet by looking: at this computer, and at mounted disks of every layout."""

from __future__ import annotations

import os
from dataclasses import replace
from pathlib import Path

import pytest

from zesty_crate.documents import parse_document
from zesty_crate.errors import ZestyError
from zesty_crate.machines import Disk, computer_of, load_sheet
from zesty_crate.machines.describe import as_it_is_now, this_computer
from zesty_crate.machines.host import Host, HostVolume
from zesty_crate.machines.mounted import mounted_computer
from zesty_crate.machines.sheet import SheetPart
from zesty_crate.paths import System


def laid_out(root: Path, *folders: str) -> Path:
    for name in folders:
        (root / name).mkdir(parents=True)
    return root


@pytest.mark.parametrize(
    ("folders", "system", "user", "music"),
    [
        (
            ("Users/Odile/Music", "Users/Public", "Users/Default", "Windows"),
            "windows",
            "Odile",
            r"C:\Users\Odile\Music",
        ),
        (
            ("Users/odile.k/Library", "Users/Shared", "Users/.hidden", "Library", "System"),
            "macos",
            "odile.k",
            "/Users/odile.k/Music",
        ),
        (("home/odile", "home/lost+found", "etc", "usr"), "linux", "odile", "/home/odile/Music"),
        (
            ("Documents and Settings/Odile", "Documents and Settings/All Users", "WINDOWS"),
            "windows",
            "Odile",
            r"C:\Documents and Settings\Odile\My Documents\My Music",
        ),
    ],
    ids=["windows", "macos", "linux", "old windows"],
)
def test_a_mounted_disk_is_recognised(
    tmp_path: Path, folders: tuple[str, ...], system: str, user: str, music: str
) -> None:
    disk = laid_out(tmp_path / "disk", *folders)
    (tmp_path / "sheet.toml").write_text(mounted_computer([disk], None, Disk()))
    sheet = load_sheet(tmp_path / "sheet.toml", Disk())
    assert (sheet.part.computer.system, sheet.part.computer.user) == (system, user)
    computer = computer_of(sheet)
    assert str(computer.place("music")) == music
    assert computer.mounted(computer.place("home").parent) == disk.joinpath(*folders[0].split("/")[:-1][:1])


def test_of_several_users_the_last_at_work_is_a_guess_that_is_marked(tmp_path: Path) -> None:
    disk = laid_out(tmp_path / "d", "Users/Odile/Music", "Users/Bertille/Music", "Windows")
    os.utime(disk / "Users/Bertille/Music", (1, 1))
    text = mounted_computer([disk], None, Disk())
    assert 'user = "Odile" # a guess: the most recently active user; there are also Bertille (--user)' in text
    assert 'user = "Bertille"\n' in mounted_computer([disk], "Bertille", Disk())
    with pytest.raises(ZestyError, match="no folder of a user 'Nobody'"):
        mounted_computer([disk], "Nobody", Disk())


def test_letters_of_further_disks_are_guesses(tmp_path: Path) -> None:
    system = laid_out(tmp_path / "c", "Users/Odile", "Windows")
    second = laid_out(tmp_path / "spools", "Sounds")
    text = mounted_computer([system, second], None, Disk())
    assert 'anchor = "D:" # a guess' in text
    assert [volume.anchor for volume in parse_document(text, SheetPart, "x").volume] == ["C:", "D:"]


def test_what_is_no_systems_disk_is_refused(tmp_path: Path) -> None:
    with pytest.raises(ZestyError, match="No operating system recognized"):
        mounted_computer([tmp_path], None, Disk())
    with pytest.raises(ZestyError, match="is not there"):
        mounted_computer([tmp_path / "gone"], None, Disk())


class WindowsHost(Host):
    def name(self) -> str:
        return "paintloft"

    def system(self) -> System:
        return System.WINDOWS

    def user(self) -> str:
        return "Odile"

    def places(self) -> dict[str, str]:
        return {"home": r"D:\Odile", "music": r"E:\Music", "documents": r"D:\Odile\Documents"}

    def volumes(self) -> list[HostVolume]:
        return [HostVolume("C:\\", "ntfs"), HostVolume("E:\\", "exfat", "Spools"), HostVolume("Z:\\", "cdfs")]


def test_this_computer_is_described_with_what_differs_from_the_usual(tmp_path: Path) -> None:
    sheet = this_computer(WindowsHost(), tmp_path)
    assert sheet.part.places == {"home": r"D:\Odile", "music": r"E:\Music"}, "what follows from the rest is left out"
    assert [(v.anchor, v.format, v.label) for v in sheet.part.volume] == [
        ("C:", "ntfs", ""),
        ("E:", "exfat", "Spools"),
        ("Z:", None, ""),
    ]
    assert str(computer_of(sheet).place("music")) == r"E:\Music"


def test_a_sheet_of_this_computer_learns_of_volumes_that_came_since(tmp_path: Path) -> None:
    sheet = this_computer(WindowsHost(), tmp_path)
    older = replace(sheet, part=sheet.part.model_copy(update={"volume": sheet.part.volume[:1]}), is_here=False)
    now = as_it_is_now(older, WindowsHost())
    assert [each.anchor for each in now.part.volume] == ["C:", "E:", "Z:"]
    assert now.is_here


def test_the_real_host_can_be_asked(tmp_path: Path) -> None:
    sheet = this_computer(Host(), tmp_path)
    computer = computer_of(sheet)
    home = computer.parse(str(Path.home()))
    assert computer.mounted(home) == Path.home()
    assert computer.place("home") == home


def test_with_sudo_the_person_who_called_is_described(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    import pwd

    home = tmp_path / "odile"
    (home / ".config").mkdir(parents=True)
    (home / ".config/user-dirs.dirs").write_text('XDG_MUSIC_DIR="$HOME/Musik"\n')
    fields = ("odile", "x", 1000, 1000, "", str(home), "/bin/sh")
    monkeypatch.setattr(pwd, "getpwnam", lambda name: {"odile": pwd.struct_passwd(fields)}[name])
    monkeypatch.setattr(os, "geteuid", lambda: 0)
    monkeypatch.setenv("SUDO_USER", "odile")
    sheet = this_computer(Host(), tmp_path)
    assert sheet.part.computer.user == "odile"
    assert sheet.part.places == {"home": str(home), "music": str(home / "Musik")}
    monkeypatch.delenv("SUDO_USER")
    assert this_computer(Host("odile"), tmp_path).part.computer.user == "odile"
    with pytest.raises(ZestyError, match="No user of this computer"):
        Host("nobody-at-all")
