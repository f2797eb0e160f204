"""Catalogs that are texts: one way to turn the records of any text syntax into entries, and to write them back."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from itertools import zip_longest
from pathlib import Path

from ..guides import EntriesPart, HoldingPart
from ..machines import Disk
from ..paths import MachinePath, join_pieces
from .changes import read_changes
from .model import FIXED, Catalog, CatalogError, Cell, Entry, Group, PathPiece, Proof
from .records import Found, Record, Records
from .text_file import TextFile, prove_splice, read_text_file, splice

Reader = Callable[[TextFile, HoldingPart, str], Records]


class RecordCatalog:
    """Entries from records."""

    def __init__(self, records: Records, part: HoldingPart, at: MachinePath) -> None:
        self._records = records
        self._part = part
        self._at = at
        self._base = at.parent

    def close(self) -> None:
        """Nothing is held open."""

    def groups(self) -> Iterator[Group]:
        """No groups are read from texts yet."""
        return iter(())

    def entries(self) -> Iterator[Entry]:
        """Every entry, in the order of the document; one without a key is known by its number."""
        several = len(self._part.entries) > 1
        for number, part in enumerate(self._part.entries, start=1):
            prefix = f"{number}:" if several else ""
            for position, record in enumerate(self._records.select(part.each), start=1):
                entry = self._entry(part, record, prefix, position)
                if entry is not None:
                    yield entry

    def _entry(self, part: EntriesPart, record: Record, prefix: str, position: int) -> Entry | None:
        pieces = tuple(_piece(record.value(piece.at)) for piece in part.path)
        if not any(pieces):
            return None
        key = record.value(part.key) if part.key else None
        size = record.value(part.size) if part.size else None
        recorded = join_pieces([piece.text for piece in pieces if piece], self._at.system, part.spelling)
        remote = bool(part.remote and record.value(part.remote))
        handwork = ((name, record.value(name)) for name in part.handwork)
        return Entry(
            key=prefix + (key.text if key else str(position)),
            pieces=pieces,
            recorded=recorded,
            spelling=part.spelling,
            remote=remote or bool(part.remote_like and re.search(part.remote_like, recorded)),
            size_bytes=int(size.text) if size and size.text.isascii() and size.text.isdigit() else None,
            handwork=tuple((name, found.text) for name, found in handwork if found is not None),
            base=self._base,
        )


class TextSyntax:
    """A syntax whose documents are texts, written by splicing."""

    def __init__(self, reader: Reader) -> None:
        self._reader = reader

    def companions(self, path: Path, disk: Disk) -> list[Path]:  # noqa: ARG002  texts have none
        """Nothing stands beside a text."""
        return []

    def open(self, path: Path, part: HoldingPart, at: MachinePath, disk: Disk, scratch: Path) -> Catalog:  # noqa: ARG002
        """Read the document."""
        file = read_text_file(path, disk, part.encoding)
        return RecordCatalog(self._reader(file, part, str(path)), part, at)

    def copy_whole(self, path: Path, target: Path, disk: Disk) -> None:
        """Copy the document."""
        facts = disk.facts(path)
        if facts is None:
            raise CatalogError(f"The catalog {path} is not there.", next_step="See whether its folder is right.")
        disk.copy(path, target, facts)

    def rewrite(self, target: Path, part: HoldingPart, changes: Path, disk: Disk) -> None:
        """Splice the changes into the working copy."""
        disk.write_bytes(target, splice(read_text_file(target, disk, part.encoding), changes))

    def prove(self, original: Path, rewritten: Path, part: HoldingPart, changes: Path, disk: Disk) -> Proof:
        """Outside the listed spans every byte is the same; in them stand the listed texts, and read back as such."""
        old, new = (read_text_file(path, disk, part.encoding) for path in (original, rewritten))
        proof = prove_splice(old, new, changes)
        listed = {change.cell: change.new for change in read_changes(changes)}
        pairs = zip_longest(self._texts(old, part), self._texts(new, part), fillvalue=(None, ""))
        for (cell, text), (_, now) in pairs:
            if now != (listed.get(cell, text) if cell else text):
                raise CatalogError(
                    f"A new path would read back as {now!r}, and not as it is meant; so it cannot be written here.",
                    next_step="Nothing was changed. Send these files to another place with a route.",
                )
        return proof

    def _texts(self, file: TextFile, part: HoldingPart) -> Iterator[tuple[Cell | None, str]]:
        """Every path text of a document, with its place."""
        records = self._reader(file, part, "the rewritten catalog")
        for entries in part.entries:
            for record in records.select(entries.each):
                for piece in entries.path:
                    found = record.value(piece.at)
                    yield (found.cell, found.text) if found else (None, "")


def _piece(found: Found | None) -> PathPiece | None:
    return PathPiece(found.cell or Cell("", FIXED, 0), found.text) if found and found.text else None
