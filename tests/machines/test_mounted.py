"""Disks on the bench: what they say about their computer, its people, its folders and its volumes."""

from __future__ import annotations

import plistlib
import struct
import tomllib
import uuid
from pathlib import Path
from typing import Any

from support.hives import Key, hive
from zesty_crate.machines import Disk
from zesty_crate.machines.mounted import Partition, mounted_computer

GUID = uuid.UUID("7f3a1c22-90aa-4d0e-b1c4-0a5b6c7d8e9f")
SID = "S-1-5-21-1004336348-1177238915-682003330-100"


def windows(root: Path, profiles: dict[str, str], devices: Key, shell: Key, *, home: str = "Users/Odile") -> Path:
    """A Windows disk with hives."""
    config = root / "Windows/System32/config"
    config.mkdir(parents=True)
    (root / "Users/Public").mkdir(parents=True)
    (root / home / "Music").mkdir(parents=True)
    listed: Key = {f"{SID}{number}": {"ProfileImagePath": path} for number, path in enumerate(profiles.values())}
    current: Key = {
        "SystemRoot": "C:\\Windows",
        "ProfileList": {"S-1-5-18": {"ProfileImagePath": "%systemroot%\\x"}, **listed},
    }
    software: Key = {"Microsoft": {"Windows NT": {"CurrentVersion": current}}}
    name: Key = {"Control": {"ComputerName": {"ComputerName": {"ComputerName": "PAINTLOFT"}}}}
    (config / "SOFTWARE").write_bytes(hive(software))
    (config / "SYSTEM").write_bytes(hive({"Select": {"Current": 2}, "ControlSet002": name, "MountedDevices": devices}))
    explorer: Key = {"Explorer": {"User Shell Folders": shell}}
    own = hive({"Software": {"Microsoft": {"Windows": {"CurrentVersion": explorer}}}})
    (root / home / "NTUSER.DAT").write_bytes(own)
    return root


def described(*mounts: Path, user: str | None = None, **known: Partition) -> tuple[dict[str, Any], str]:
    partitions = {mount.absolute(): known[mount.name] for mount in mounts if mount.name in known}
    text = mounted_computer(mounts, user, Disk(), partitions)
    return tomllib.loads(text), text


def test_windows_tells_its_name_its_people_their_folders_and_its_letters(tmp_path: Path) -> None:
    devices: Key = {
        "\\DosDevices\\C:": struct.pack("<IQ", 0xAABBCCDD, 1 << 20),
        "\\DosDevices\\F:": b"DMIO:ID:" + GUID.bytes_le,
        "\\DosDevices\\K:": "_??_USBSTOR#Disk".encode("utf-16-le"),
        "\\??\\Volume{1}": b"DMIO:ID:" + GUID.bytes_le,
    }
    shell: Key = {
        "Personal": "%USERPROFILE%\\Documents",
        "My Music": "F:\\Sounds",
        "{374DE290-123F-4565-9164-39C4925E467B}": "%USERPROFILE%\\Downloads",
        "AppData": "%USERPROFILE%\\AppData\\Roaming",
    }
    system = windows(tmp_path / "system", {"Odile": "%SystemDrive%\\Users\\Odile"}, devices, shell)
    sounds, third = tmp_path / "sounds", tmp_path / "third"
    for each in (sounds, third):
        each.mkdir()
    told, text = described(
        system,
        sounds,
        third,
        sounds=Partition("ntfs", "Sounds", "01D2C3B4A5968778", guid=str(GUID)),
        system=Partition("ntfs", signature="aabbccdd", offset=1 << 20),
    )
    assert told["computer"] == {"name": "PAINTLOFT", "system": "windows", "user": "Odile"}
    assert [each["anchor"] for each in told["volume"]] == ["C:", "F:", "K:"]
    assert told["volume"][1]["serial"] == "01D2C3B4A5968778"
    assert told["volume"][1]["label"] == "Sounds"
    assert told["places"] == {"music": "F:\\Sounds"}
    assert 'anchor = "F:" # known by its partition' in text
    assert 'anchor = "K:" # a guess: nothing says which letter it had' in text


def test_a_disk_is_known_by_its_signature_and_place_and_by_nothing_less(tmp_path: Path) -> None:
    devices: Key = {
        "\\DosDevices\\E:": struct.pack("<IQ", 7, 1 << 20),
        "\\DosDevices\\C:": struct.pack("<IQ", 9, 1 << 20),
    }
    system = windows(tmp_path / "system", {"Odile": "C:\\Users\\Odile"}, devices, {})
    (tmp_path / "one").mkdir()
    told, _ = described(system, tmp_path / "one", one=Partition(signature="00000007", offset=1 << 20))
    assert [each["anchor"] for each in told["volume"]] == ["C:", "E:"]
    told, text = described(system, tmp_path / "one", one=Partition(signature="00000007", offset=2 << 20))
    assert "a guess" in text.partition('anchor = "E:"')[2].partition("\n")[0]


def test_a_profile_on_another_disk_is_found_there(tmp_path: Path) -> None:
    devices: Key = {"\\DosDevices\\D:": b"DMIO:ID:" + GUID.bytes_le}
    people = {"Odile": "D:\\People\\Odile", "Bertille": "C:\\Users\\Bertille"}
    system = windows(tmp_path / "system", people, devices, {}, home="Users/Bertille")
    second = tmp_path / "second"
    (second / "people/Odile").mkdir(parents=True)
    own: Key = {"Explorer": {"User Shell Folders": {"My Pictures": "D:\\Pictures"}}}
    content = hive({"Software": {"Microsoft": {"Windows": {"CurrentVersion": own}}}})
    (second / "people/Odile/ntuser.dat").write_bytes(content)
    told, _ = described(system, second, user="odile", second=Partition(guid=str(GUID)))
    assert told["computer"]["user"] == "Odile"
    assert told["places"] == {"home": "D:\\People\\Odile", "pictures": "D:\\Pictures"}
    told, text = described(system, second, user=None, second=Partition(guid=str(GUID)))
    assert "there are also" in text


def test_hives_that_cannot_be_read_are_told_and_the_rest_is_a_guess(tmp_path: Path) -> None:
    system = windows(tmp_path / "system", {}, {}, {})
    for name in ("SYSTEM", "SOFTWARE"):
        place = system / "Windows/System32/config" / name
        place.write_bytes(place.read_bytes()[:2000])
    told, text = described(system)
    assert told["computer"] == {"name": "system", "system": "windows", "user": "Odile"}
    assert text.count("could not be read") == 2
    assert 'name = "system" # a guess' in text


def test_a_mac_tells_its_name_and_its_volumes_labels(tmp_path: Path) -> None:
    system, spools = tmp_path / "system", tmp_path / "disk2"
    for name in ("Users/odile.k/Music", "Users/Shared", "Library/Preferences/SystemConfiguration"):
        (system / name).mkdir(parents=True)
    spools.mkdir()
    content = plistlib.dumps({"System": {"System": {"ComputerName": "Odile’s Loft"}}})
    (system / "Library/Preferences/SystemConfiguration/preferences.plist").write_bytes(content)
    told, text = described(system, spools, disk2=Partition("hfs", "Spools", uuid="A1B2"))
    assert told["computer"] == {"name": "Odile’s Loft", "system": "macos", "user": "odile.k"}
    assert told["volume"][1]["anchor"] == "/Volumes/Spools"
    assert "a guess" not in text.partition("\n")[2]


def test_linux_tells_where_people_and_their_folders_are(tmp_path: Path) -> None:
    system, media = tmp_path / "system", tmp_path / "media"
    for name in ("home", "etc"):
        (system / name).mkdir(parents=True)
    (media / "odile/.config").mkdir(parents=True)
    (system / "etc/hostname").write_text("loft\n")
    (system / "etc/passwd").write_text(
        "root:x:0:0:root:/root:/bin/sh\nodile:x:1000:1000:Odile:/srv/media\\040x/odile:/bin/sh\n"
        "nobody:x:65534:65534::/nonexistent:/bin/false\n".replace("\\040x", "")
    )
    (system / "etc/fstab").write_text("UUID=1 / ext4 defaults 0 1\nUUID=12ab /srv/media ext4 defaults 0 2 # x\n")
    (media / "odile/.config/user-dirs.dirs").write_text(
        '# kept by its user\nXDG_MUSIC_DIR="$HOME/Musik"\nXDG_VIDEOS_DIR="$HOME/Videos"\n'
        'XDG_PICTURES_DIR="/srv/media/Bilder"\n'
        'XDG_DESKTOP_DIR="$HOME"\n'
    )
    told, text = described(system, media, media=Partition("ext4", "Media", uuid="12ab"))
    assert told["computer"] == {"name": "loft", "system": "linux", "user": "odile"}
    assert [each["anchor"] for each in told["volume"]] == ["/", "/srv/media"]
    assert told["places"] == {
        "home": "/srv/media/odile",
        "music": "/srv/media/odile/Musik",
        "pictures": "/srv/media/Bilder",
    }
    assert "as its fstab says" in text
