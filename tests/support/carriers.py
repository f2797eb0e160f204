"""Real carriers for a test: file systems in a file or in memory, mounted for a while; skipped where none can be."""

from __future__ import annotations

import shutil
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

MAKERS = {
    "ext4": (("mkfs.ext4", "-q", "-F"), ("mount", "-o", "loop")),
    "ntfs": (("mkfs.ntfs", "-q", "-F"), ("ntfs-3g", "-o", "windows_names")),
    "exfat": (("mkfs.exfat",), ("mount", "-t", "exfat-fuse", "-o", "loop")),
    "fat32": (("mkfs.vfat", "-F", "32"), ("mount", "-t", "vfat", "-o", "loop,utf8")),
}


def ran(*command: str | Path) -> bool:
    """Whether a command was there and ended well."""
    try:
        return subprocess.run([str(each) for each in command], capture_output=True, check=False).returncode == 0
    except OSError:
        return False


def mounted(*arguments: str | Path) -> bool:
    """Whether this could be mounted."""
    return ran("mount", *arguments)


@contextmanager
def a_carrier(place: Path, format: str = "tmpfs", *, size_mb: int = 64) -> Iterator[Path]:  # noqa: A002
    """A carrier of a format, mounted at a new folder. Skips the test where that cannot be had."""
    place.mkdir(parents=True)
    if format == "tmpfs":
        if not mounted("-t", "tmpfs", "-o", f"size={size_mb}m", "tmpfs", place):
            pytest.skip("nothing can be mounted here")
    else:
        make, mount = MAKERS[format]
        if not shutil.which(make[0]) or not shutil.which(mount[0]):
            pytest.skip(f"no {make[0]} or no {mount[0]} here")
        image = place.with_name(f"{place.name}.image")
        with image.open("wb") as stream:
            stream.truncate(size_mb << 20)
        assert ran(*make, image), make
        if not ran(mount[0], image, place, *mount[1:]):
            pytest.skip(f"no {format} can be mounted here")
    try:
        yield place
    finally:
        subprocess.run(["umount", "-l", str(place)], check=True)
