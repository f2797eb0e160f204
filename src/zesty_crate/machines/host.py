"""This computer, asked: its name, system, user, places and volumes."""

from __future__ import annotations

import getpass
import hashlib
import platform
import re
import subprocess
from dataclasses import dataclass
from pathlib import Path

import platformdirs
import psutil

from ..errors import ZestyError
from ..paths import System
from ..systems import this_system
from .disk import Disk
from .mounted.linux import user_dirs
from .registry import windows_machine

_MACHINE_FILES = (Path("/etc/machine-id"), Path("/var/lib/dbus/machine-id"))
_SERIAL = re.compile(r"(?:[0-9A-Fa-f]{8}){1,2}|[0-9A-Fa-f]{4}-[0-9A-Fa-f]{4}")  # of FAT, exFAT and NTFS


@dataclass(frozen=True, slots=True)
class HostVolume:
    """A volume of this computer. ``format`` is as the system calls it; ``room`` is size and free bytes.

    Windows formats have a ``serial``, all others a ``uuid``.
    """

    anchor: str
    format: str
    label: str = ""
    room: tuple[int, int] | None = None
    serial: str = ""
    uuid: str = ""


class Host:
    """The real computer that the program runs on; tests hand over another."""

    def __init__(self, user: str | None = None) -> None:
        """``user`` is another one than who calls. Raises `ZestyError` when nobody here is called so."""
        self._person = this_system().person(user)
        if user and self._person is None:
            raise ZestyError(
                f"No user of this computer is called {user!r}.",
                next_step="Check the name after --user; on Windows only who runs this can be described.",
            )

    def name(self) -> str:
        """The computer's name, without a domain."""
        return platform.node().split(".")[0] or "this-computer"

    def system(self) -> System:
        """Its operating system. Raises `ZestyError` for one whose paths are not known."""
        found = this_system().name
        if found not in tuple(System):
            raise ZestyError(
                f"The system {platform.system()!r} is not known.",
                next_step="Write a sheet yourself (see docs/sheets.md).",
            )
        return System(found)

    def machine(self) -> str:
        """What tells this installation from every other one, as a digest; empty where the system does not say."""
        found = _machine_identity(self.system())
        return hashlib.sha256(f"zesty-crate {found}".encode()).hexdigest()[:32] if found else ""

    def user(self) -> str:
        """The user, in exact case; with ``sudo`` who called it."""
        return getpass.getuser() if self._person is None else self._person[0]

    @property
    def is_administrator(self) -> bool:
        """Whether the user of the sheet would be the administrator, who keeps no media."""
        return self.user() == "root"

    def places(self) -> dict[str, str]:
        """Where this user's folders really are, which may differ from the usual."""
        if self._person is not None:
            home = self._person[1]
            return {"home": home, **user_dirs(Path(home), home, Disk())}
        return {
            "home": str(Path.home()),
            "documents": platformdirs.user_documents_dir(),
            "pictures": platformdirs.user_pictures_dir(),
            "music": platformdirs.user_music_dir(),
            "movies": platformdirs.user_videos_dir(),
            "desktop": platformdirs.user_desktop_dir(),
            "downloads": platformdirs.user_downloads_dir(),
        }

    def volumes(self) -> list[HostVolume]:
        """Mounted disks, without the system's own inner mounts; one that does not answer is left out."""
        labels, identities = _linux_names("by-label"), _linux_names("by-uuid")
        found: dict[str, HostVolume] = {}
        for part in psutil.disk_partitions(all=False):
            try:
                room = psutil.disk_usage(part.mountpoint)
            except OSError:
                continue  # an empty card reader, or a share that is gone
            if Path(part.mountpoint).is_file():
                continue  # a single file that is mounted over another one
            label = labels.get(part.device, "") or _label_from_mount(part.mountpoint)
            identity = identities.get(part.device, "")
            serial, uuid = (identity, "") if _SERIAL.fullmatch(identity) else ("", identity)
            found[part.mountpoint] = HostVolume(
                part.mountpoint, part.fstype.lower(), label, (room.total, room.free), serial, uuid
            )
        if "/" not in found and self.system() is not System.WINDOWS:
            room = psutil.disk_usage("/")
            found["/"] = HostVolume("/", "", "", (room.total, room.free))
        return sorted(found.values(), key=lambda volume: volume.anchor)


def _machine_identity(system: System) -> str:
    if system is System.WINDOWS:
        return windows_machine()
    if system is System.MACOS:
        return _mac_machine()
    return next((text for each in _MACHINE_FILES if each.is_file() and (text := each.read_text().strip())), "")


def _mac_machine() -> str:
    try:
        command = ["/usr/sbin/ioreg", "-rd1", "-c", "IOPlatformExpertDevice"]
        told = subprocess.run(command, capture_output=True, text=True, timeout=10, check=False).stdout
    except (OSError, subprocess.TimeoutExpired):
        return ""
    found = re.search(r'"IOPlatformUUID" = "([^"]+)"', told)
    return found.group(1) if found else ""


def _linux_names(kind: str) -> dict[str, str]:
    """What disks are called, by their devices."""
    folder = Path("/dev/disk") / kind
    if not folder.is_dir():
        return {}
    return {str(link.resolve()): link.name.replace("\\x20", " ") for link in folder.iterdir()}


def _label_from_mount(mount: str) -> str:
    """Removable disks are mounted under their label: /Volumes/Spools, /media/odile/Spools, /run/media/odile/Spools."""
    return Path(mount).name if mount.startswith(("/Volumes/", "/media/", "/run/media/")) else ""
