"""Where systems mount volumes, each under a name of its own; without the volume, that is a plain folder."""

from __future__ import annotations

from ..machines import Computer
from ..paths import MachinePath, System

_MOUNTED_IN: dict[System, tuple[tuple[str, ...], ...]] = {
    System.MACOS: (("Volumes",),),
    System.LINUX: (("mnt",), ("media",), ("run", "media")),
}


def mount_point(path: MachinePath, computer: Computer) -> MachinePath | None:
    """The place of the volume that ``path`` is on by its name, where the computer has no such volume; else None."""
    volume = computer.volume_of(path)
    depth = len(volume.anchor.parts) if volume is not None else 0
    for above in _MOUNTED_IN.get(path.system, ()):
        if path.parts[: len(above)] == above and len(path.parts) > len(above) >= depth:
            return path._replace(parts=path.parts[: len(above) + 1])
    return None
