"""Catalogs that are inside of something: read through its layers, and written without touching anything else in it."""

from __future__ import annotations

import os
from collections.abc import Iterator, Mapping, Sequence
from contextlib import closing, contextmanager
from itertools import count
from pathlib import Path

from ...guides import HoldingPart
from ...machines import Disk
from ...paths import MachinePath
from ..changes import ChangeList, tagged
from ..model import (
    BriefCatalog,
    BriefTable,
    Catalog,
    CatalogError,
    Cell,
    Entry,
    Group,
    GrowingCatalog,
    NewText,
    Proof,
    StoredPiece,
    SweptCatalog,
    Syntax,
)
from ..reading import Reading
from ..text_file import read_whole
from .layers import Layer, Leaf, leaves, put_all

_NUMBERS = count()  # so that no two working copies have one name


class ContainedSyntax:
    """Another syntax, inside layers; the file as a whole is copied as the ``holder`` copies its own.

    With ``several`` each document inside is one part of the catalog, under a tag of its own.
    """

    def __init__(self, inner: Syntax, layers: tuple[Layer, ...], holder: Syntax, *, several: bool) -> None:
        self._inner = inner
        self._layers = layers
        self._holder = holder
        self._several = several

    def companions(self, path: Path, disk: Disk) -> list[Path]:
        """What belongs to the file that holds it."""
        return self._holder.companions(path, disk)

    def open(self, path: Path, part: HoldingPart, at: MachinePath, disk: Disk, scratch: Path) -> Catalog:
        """Read all documents inside. Raises `CatalogError` where none can be read."""
        if self.companions(path, disk):
            whole = scratch / f"whole-{os.getpid()}-{next(_NUMBERS)}"
            self._holder.copy_whole(path, whole, disk)
            path = whole
        opened, faults = dict[str, _Opened](), dict[str, CatalogError]()
        for leaf, document in leaves(read_whole(path, disk), self._layers, str(path)).items():
            copy = scratch / f"inside-{os.getpid()}-{next(_NUMBERS)}"
            disk.write_bytes(copy, document)
            try:
                opened[_tag(leaf)] = _Opened(self._inner.open(copy, part, at, disk, scratch), copy, disk)
            except CatalogError as error:
                disk.remove(copy)
                faults[_tag(leaf)] = _renamed(error, str(copy), f"{_tag(leaf)} in {path}" if leaf else str(path))
        if faults and not opened:
            raise next(iter(faults.values()))
        if self._several:
            return SeveralInside(opened, faults, part, at)
        (only,) = opened.values()
        return OneInside(only)

    def copy_whole(self, path: Path, target: Path, disk: Disk) -> None:
        """Copy the whole file."""
        self._holder.copy_whole(path, target, disk)

    def rewrite(self, original: Path, target: Path, part: HoldingPart, changes: ChangeList, disk: Disk) -> None:
        """Write the changes into the documents that they are for, and put these in their places."""
        self.copy_whole(original, target, disk)
        content, new = disk.read_bytes(target), dict[Leaf, bytes]()
        copies = [changes.beside(f"inside-{number}") for number in (1, 2)]
        for leaf, document in leaves(content, self._layers, str(target)).items():
            with self._own_list(changes, leaf, disk) as own:
                if own is not None:
                    new[leaf] = self._rewritten(document, copies, part, own, disk)
        made = put_all(content, self._layers, new, str(target))
        if made != content:
            disk.write_bytes(target, made)

    def _rewritten(
        self, document: bytes, copies: Sequence[Path], part: HoldingPart, changes: ChangeList, disk: Disk
    ) -> bytes:
        """A document inside with its changes; it is taken out for as long as that takes."""
        try:
            disk.write_bytes(copies[0], document)
            self._inner.rewrite(copies[0], copies[1], part, changes, disk)
            return disk.read_bytes(copies[1])
        finally:
            for copy in copies:
                disk.remove(copy)

    def prove(self, original: Path, rewritten: Path, part: HoldingPart, changes: ChangeList, disk: Disk) -> Proof:
        """Each document inside is proved by its own syntax; of all else every byte must be the same."""
        contents = [disk.read_bytes(path) for path in (original, rewritten)]
        before, after = (leaves(each, self._layers, str(original)) for each in contents)
        proofs, copies = list[Proof](), [changes.beside(f"inside-{number}") for number in (1, 2)]
        for leaf, document in before.items():
            with self._own_list(changes, leaf, disk) as own:
                if own is None:
                    if after.get(leaf) != document:
                        raise _differs(leaf)
                    continue
                for copy, each in zip(copies, (document, after.get(leaf, b"")), strict=True):
                    disk.write_bytes(copy, each)
                try:
                    proofs.append(self._inner.prove(copies[0], copies[1], part, own, disk))
                finally:
                    for copy in copies:
                        disk.remove(copy)
        new = {leaf: each for leaf, each in after.items() if before.get(leaf) != each}
        if contents[1] != put_all(contents[0], self._layers, new, str(original)):
            raise _differs(())
        return _sum_of(proofs)

    @contextmanager
    def _own_list(self, changes: ChangeList, leaf: Leaf, disk: Disk) -> Iterator[ChangeList | None]:
        """The changes in one document; None where there are none."""
        if not self._several:
            yield changes
            return
        own = changes.of(_tag(leaf))
        try:
            yield own if len(own) else None
        finally:
            disk.remove(own.path)

    def take_out(self, path: Path, target: Path, disk: Disk) -> None:
        """Write the document inside into a file of its own. Raises `CatalogError` where there are several."""
        self._require_one(path)
        ((_, document),) = leaves(read_whole(path, disk), self._layers, str(path)).items()
        disk.write_bytes(target, document)

    def put_back(self, target: Path, document: Path, disk: Disk) -> None:
        """Have the content of a file as the document inside, and change nothing else. Raises `CatalogError`."""
        self._require_one(target)
        content, new = read_whole(target, disk), disk.read_bytes(document)
        ((leaf, old),) = leaves(content, self._layers, str(target)).items()
        if new != old:
            disk.write_bytes(target, put_all(content, self._layers, {leaf: new}, str(target)))

    def names(self, path: Path, disk: Disk) -> frozenset[str]:
        """The names of all that the file holds directly."""
        return self._layers[0].names(read_whole(path, disk), str(path))

    def _require_one(self, path: Path) -> None:
        if self._several:
            raise CatalogError(f"{path} may hold several catalogs; such ones cannot be merged.")


class _Opened:
    """A document that was taken out, and its working copy."""

    def __init__(self, catalog: Catalog, copy: Path, disk: Disk) -> None:
        self.catalog = catalog
        self._copy = copy
        self._disk = disk

    def close(self) -> None:
        """Let go of both."""
        with closing(self.catalog):
            pass
        self._disk.remove(self._copy)


class OneInside:
    """The one catalog inside, as it is."""

    def __init__(self, opened: _Opened) -> None:
        self._opened = opened
        self._catalog = opened.catalog

    @property
    def reading(self) -> Reading:
        """Of the last pass."""
        return self._catalog.reading

    @reading.setter
    def reading(self, reading: Reading) -> None:
        self._catalog.reading = reading

    def entries(self, *, placed: bool = True) -> Iterator[Entry]:
        """Its entries."""
        return self._catalog.entries(placed=placed)

    def brief(self) -> Iterator[BriefTable]:
        """Its entries in fewer words, where it knows such."""
        if isinstance(self._catalog, BriefCatalog):
            yield from self._catalog.brief()

    def sweep(self, changes: ChangeList, new_text: NewText) -> bool:
        """Its sweep, where it has one."""
        return isinstance(self._catalog, SweptCatalog) and self._catalog.sweep(changes, new_text)

    def free_row(self, table: str) -> int:
        """A row that is free in one of its tables."""
        if not isinstance(self._catalog, GrowingCatalog):
            raise CatalogError(f"Nothing can be added to the table {table}.")
        return self._catalog.free_row(table)

    def groups(self) -> Iterator[Group]:
        """Its groups."""
        return self._catalog.groups()

    def included(self) -> Iterator[MachinePath]:
        """What it includes."""
        return self._catalog.included()

    def close(self) -> None:
        """Let go of it."""
        self._opened.close()


class SeveralInside:
    """Several catalogs inside one file: the keys and places of each have its name before them."""

    def __init__(
        self, opened: Mapping[str, _Opened], faults: Mapping[str, CatalogError], part: HoldingPart, at: MachinePath
    ) -> None:
        self._opened = opened
        self._faults = faults
        self._part = part
        self._at = at
        self.reading = Reading()

    def entries(self, *, placed: bool = True) -> Iterator[Entry]:
        """Every entry of every catalog, in their order."""
        self.reading = reading = Reading(is_empty=True)
        for tag, error in self._faults.items():
            reading.skip(tag, error.message)
        for tag, opened in self._opened.items():
            for entry in opened.catalog.entries(placed=placed):
                pieces = tuple(piece and _tagged_piece(tag, piece) for piece in entry.pieces)
                yield _tagged_besides(tag, entry)._replace(key=f"{tag}:{entry.key}", pieces=pieces)
            _add(reading, tag, opened.catalog.reading)

    def groups(self) -> Iterator[Group]:
        """Every group of every catalog; where a document is one group, it is all of the file."""
        if any(part.whole for part in self._part.groups):
            yield Group("whole", self._at.name, "", tuple(entry.key for entry in self.entries()))
            return
        for tag, opened in self._opened.items():
            for group in opened.catalog.groups():
                members = tuple(f"{tag}:{member}" for member in group.members)
                yield Group(f"{tag}:{group.key}", group.name, group.parent and f"{tag}:{group.parent}", members)

    def included(self) -> Iterator[MachinePath]:
        """Nothing inside includes what is outside."""
        return iter(())

    def close(self) -> None:
        """Let go of all."""
        for opened in self._opened.values():
            opened.close()


def _add(reading: Reading, tag: str, more: Reading) -> None:
    reading.entries += more.entries
    reading.without_path += more.without_path
    reading.pointers += more.pointers
    reading.stale += more.stale
    reading.is_empty &= more.is_empty
    for reason in more.reasons:
        reading.skip(tag, reason)
    reading.unread += more.unread - len(more.reasons)


def _tagged_piece(tag: str, piece: StoredPiece) -> StoredPiece:
    via = piece.via and _tagged_cell(tag, piece.via)
    return piece._replace(cell=_tagged_cell(tag, piece.cell), via=via)


def _tagged_besides(tag: str, entry: Entry) -> Entry:
    """An entry with what is kept beside its path."""
    if not (entry.copies or entry.pointers):
        return entry
    copies = (each._replace(cell=each.cell and _tagged_cell(tag, each.cell)) for each in entry.copies)
    pointers = (each._replace(cell=each.cell and _tagged_cell(tag, each.cell)) for each in entry.pointers)
    return entry._replace(copies=tuple(copies), pointers=tuple(pointers))


def _tagged_cell(tag: str, cell: Cell) -> Cell:
    return cell._replace(table=tagged(tag, cell.table))


def _tag(leaf: Leaf) -> str:
    return "/".join(leaf)


def _renamed(error: CatalogError, old: str, new: str) -> CatalogError:
    return CatalogError(error.message.replace(old, new), next_step=error.next_step, details=error.details)


def _sum_of(proofs: list[Proof]) -> Proof:
    return Proof(
        sum(each.tables for each in proofs),
        sum(each.rows_compared for each in proofs),
        sum(each.cells_changed for each in proofs),
        sum(each.rows_added for each in proofs),
        tuple(dict.fromkeys(name for each in proofs for name in each.triggers_not_run)),
        tuple(dict.fromkeys(name for each in proofs for name in each.rebuilt)),
        tuple(dict.fromkeys(name for each in proofs for name in each.out_of_step)),
    )


def _differs(leaf: Leaf) -> CatalogError:
    where = f"{_tag(leaf)} inside of it" if leaf else "something else inside of it"
    return CatalogError(
        f"The rewritten catalog differs from the original in more than its paths: {where} differs. It was discarded.",
        next_step="The catalog was not changed. Please report this fault to the makers of Zesty Crate.",
    )
