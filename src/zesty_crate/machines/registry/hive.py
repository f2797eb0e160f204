"""A branch of a hive file, of a disk that is mounted. Read only."""

from __future__ import annotations

import contextlib
import logging
import re
import struct
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from .regfile import RegistryError
from .tree import Block, Value

# Which branch of the registry a hive file is, by its name (Microsoft, "Registry Hives").
_BRANCHES = {
    "ntuser.dat": "HKEY_CURRENT_USER",
    "usrclass.dat": r"HKEY_CURRENT_USER\Software\Classes",
    "software": r"HKEY_LOCAL_MACHINE\SOFTWARE",
    "system": r"HKEY_LOCAL_MACHINE\SYSTEM",
}
_TYPES = {
    "REG_NONE": 0,
    "REG_SZ": 1,
    "REG_EXPAND_SZ": 2,
    "REG_BINARY": 3,
    "REG_DWORD": 4,
    "REG_DWORD_BIG_ENDIAN": 5,
    "REG_LINK": 6,
    "REG_MULTI_SZ": 7,
    "REG_RESOURCE_LIST": 8,
    "REG_FULL_RESOURCE_DESCRIPTOR": 9,
    "REG_RESOURCE_REQUIREMENTS_LIST": 10,
    "REG_QWORD": 11,
}
_KEY = re.compile(rb".{3}\xffnk", re.DOTALL)  # a cell in use (its size is negative) that is a key
_MOST_KEYS = 200_000
_DEEPEST = 512  # the registry's own limit


class HiveError(RegistryError):
    """A hive cannot be read."""


def hive_branch(path: Path, name: str, branch: str) -> Iterator[tuple[str, list[Any]]]:
    """The keys of a hive file below ``branch``, by their whole names, with their values; ``name`` is the file's own.

    Nothing when a program never wrote there. Raises `HiveError` for a damaged hive, and a branch that is not in it.
    """
    from regipy.exceptions import RegipyGeneralException, RegistryKeyNotFoundException
    from regipy.registry import RegistryHive

    logging.getLogger("regipy").setLevel(logging.CRITICAL)  # what is wrong is told once, by an error
    hives: Any = RegistryHive  # it has types that its maker did not finish
    root = _BRANCHES.get(name.lower(), "")
    if branch and not (root and f"{branch}\\".lower().startswith(f"{root}\\".lower())):
        raise HiveError(
            f"The branch {branch} is not in the hive {name}, which is {root or 'of a kind that is not known'}.",
            next_step="Correct the branch in the guide.",
        )
    below = branch[len(root) :]
    try:
        hive = hives(str(path))
        with contextlib.suppress(RegistryKeyNotFoundException):
            _require_keys(hive, path)
            yield from _walk(hive.get_key(below) if below else hive.root, root + below, [_MOST_KEYS])
    except HiveError:
        raise
    except RegipyGeneralException as error:
        raise _damaged(path, error) from error
    except Exception as error:
        raise _damaged(path, error) from error


def blocks_of_hive(path: Path, name: str, branch: str) -> Iterator[Block]:
    """The same as what an export would say."""
    for key, found in hive_branch(path, name, branch):
        values = tuple(("" if each.name == "(default)" else each.name, _value(each)) for each in found)
        yield Block(key, removed=False, values=values)


def _value(found: Any) -> Value:
    kind = _TYPES.get(str(found.value_type), 0) if isinstance(found.value_type, str) else int(found.value_type)
    said = found.value
    if isinstance(said, list):
        return Value(kind, "".join(f"{each}\0" for each in said).encode("utf-16-le", "surrogatepass") + b"\0\0")
    if isinstance(said, int):
        return Value(kind, struct.pack("<Q" if kind == 11 else ">I" if kind == 5 else "<I", said))
    if isinstance(said, str) and kind in (1, 2, 6):
        return Value(kind, (said + "\0").encode("utf-16-le", "surrogatepass"))
    if isinstance(said, str):
        with contextlib.suppress(ValueError):
            return Value(kind, bytes.fromhex(said))  # binary values come as hexadecimal text
    return Value(kind, bytes(said or b"") if isinstance(said, bytes | bytearray | type(None)) else str(said).encode())


def _walk(key: Any, name: str, left: list[int]) -> Iterator[tuple[str, list[Any]]]:
    left[0] -= 1
    if left[0] < 0 or name.count("\\") > _DEEPEST:
        raise ValueError("it has more or deeper keys than a registry can have")
    yield name, list(key.iter_values())
    for inner in key.iter_subkeys() or ():
        yield from _walk(inner, f"{name}\\{inner.name}", left)


def _require_keys(hive: Any, path: Path) -> None:
    """Raise `HiveError` for a hive that reads as empty although it is not: that is another form, or a damage."""
    if next(iter(hive.root.iter_subkeys() or ()), None) is None and len(_KEY.findall(path.read_bytes())) > 1:
        raise HiveError(
            f"The hive {path} holds keys, but no keys are found at its root.",
            next_step="It may be damaged. Export the branch on the old computer, and name the export in its sheet.",
        )


def _damaged(path: Path, error: Exception) -> HiveError:
    return HiveError(
        f"The catalog {path} cannot be read as a hive of the registry: {error or type(error).__name__}.",
        next_step="Export the branch on the old computer, and name the export in its sheet.",
    )
