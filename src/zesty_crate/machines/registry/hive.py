"""A branch of a hive file, of a disk that is mounted. Read only."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from ...systems.reached import reached
from .hive_file import HiveFile, HiveFormatError, HiveKey
from .regfile import RegistryError
from .tree import Block

# Which branch of the registry a hive file is, by its name (Microsoft, "Registry Hives").
_BRANCHES = {
    "ntuser.dat": "HKEY_CURRENT_USER",
    "usrclass.dat": r"HKEY_CURRENT_USER\Software\Classes",
    "software": r"HKEY_LOCAL_MACHINE\SOFTWARE",
    "system": r"HKEY_LOCAL_MACHINE\SYSTEM",
}
_MOST_KEYS = 200_000
_DEEPEST = 512  # the registry's own limit


class HiveError(RegistryError):
    """A hive cannot be read."""


def blocks_of_hive(path: Path, name: str, branch: str) -> Iterator[Block]:
    """The keys of a hive file below ``branch``, as an export would say them; ``name`` is the file's own.

    Nothing when a program never wrote there. Raises `HiveError` for a damaged hive, and a branch that is not in it.
    """
    root = _BRANCHES.get(name.lower(), "")
    if branch and not (root and f"{branch}\\".lower().startswith(f"{root}\\".lower())):
        raise HiveError(
            f"The branch {branch} is not in the hive {name}, which is {root or 'of a kind that is not known'}.",
            next_step="Correct the branch in the guide.",
        )
    below = [each for each in branch[len(root) :].split("\\") if each]
    try:
        hive = HiveFile(reached(path).read_bytes())
        key = _found(hive, below)
        if key is not None:
            yield from _walk(hive, key, root + branch[len(root) :], [_MOST_KEYS])
    except (HiveFormatError, UnicodeDecodeError) as error:
        raise _damaged(path, error) from error


def _found(hive: HiveFile, below: list[str]) -> HiveKey | None:
    """A key by the names that lead to it; None where one is not there."""
    key: HiveKey | None = hive.root()
    for name in below:
        inner = hive.subkeys(key) if key is not None else ()
        key = next((each for each in inner if each.name.casefold() == name.casefold()), None)
    return key


def _walk(hive: HiveFile, key: HiveKey, name: str, left: list[int]) -> Iterator[Block]:
    left[0] -= 1
    if left[0] < 0 or name.count("\\") > _DEEPEST:
        raise HiveFormatError("it has more or deeper keys than a registry can have")
    yield Block(name, removed=False, values=tuple(hive.values(key)))
    for inner in hive.subkeys(key):
        yield from _walk(hive, inner, f"{name}\\{inner.name}", left)


def _damaged(path: Path, error: Exception) -> HiveError:
    return HiveError(
        f"The catalog {path} cannot be read as a hive of the registry: {error or type(error).__name__}.",
        next_step="Export the branch on the old computer, and name the export in its sheet.",
    )
