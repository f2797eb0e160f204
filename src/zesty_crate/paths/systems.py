"""What the operating systems and their volume formats make of a name."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class System(StrEnum):
    """An operating system, as far as paths differ."""

    WINDOWS = "windows"
    MACOS = "macos"
    LINUX = "linux"

    @property
    def separator(self) -> str:
        """What stands between two names of a native path."""
        return "\\" if self is System.WINDOWS else "/"


class Folding(StrEnum):
    """How a volume decides that two names are the same."""

    EXACT = "exact"
    UPPERCASE = "uppercase"  # character by character through a table, as NTFS, exFAT and FAT do
    CANONICAL = "canonical"  # composed and decomposed forms are one name; case counts
    CANONICAL_CASELESS = "canonical-caseless"  # both, as APFS and HFS+ do by default


@dataclass(frozen=True, slots=True)
class NameRules:
    """What a volume format allows in a name, and which names it takes for one.

    ``longest_name`` is counted in ``name_unit``; ``largest_file_bytes`` is None where no file of today comes near.
    """

    format: str
    folding: Folding
    windows_names: bool  # forbidden characters, reserved device names, no trailing dot or space
    longest_name: int
    name_unit: str  # "utf-16" units or "bytes" of UTF-8
    largest_file_bytes: int | None = None


FORMATS: dict[str, NameRules] = {
    rules.format: rules
    for rules in (
        NameRules("ntfs", Folding.UPPERCASE, windows_names=True, longest_name=255, name_unit="utf-16"),
        NameRules("exfat", Folding.UPPERCASE, windows_names=True, longest_name=255, name_unit="utf-16"),
        NameRules(
            "fat32",
            Folding.UPPERCASE,
            windows_names=True,
            longest_name=255,
            name_unit="utf-16",
            largest_file_bytes=(4 << 30) - 1,
        ),
        NameRules("apfs", Folding.CANONICAL_CASELESS, windows_names=False, longest_name=255, name_unit="bytes"),
        NameRules("apfs-case", Folding.CANONICAL, windows_names=False, longest_name=255, name_unit="bytes"),
        NameRules("hfs+", Folding.CANONICAL_CASELESS, windows_names=False, longest_name=255, name_unit="utf-16"),
        NameRules("hfs+-case", Folding.CANONICAL, windows_names=False, longest_name=255, name_unit="utf-16"),
        NameRules("ext4", Folding.EXACT, windows_names=False, longest_name=255, name_unit="bytes"),
        NameRules("btrfs", Folding.EXACT, windows_names=False, longest_name=255, name_unit="bytes"),
        NameRules("xfs", Folding.EXACT, windows_names=False, longest_name=255, name_unit="bytes"),
    )
}

USUAL_FORMAT: dict[System, str] = {System.WINDOWS: "ntfs", System.MACOS: "apfs", System.LINUX: "ext4"}

# What the systems call their formats, as far as it differs from our names.
_SYSTEMS_NAMES = {
    "vfat": "fat32",
    "fat": "fat32",
    "msdos": "fat32",
    "fuseblk": "ntfs",
    "ntfs3": "ntfs",
    "hfs": "hfs+",
    "hfsplus": "hfs+",
    "ext3": "ext4",
    "ext2": "ext4",
}


def format_named(name: str) -> str:
    """Our name for a format by the system's own one; the system's own in small letters where we know none."""
    return _SYSTEMS_NAMES.get(name.lower(), name.lower())
