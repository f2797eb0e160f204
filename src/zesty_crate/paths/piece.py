"""A recorded path taken apart, with what its writer chose where the spelling leaves a choice."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

from .machine_path import MachinePath
from .systems import System


class Spelling(StrEnum):
    """The way a catalog writes its paths."""

    NATIVE = "native"
    SLASHES = "slashes"
    FILE_URL = "file-url"
    WITH_VARIABLES = "with-variables"  # native, and it may begin with a variable or a tilde
    FROM_VOLUME = "from-volume"  # the name of a volume, and the path from its root
    RELATIVE = "relative"  # native, and relative to the document where it does not start at a root
    RELATIVE_EITHER = "relative-either"  # the same, and either slash separates names on every system
    RELATIVE_URL = "relative-url"  # a URI reference: relative to the document, or a file URL

    @property
    def is_url(self) -> bool:
        """Whether names are percent-encoded and separated by ``/``."""
        return self in (Spelling.FILE_URL, Spelling.RELATIVE_URL)

    @property
    def begins_with_volume(self) -> bool:
        """Whether a path begins with the name of a volume."""
        return self is Spelling.FROM_VOLUME

    @property
    def is_relative(self) -> bool:
        """Whether a path may be relative to its document."""
        return self in (Spelling.RELATIVE, Spelling.RELATIVE_EITHER, Spelling.RELATIVE_URL)


@dataclass(frozen=True, slots=True)
class Style:
    """What one writer chose where the spelling leaves a choice."""

    spelling: Spelling
    separator: str
    opening: str = ""  # before the root (``file:///``, ``\\\\?\\``), or before an inner piece's first name
    closing: str = ""  # separators after the last name
    safe: str = ""  # file URLs: characters that this writer leaves bare although quoting them is usual
    bare_unicode: bool = False
    lower_hex: bool = False
    lower_letter: bool = False  # a drive letter in lower case
    base: MachinePath | None = None  # the folder that this text is relative to
    variable: str = ""  # what represents the first names, as it is written
    covered: int = 0  # how many names that is
    written: dict[str, str] = field(default_factory=dict, hash=False)  # file URLs: name -> as it was written


@dataclass(frozen=True, slots=True)
class SpelledPiece:
    """A recorded path taken apart, or an inner piece of one that is kept in several cells (``root`` is then empty)."""

    system: System
    root: str
    parts: tuple[str, ...]
    style: Style

    @property
    def path(self) -> MachinePath:
        """The path this piece is, given that it starts at a root."""
        return MachinePath(self.system, self.root, self.parts)
