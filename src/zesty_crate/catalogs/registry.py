"""The syntax ``reg``: registry exports, read and written; and hive files of a disk that is mounted, read only."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from ..guides import HoldingPart
from ..machines import Disk
from ..machines.registry import HiveError, hive_branch
from ..paths import MachinePath
from .keyed import RegistryKey, Section, Sections, read_registry
from .model import Catalog, CatalogError, Found, Proof
from .text_catalog import RecordCatalog, TextSyntax

_MAGIC = b"regf"


class RegistrySyntax:
    """An export, which is a text, or a hive, which is not."""

    def __init__(self) -> None:
        self._export = TextSyntax(read_registry)

    def companions(self, path: Path, disk: Disk) -> list[Path]:
        """Nothing of it is needed to read it."""
        return self._export.companions(path, disk)

    def open(self, path: Path, part: HoldingPart, at: MachinePath, disk: Disk, scratch: Path) -> Catalog:
        """Read either form."""
        facts = disk.facts(path)
        if facts is None or not facts.is_file or disk.read_start(path, 4) != _MAGIC:
            return self._export.open(path, part, at, disk, scratch)
        return RecordCatalog(Sections(list(_sections(path, part, at.name))), part, at)

    def copy_whole(self, path: Path, target: Path, disk: Disk) -> None:
        """Copy the file."""
        self._export.copy_whole(path, target, disk)

    def rewrite(self, target: Path, part: HoldingPart, changes: Path, disk: Disk) -> None:
        """Write into an export."""
        self._export.rewrite(target, part, changes, disk)

    def prove(self, original: Path, rewritten: Path, part: HoldingPart, changes: Path, disk: Disk) -> Proof:
        """Compare two exports."""
        return self._export.prove(original, rewritten, part, changes, disk)


def _sections(path: Path, part: HoldingPart, name: str) -> Iterator[Section]:
    """The keys of a hive below the guide's branch, named as an export would name them."""
    try:
        for key, found in hive_branch(path, name, part.branch):
            section = RegistryKey(key)
            for value in found:
                text = value.value if isinstance(value.value, str | int) else None
                if text is not None:
                    name_of = "@" if value.name == "(default)" else value.name.casefold()
                    section.values.setdefault(name_of, Found(str(text), None))
            yield section
    except HiveError as error:
        raise CatalogError(error.message, next_step=error.next_step) from error
