"""The syntax ``reg``: registry exports, read and written; and hive files of a disk that is mounted, read only."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from ..guides import HoldingPart
from ..machines import Disk
from ..paths import MachinePath
from .keyed import Section, Sections, read_registry
from .model import Catalog, CatalogError, Proof
from .records import Found
from .text_catalog import RecordCatalog, TextSyntax

_MAGIC = b"regf"
# Which branch of the registry a hive file is, by its name (Microsoft, "Registry Hives").
_BRANCHES = {
    "ntuser.dat": "HKEY_CURRENT_USER",
    "usrclass.dat": r"HKEY_CURRENT_USER\Software\Classes",
    "software": r"HKEY_LOCAL_MACHINE\SOFTWARE",
    "system": r"HKEY_LOCAL_MACHINE\SYSTEM",
}
_MOST_KEYS = 200_000


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
    from regipy.exceptions import RegipyGeneralException, RegistryKeyNotFoundException
    from regipy.registry import RegistryHive

    logging.getLogger("regipy").setLevel(logging.CRITICAL)  # what is wrong is told once, by an error
    hives: Any = RegistryHive  # it has types that its maker did not finish

    root = _BRANCHES.get(name.lower(), "")
    if part.branch and not _within(part.branch, root):
        raise CatalogError(
            f"The branch {part.branch} is not in the hive {name}, which is {root or 'of a kind that is not known'}.",
            next_step="Correct the branch in the guide.",
        )
    below = part.branch[len(root) :]
    try:
        hive = hives(str(path))
        try:
            key = hive.get_key(below) if below else hive.root
        except RegistryKeyNotFoundException:
            return  # a program that never wrote there has no branch
        left = [_MOST_KEYS]
        yield from _walk(key, root + below, left)
    except CatalogError:
        raise
    except RegipyGeneralException as error:
        raise _damaged(path, error) from error
    except Exception as error:
        raise _damaged(path, error) from error


def _walk(key: Any, name: str, left: list[int]) -> Iterator[Section]:
    left[0] -= 1
    if left[0] < 0 or name.count("\\") > 512:  # the registry's own limit of depth
        raise ValueError("it has more keys, or deeper ones, than a registry can have")
    section = Section(name)
    for value in key.iter_values():
        text = value.value if isinstance(value.value, str | int) else None
        if text is not None:
            section.values.setdefault(
                "@" if value.name == "(default)" else value.name.casefold(), Found(str(text), None)
            )
    yield section
    for inner in key.iter_subkeys() or ():
        yield from _walk(inner, f"{name}\\{inner.name}", left)


def _within(branch: str, root: str) -> bool:
    return bool(root) and f"{branch}\\".lower().startswith(f"{root}\\".lower())


def _damaged(path: Path, error: Exception) -> CatalogError:
    return CatalogError(
        f"The catalog {path} cannot be read as a hive of the registry: {error or type(error).__name__}.",
        next_step="Export the branch on the old computer, and name the export in its sheet.",
    )
