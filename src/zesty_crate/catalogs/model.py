"""What every catalog syntax yields, and what it takes to write new paths back."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple, Protocol, Self, runtime_checkable

from ..errors import ZestyError
from ..guides import CopyPart, HoldingPart
from ..machines import Disk
from ..paths import MachinePath, Spelling
from .forms import Form
from .known import NOTHING_KNOWN, Known
from .reading import Reading

if TYPE_CHECKING:
    from .changes import ChangeList


class CatalogError(ZestyError):
    """A catalog cannot be read or written as its guide says."""


FIXED = "fixed"


class Cell(NamedTuple):
    """The exact location of one text in a catalog.

    In SQLite: table, column, and as ``row`` the rowid, or the key of a table without. In a text: ``column`` names the
    quoting, ``row`` is the first character and ``length`` the number of characters. In a binary property list: ``row``
    is the path to the value. ``kept_as`` tells of a value that is no text: the encoding of bytes that hold one and
    how many zeros end it; or ``integer``; or ``bytes``, and ``pointer`` for bytes that become null, in hexadecimal.
    ``form`` is how the value holds a path that is not simply its text.
    """

    table: str
    column: str
    row: int | str
    length: int = 0
    kept_as: str = ""
    form: Form | None = None

    @property
    def is_fixed(self) -> bool:
        """Whether nothing else can be written here: the text is put together from several places."""
        return self.column == FIXED


class StoredPiece(NamedTuple):
    """A piece of a recorded path: its location and its text.

    ``via`` is the entry's own cell that holds the row of a shared piece, where its table may get another row.
    ``holds`` is what it always is, where the guide says that: an anchor, or one name.
    """

    cell: Cell
    text: str
    via: Cell | None = None
    holds: str = ""


class Found(NamedTuple):
    """A value of a record; ``cell`` is None when nothing else could ever be written in its place."""

    text: str
    cell: Cell | None


class Copied(NamedTuple):
    """What an entry keeps besides its path and makes of it, as ``part`` tells. Nothing is written without a cell."""

    cell: Cell | None
    text: str
    part: CopyPart


class Entry(NamedTuple):
    """One record of a catalog that refers to media.

    ``pieces`` are as many as the guide names, outermost first; a piece that is empty or has no row is None.
    ``copies`` are made of the path. ``pointers`` are those which only its program can follow; they have a cell where
    they are to be emptied.
    """

    key: str
    pieces: tuple[StoredPiece | None, ...]
    recorded: str
    spelling: Spelling
    remote: bool = False
    size_bytes: int | None = None
    annotations: tuple[tuple[str, str], ...] = ()
    base: MachinePath | None = None  # the folder which its path may be relative to
    known: Known = NOTHING_KNOWN
    copies: tuple[Copied, ...] = ()
    pointers: tuple[Found, ...] = ()


@dataclass(frozen=True, slots=True)
class Group:
    """A named, ordered set of entries; ``parent`` is the key of the group around it, or empty."""

    key: str
    name: str
    parent: str
    members: tuple[str, ...]


class Change(NamedTuple):
    """A new text for one cell."""

    cell: Cell
    old: str
    new: str


class Addition(NamedTuple):
    """A new row for a shared piece, like the row ``model`` but for its key and the text of one ``cell``."""

    cell: Cell
    model: int | str
    old: str
    new: str


class Pointer(NamedTuple):
    """A cell of an entry that must point to another row of a shared piece."""

    cell: Cell
    old: int | str
    new: int | str


@dataclass(frozen=True, slots=True)
class Proof:
    """What was compared after a rewrite: everything but ``cells_changed`` path cells is as it was.

    ``rows_added`` shared rows are new, and entries point to them. ``triggers_not_run`` are the program's own, which
    would have changed more. Search indexes over changed texts were ``rebuilt``, or are ``out_of_step`` and may still
    find old paths.
    """

    tables: int
    rows_compared: int
    cells_changed: int
    rows_added: int = 0
    triggers_not_run: tuple[str, ...] = ()
    rebuilt: tuple[str, ...] = ()
    out_of_step: tuple[str, ...] = ()


class Catalog(Protocol):
    """A catalog open for reading. Closing it leaves no trace beside the file.

    ``reading`` is of the last pass over all entries. A record that cannot be read is counted there and left out.
    """

    reading: Reading

    def entries(self, *, placed: bool = True) -> Iterator[Entry]:
        """Every entry, in a stable order, as often as it is asked for. Unless ``placed``, pieces may be left out."""

    def groups(self) -> Iterator[Group]:
        """Every group with its members in order."""

    def included(self) -> Iterator[MachinePath]:
        """Other documents that are read as part of this one."""

    def close(self) -> None:
        """Let go of the file."""


# The new text for a path, given its text, spelling, and how to get its entry; None when it stays. An empty text is that
# of an entry that must be looked at.
NewText = Callable[[str, Spelling, Callable[[], Entry | None]], str | None]


# Of an entry that is no more than this: its key, path, size in bytes where it is known, and annotations.
Brief = tuple[str, str, int | None, tuple[tuple[str, str], ...]]


class BriefTable(NamedTuple):
    """Entries of one table, in fewer words where that says all; how their paths are written, and from where."""

    rows: Iterator[Entry | Brief]
    spelling: Spelling
    base: MachinePath


@runtime_checkable
class BriefCatalog(Catalog, Protocol):
    """A catalog that can describe its entries in fewer words, since most of a million are alike."""

    def brief(self) -> Iterator[BriefTable]:
        """Every entry, in the order in which `Catalog.entries` has them."""


# An entry that is a name in a folder of a tree, and no more: its key, the folder's key, the name, and what else its
# catalog makes an entry of.
InBranch = tuple[str, object, str, tuple[object, ...]]


class Folders(Protocol):
    """Entries by their folders, which are rows of a tree and known by their keys: most of a million are alike."""

    def entries(self) -> Iterator[Entry | InBranch]:
        """Every entry, in the order in which `Catalog.entries` has them."""

    def whole(self, row: InBranch) -> Entry:
        """The whole entry."""

    def named(self, folder: object, name: str) -> Entry | None:
        """The entry that a name in a folder would be; None where the folder cannot be read."""

    def inside(self, folder: object | None) -> Sequence[object]:
        """The folders right inside one; with None those that are in no other."""

    def branch(self, folder: object) -> list[object]:
        """A folder and those in it, at any depth, so far as each but the first is no more than one name."""

    def is_branch_of(self, other: Self, branch: Iterable[object]) -> bool:
        """Whether a branch is the same in another catalog, but for what its first folder is called."""

    def firsts(self) -> Iterator[InBranch]:
        """The first entry of each folder, in their order; none of folders in which it is more than a name."""

    def but_for(self, folders: Mapping[object, int]) -> tuple[Counter[int], list[InBranch | Entry]] | None:
        """How many entries are no more than a name in one of some folders, by their numbers here; and all others.

        None where each must be asked: there are too many others, or one of all cannot be read.
        """

    def unlike(
        self, other: Self, folders: Collection[object]
    ) -> list[tuple[InBranch | Entry, InBranch | Entry]] | None:
        """The entries that are not the same name in the same one of some folders, with what they are in another.

        None where each must be compared: there are too many, or not all of one are in the other.
        """


@runtime_checkable
class BranchedCatalog(Catalog, Protocol):
    """A catalog that may have folders as rows of a tree."""

    def folders(self) -> Folders | None:
        """Its entries by their folders; None where there is more to an entry than its folder and its name."""


@runtime_checkable
class SweptCatalog(Catalog, Protocol):
    """A catalog that can go through all its paths without making an entry of each."""

    def sweep(self, changes: ChangeList, new_text: NewText) -> bool:
        """Write the new texts of all paths into a change list, or give back False when it cannot."""


@runtime_checkable
class GrowingCatalog(Catalog, Protocol):
    """A catalog whose tables of shared pieces may get rows."""

    def free_row(self, table: str) -> int:
        """A row number that is free in a table, as are all above it."""


class Syntax(Protocol):
    """How one kind of document is read and written: the plug-in point for catalogs."""

    def companions(self, path: Path, disk: Disk) -> list[Path]:
        """Files beside a catalog that belong to its state, such as a database's journal; usually none."""

    def open(self, path: Path, part: HoldingPart, at: MachinePath, disk: Disk, scratch: Path) -> Catalog:
        """Open for reading, never touching the original.

        ``at`` is where the document is on its computer; ``scratch`` is a folder for working copies.
        """

    def copy_whole(self, path: Path, target: Path, disk: Disk) -> None:
        """Make the new file ``target`` hold all that ``path`` and its companions hold."""

    def rewrite(self, original: Path, target: Path, part: HoldingPart, changes: ChangeList, disk: Disk) -> None:
        """Make the new file ``target`` hold the same with the changes of a change list: path cells and nothing else.

        When that fails, the new file is of no use.
        """

    def prove(self, original: Path, rewritten: Path, part: HoldingPart, changes: ChangeList, disk: Disk) -> Proof:
        """Compare all of both files; raise `CatalogError` when anything differs but the cells in the change list."""


def base_of(part: HoldingPart, at: MachinePath) -> MachinePath:
    """What relative paths of the document ``at`` a place start from. Raises `CatalogError` where that is not known."""
    if part.base is not None:
        return part.base
    if part.relative_to.holding:
        raise CatalogError(
            f"Its paths start from a folder that {part.relative_to.holding} names, and that is not known here.",
            next_step="Take a new survey of that computer.",
        )
    return at if part.relative_to.text == "document" else at.parent
