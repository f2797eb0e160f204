"""What on a computer is its system's or its programs' own: folders in which nobody keeps work, one list per system.

Windows: the known folders and the folders that Setup makes. macOS: the File System Programming Guide. Linux: the
Filesystem Hierarchy Standard 3.0 and the XDG Base Directory Specification.
"""

from __future__ import annotations

from collections.abc import Iterator

from ..paths import MachinePath, System
from .computer import Computer

# In places of the computer, as templates.
_IN_PLACES: dict[System, tuple[str, ...]] = {
    System.WINDOWS: (
        "{programs}",
        "{programs} (x86)",
        r"{shared-data}\Microsoft",
        r"{shared-data}\Package Cache",
        "{temp}",
        r"{app-data}\Microsoft\Windows",
        r"{app-data-local}\Microsoft\Windows",
        r"{app-data-local}\Microsoft\WindowsApps",
        r"{home}\AppData\LocalLow\Microsoft",
    ),
    System.MACOS: ("{programs}", "{temp}", "{home}/Library/Caches", "{home}/Library/Logs", "{home}/.Trash"),
    System.LINUX: ("{programs}", "{temp}", "{home}/.cache", "{app-data}/Trash"),
}
# At the top of the volume that holds the home.
_OF_SYSTEM: dict[System, tuple[str, ...]] = {
    System.WINDOWS: (
        "Windows",
        "Recovery",
        "PerfLogs",
        "MSOCache",
        "Boot",
        "EFI",
        "$SysReset",
        "$Windows.~BT",
        "$Windows.~WS",
    ),
    System.MACOS: (
        "System",
        "Library/Apple",
        "Library/Caches",
        "Library/Developer",
        "Library/Logs",
        "Library/Updates",
        "bin",
        "cores",
        "dev",
        "private",
        "sbin",
        "usr/bin",
        "usr/lib",
        "usr/libexec",
        "usr/sbin",
        "usr/share",
    ),
    System.LINUX: (
        "bin",
        "boot",
        "dev",
        "etc",
        "lib",
        "lib32",
        "lib64",
        "libx32",
        "proc",
        "run",
        "sbin",
        "snap",
        "sys",
        "tmp",
        "usr",
        "var/cache",
        "var/lib",
        "var/log",
        "var/run",
        "var/spool",
        "var/tmp",
    ),
}
# At the top of any volume, whichever system made them: a drive may have been at several.
_OF_ANY_VOLUME = (
    "$RECYCLE.BIN",
    "$WinREAgent",
    "Config.Msi",
    "RECYCLER",
    "System Volume Information",
    ".DocumentRevisions-V100",
    ".Spotlight-V100",
    ".TemporaryItems",
    ".Trashes",
    ".fseventsd",
    "lost+found",
)
# Files that a system leaves in any folder, or at the top of its volume, in small letters.
_FILES = frozenset(
    {
        ".ds_store",
        ".localized",
        "desktop.ini",
        "dumpstack.log.tmp",
        "hiberfil.sys",
        "ntuser.dat",
        "ntuser.ini",
        "pagefile.sys",
        "swapfile.sys",
        "thumbs.db",
    }
)
_BEGINNINGS = ("._", "ntuser.dat.log", "ntuser.dat{")


def system_folders(computer: Computer) -> Iterator[MachinePath]:
    """The folders of a computer that its system or its programs own, whether they are there or not."""
    for template in _IN_PLACES[computer.system]:
        yield computer.expand(template)
    home = computer.volume_of(computer.place("home"))
    for volume in computer.volumes:
        names = (*_OF_ANY_VOLUME, *(_OF_SYSTEM[computer.system] if volume is home else ()))
        for name in names:
            yield volume.anchor.below(*name.split("/"))


def is_system_file(name: str) -> bool:
    """Whether a system leaves files of this name, in which nobody keeps work."""
    small = name.lower()
    return small in _FILES or small.startswith(_BEGINNINGS)
