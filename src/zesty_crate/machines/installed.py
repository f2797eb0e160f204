"""The programs that are installed on a computer, as its own system keeps record of them.

Windows: the branch Uninstall (Microsoft, "Uninstall Registry Key"). macOS: Info.plist of application bundles (Apple,
"Information Property List"). Linux: the status file of dpkg (deb-installed packages), with the names of what is in
``/usr/bin``.
"""

from __future__ import annotations

import plistlib
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path

from ..paths import System
from .disk import Disk
from .files import DiskError
from .registry import Block, RegistryError, SystemRegistry, blocks_of_hive, shown_value

_MICROSOFT = "Software\\Microsoft\\Windows\\CurrentVersion\\Uninstall"
_WINDOWS = (
    f"HKEY_LOCAL_MACHINE\\{_MICROSOFT}",
    "HKEY_LOCAL_MACHINE\\Software\\WOW6432Node\\Microsoft\\Windows\\CurrentVersion\\Uninstall",
    f"HKEY_CURRENT_USER\\{_MICROSOFT}",
)
_DEBIAN = re.compile(r"^(Package|Status|Version): (.*)$", re.MULTILINE)


@dataclass(frozen=True, slots=True)
class Installed:
    """A program by the ``names`` that its system knows: its title, and those of what is started."""

    names: tuple[str, ...]
    version: str


def installed_in_registry(registry: SystemRegistry) -> Iterator[Installed]:
    """What a running Windows has installed."""
    for branch in _WINDOWS:
        yield from _of_blocks(registry.branch(branch))


def installed_on(system: System, mount: Path, home: Path | None, disk: Disk) -> Iterator[Installed]:
    """What is installed on the system disk that is mounted at ``mount``; ``home`` is its user's.

    What cannot be read is passed over: a version that is not found is asked for.
    """
    found = {System.WINDOWS: _on_windows, System.MACOS: _on_mac, System.LINUX: _on_debian}[system](mount, home, disk)
    try:
        yield from found
    except (DiskError, RegistryError):
        return


def _of_blocks(blocks: Iterable[Block]) -> Iterator[Installed]:
    for block in blocks:
        values = {name.casefold(): shown_value(value) for name, value in block.values if value is not None}
        title, version = values.get("displayname", ""), values.get("displayversion", "")
        started = values.get("displayicon", "").partition(",")[0].replace("/", "\\").rpartition("\\")[2].strip('"')
        if title and version:
            yield Installed(tuple(filter(None, (title, started))), version)


def _on_windows(mount: Path, home: Path | None, disk: Disk) -> Iterator[Installed]:
    software = _below(mount, ("Windows", "System32", "config", "SOFTWARE"), disk)
    own = _below(home, ("NTUSER.DAT",), disk) if home is not None else None
    for hive, branches in ((software, _WINDOWS[:2]), (own, _WINDOWS[2:])):
        for branch in branches if hive is not None else ():
            yield from _of_blocks(blocks_of_hive(hive, hive.name, branch) if hive is not None else ())


def _on_mac(mount: Path, home: Path | None, disk: Disk) -> Iterator[Installed]:
    for top in (mount / "Applications", *([home / "Applications"] if home is not None else [])):
        for name in disk.names(top) if disk.facts(top) is not None else ():
            plist = top / name / "Contents" / "Info.plist"
            if name.endswith(".app") and disk.facts(plist) is not None:
                yield from _bundle(name.removesuffix(".app"), disk.read_bytes(plist))


def _bundle(title: str, content: bytes) -> Iterator[Installed]:
    try:
        told = plistlib.loads(content)
    except Exception:  # noqa: BLE001  the standard reader raises whatever its parsers do
        return
    version = told.get("CFBundleShortVersionString") if isinstance(told, dict) else None
    if isinstance(version, str):
        names = (title, *(told.get(key) for key in ("CFBundleName", "CFBundleExecutable")))
        yield Installed(tuple(dict.fromkeys(name for name in names if isinstance(name, str))), version)


def _on_debian(mount: Path, home: Path | None, disk: Disk) -> Iterator[Installed]:  # noqa: ARG001  as the others
    status = mount / "var/lib/dpkg/status"
    if disk.facts(status) is None:
        return
    for text in disk.read_text(status).split("\n\n"):
        told = dict(_DEBIAN.findall(text))
        if told.get("Status", "").endswith(" installed") and "Version" in told:
            upstream = told["Version"].partition(":")[2] or told["Version"]  # without the epoch
            yield Installed((told["Package"],), upstream.rpartition("-")[0] or upstream)


def _below(top: Path, names: tuple[str, ...], disk: Disk) -> Path | None:
    """A file below a folder, in whatever case; None where it is not."""
    for name in names:
        found = next((each for each in disk.names(top) if each.casefold() == name.casefold()), None)
        if found is None:
            return None
        top = top / found
    return top
