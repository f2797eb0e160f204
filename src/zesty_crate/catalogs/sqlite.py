"""The syntax ``sqlite``."""

from __future__ import annotations

from pathlib import Path

from ..guides import HoldingPart
from ..machines import Disk
from ..paths import MachinePath
from .changes import ChangeList
from .model import Catalog, Proof
from .sqlite_file import journals_beside, recovered_copy
from .sqlite_proof import prove_cells
from .sqlite_read import SqliteCatalog
from .sqlite_write import write_cells


class SqliteSyntax:
    """Reads and writes catalogs that are SQLite databases."""

    def companions(self, path: Path, disk: Disk) -> list[Path]:
        """The journals that a program left beside its database."""
        return journals_beside(path, disk)

    def open(self, path: Path, part: HoldingPart, at: MachinePath, disk: Disk, scratch: Path) -> Catalog:
        """Open for reading; see `sqlite_file.open_readonly`."""
        return SqliteCatalog(path, part, at, disk, scratch)

    def copy_whole(self, path: Path, target: Path, disk: Disk) -> None:
        """Copy the database, with what its journals hold brought in."""
        recovered_copy(path, target, disk)

    def rewrite(self, original: Path, target: Path, part: HoldingPart, changes: ChangeList, disk: Disk) -> None:  # noqa: ARG002
        """Write path cells; see `sqlite_write.write_cells`."""
        self.copy_whole(original, target, disk)
        write_cells(target, changes)

    def prove(self, original: Path, rewritten: Path, part: HoldingPart, changes: ChangeList, disk: Disk) -> Proof:  # noqa: ARG002
        """Compare whole; see `sqlite_proof.prove_cells`."""
        return prove_cells(original, rewritten, changes)
