"""The interface of a system: what the program needs of it beyond what Python does everywhere alike.

Methods raise `OSError`, as the standard library does. Paths are texts or `Path`; handles are of open files.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping
from os import PathLike
from typing import Union

AnyPath = Union[str, "PathLike[str]"]

LARGEST_ATTRIBUTE_BYTES = 16 << 20  # more than that is no label, and no resource fork that anybody needs
# Among attributes: that file managers do not show it, that it is the system's own, that some were too large; and when
# it was created, in whole seconds since 1970, where that is before its last change. (After it, it is only the date at
# which this copy was made.)
HIDDEN, OF_SYSTEM, TOO_LARGE, CREATED = ":hidden", ":system", ":too-large", ":created"
MARKS = frozenset((HIDDEN, OF_SYSTEM, TOO_LARGE, CREATED))


class OperatingSystem(ABC):
    """One system. ``name`` is windows, macos or linux, or as it calls itself where it is none of these."""

    name: str
    flushes_volumes = True  # at once; else each file is flushed as it is written
    sets_creation = False  # a program may say when a file was created
    dates_on_closing = False  # a file that was written gets the date of its closing, whatever it was given before

    # -- names and places -------------------------------------------------------------------------------------------

    def reach(self, path: AnyPath) -> AnyPath:
        """The path in the form in which this system takes it, however long it is, and whatever its names are."""
        return path

    @abstractmethod
    def database_uri(self, path: str) -> str:
        """An absolute path as a file URI of SQLite (sqlite.org/uri.html), without parameters."""

    @abstractmethod
    def is_mount_point(self, folder: AnyPath) -> bool:
        """Whether a volume is mounted at a folder; not where nothing is."""

    @abstractmethod
    def block_bytes(self, folder: AnyPath) -> int:
        """What room on the volume of a folder is given out in."""

    def person(self, user: str | None = None) -> tuple[str, str] | None:
        """The name and the home of a user; without a name, of who called the program with an administrator's rights.

        None where nobody did that, and for a user that is not known.
        """
        del user
        return None

    # -- changing ---------------------------------------------------------------------------------------------------

    @abstractmethod
    def rename_to_free_name(self, source: AnyPath, target: AnyPath) -> None:
        """Rename in one step. Raises `FileExistsError`, and changes nothing, when something is at the target."""

    @abstractmethod
    def replace(self, source: AnyPath, target: AnyPath) -> None:
        """Rename in one step; a file that is at the target is replaced, even if it is read-only."""

    @abstractmethod
    def remove(self, path: AnyPath) -> None:
        """Remove a file or a link, even if it is read-only."""

    @abstractmethod
    def give_to_owner_of(self, model: AnyPath, path: AnyPath) -> None:
        """Have a thing belong to whom another one belongs to; nothing for a user who owns all that they make."""

    # -- on the disk itself -----------------------------------------------------------------------------------------

    @abstractmethod
    def flush(self, handle: int) -> None:
        """Have the content of an open file on the disk itself, and out of the drive's own memory."""

    @abstractmethod
    def flush_at(self, path: AnyPath) -> None:
        """The same for a file by its path, whatever its permissions; of a folder its names."""

    @abstractmethod
    def flush_volume(self, folder: AnyPath) -> None:
        """The same for all that was written on the volume of a folder, where that can be asked for."""

    def begin_writing_out(self, handle: int) -> None:  # noqa: B027  few can
        """Have the disk begin with what was written so far, so that flushing has less to wait for."""

    def forget(self, handle: int) -> None:  # noqa: B027  few can
        """Have an open file read from the drive, and not from memory, where one may ask for that."""

    # -- attributes -------------------------------------------------------------------------------------------------

    @abstractmethod
    def attributes(self, path: AnyPath) -> dict[str, bytes]:
        """What people gave to a file or folder beside its content (labels, tags, notes), by names without a prefix.

        Those of systems mean nothing on another one and are left out. Those over `LARGEST_ATTRIBUTE_BYTES` are left out
        and marked, so that it is said in the end.
        """

    def kept(self, attributes: Mapping[str, bytes]) -> dict[str, bytes]:
        """Those that this system can have at all, wherever a file is."""
        return {name: value for name, value in attributes.items() if name != CREATED or self.sets_creation}

    @abstractmethod
    def set_attributes(self, path: AnyPath, attributes: Mapping[str, bytes]) -> bool:
        """Give attributes to a file or folder; False where its volume, or the system, cannot keep all of them."""

    def has_access_list(self, path: AnyPath) -> bool:
        """Whether a folder says who may do what beyond its permissions, and not only as the folder around it does."""
        del path
        return False

    # -- locks ------------------------------------------------------------------------------------------------------

    @abstractmethod
    def lock(self, handle: int) -> None:
        """Lock an open file for this process. Raises `BlockingIOError` while another one has it locked."""

    @abstractmethod
    def let_go(self, path: AnyPath, handle: int) -> None:
        """Close a locked file and remove it, so that nobody who waits for it is missed. Raises nothing."""

    # -- the command line -------------------------------------------------------------------------------------------

    line_goes_on = " \\"  # at the end of a command that goes on in the next line

    @abstractmethod
    def quoted(self, word: str) -> str:
        """A word of a command as its usual shell takes it."""


def within_bounds(found: Mapping[str, bytes]) -> dict[str, bytes]:
    """Attributes without those that are too large, and with a mark if there were any."""
    kept = {name: value for name, value in found.items() if len(value) <= LARGEST_ATTRIBUTE_BYTES}
    return kept if len(kept) == len(found) else {**kept, TOO_LARGE: b""}


def is_open_elsewhere(error: OSError) -> bool:
    """Whether an error says that another program has a file open (Windows: sharing and lock violations)."""
    return getattr(error, "winerror", None) in (32, 33)


def created_mark(created_s: float, modified_s: float) -> dict[str, bytes]:
    """The mark of a date of creation, where that says more than the date of the last change."""
    return {CREATED: b"%d" % int(created_s)} if created_s > 0 and int(created_s) < int(modified_s) else {}
