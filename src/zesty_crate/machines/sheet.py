"""A sheet describes one computer: its system, its user, its volumes and where their files are from here."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from ..documents import Part, parse_document
from ..errors import ZestyError
from ..paths import System
from .disk import Disk

Text = Annotated[str, StringConstraints(min_length=1)]


class ComputerPart(Part):
    """``[computer]``"""

    name: Text
    system: Literal["windows", "macos", "linux"]
    user: Text
    machine: str = ""


class VolumePart(Part):
    """``[[volume]]``; without ``mount`` the volume is not here now."""

    anchor: Text
    mount: Text | None = None
    label: str = ""
    serial: str = ""
    uuid: str = ""
    format: (
        Literal["ntfs", "exfat", "fat32", "apfs", "apfs-case", "hfs+", "hfs+-case", "ext4", "btrfs", "xfs"] | None
    ) = None
    travels: bool = False
    size_bytes: int | None = Field(default=None, ge=0)
    free_bytes: int | None = Field(default=None, ge=0)


class RegistryPart(Part):
    """``[windows-registry]``: an export of the registry, relative to the sheet.

    Without it, hive files are looked for at their usual places on the computer's disk.
    """

    file: Text


class ProgramPart(Part):
    """``[programs.ID]``: what is so here for one program; ``places`` says where its guide's own places are."""

    version: str = ""
    running: bool | None = None  # not known
    seats_used: int | None = Field(default=None, ge=0)
    places: dict[str, Text] = Field(default_factory=dict)


class SheetPart(Part):
    """A whole sheet."""

    computer: ComputerPart
    volume: tuple[VolumePart, ...] = Field(min_length=1)
    places: dict[str, Text] = Field(default_factory=dict)
    programs: dict[str, ProgramPart] = Field(default_factory=dict)
    windows_registry: RegistryPart | None = None


@dataclass(frozen=True, slots=True)
class Sheet:
    """A sheet that was read: its content, its text, and the folder that its mounts are relative to.

    ``is_here`` when it describes the computer that this program runs on.
    """

    part: SheetPart
    text: str
    folder: Path
    is_here: bool = False

    @property
    def system(self) -> System:
        """The operating system of the computer."""
        return System(self.part.computer.system)


def load_sheet(path: Path, disk: Disk) -> Sheet:
    """Read a sheet file. Raises `ZestyError` when it is not there, `DocumentError` with all its mistakes."""
    facts = disk.facts(path)
    if facts is None or not facts.is_file:
        found = "nothing is there" if facts is None else "that is not a file"
        raise ZestyError(
            f"The sheet {path} cannot be read: {found}.",
            next_step="Name the sheet of the computer, for example paintloft/sheet.toml.",
        )
    text = disk.read_text(path)
    return Sheet(parse_document(text, SheetPart, f"The sheet {path}"), text, path.parent.absolute())
