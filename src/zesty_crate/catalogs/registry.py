"""The syntax ``reg``: registry exports, read and written; and hive files of a disk that is mounted, read only."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Literal

from ..guides import HoldingPart
from ..machines import Disk
from ..machines.registry import HiveError, Value, blocks_of_hive
from ..paths import MachinePath
from .changes import ChangeList
from .keyed import RegistryKey, Section, Sections, read_registry
from .model import Catalog, CatalogError, Found, Proof
from .text_catalog import RecordCatalog
from .text_syntax import TextSyntax

_MAGIC = b"regf"
_TEXTS = (1, 2, 6)  # REG_SZ, REG_EXPAND_SZ, REG_LINK
_NUMBERS: dict[int, Literal["little", "big"]] = {4: "little", 5: "big", 11: "little"}


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

    def rewrite(self, original: Path, target: Path, part: HoldingPart, changes: ChangeList, disk: Disk) -> None:
        """Write a copy of an export."""
        self._export.rewrite(original, target, part, changes, disk)

    def prove(self, original: Path, rewritten: Path, part: HoldingPart, changes: ChangeList, disk: Disk) -> Proof:
        """Compare two exports."""
        return self._export.prove(original, rewritten, part, changes, disk)


def _sections(path: Path, part: HoldingPart, name: str) -> Iterator[Section]:
    """The keys of a hive below the guide's branch, named as an export would name them."""
    try:
        for block in blocks_of_hive(path, name, part.branch):
            section = RegistryKey(block.key)
            for value_name, value in block.values:
                if value is not None and (text := _text_of(value)) is not None:
                    section.values.setdefault(value_name.casefold() or "@", Found(text, None))
            yield section
    except HiveError as error:
        raise CatalogError(error.message, next_step=error.next_step) from error


def _text_of(value: Value) -> str | None:
    """A text or a number as a text; None for bytes of other kinds."""
    if value.kind in _TEXTS:
        return value.data.decode("utf-16-le", "surrogatepass").partition("\0")[0] if len(value.data) % 2 == 0 else None
    return str(int.from_bytes(value.data, _NUMBERS[value.kind])) if value.kind in _NUMBERS else None
