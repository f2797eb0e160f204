"""Property lists in other forms: binary ones as JSON and back, or in XML; for those who bring one into another."""

from __future__ import annotations

import json
import plistlib
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Any
from xml.parsers import expat

from ..machines import Disk
from .model import CatalogError

_MAGIC = b"bplist"
_FORM = "\ue000"  # a private character of Unicode: no program has names that begin with it


def is_binary_plist(path: Path, disk: Disk) -> bool:
    """Whether a property list is in the binary form. Raises `CatalogError` when it is not there."""
    facts = disk.facts(path)
    if facts is None or not facts.is_file:
        raise CatalogError(
            f"The catalog {path} is not there.", next_step="Check the program's folder in the guide and the sheet."
        )
    return disk.read_start(path, len(_MAGIC)) == _MAGIC


def as_xml(content: bytes) -> bytes:
    """A binary property list in XML. Raises `CatalogError` for values that XML cannot say without loss."""
    root = loaded(content, "the carried catalog")
    try:
        made = plistlib.dumps(root, fmt=plistlib.FMT_XML, sort_keys=False)
        if plistlib.loads(made) == root:
            return made
    except (TypeError, ValueError, OverflowError):
        pass
    raise CatalogError(
        "The carried one is a binary property list with values that the one there, which is in XML, cannot hold.",
        next_step="Save both in one form with their program, or choose keep, bring-in or both.",
    )


def as_json(content: bytes, title: str) -> str:
    """A property list as JSON; what JSON has no form for is an object with a name that no guide selects."""
    return _dumped(loaded(content, title))


def from_json(text: str) -> bytes:
    """The binary property list of what was told as JSON. Raises `CatalogError` if it is not read back the same."""
    made = plistlib.dumps(json.loads(text, object_hook=_untold), fmt=plistlib.FMT_BINARY, sort_keys=False)
    if as_json(made, "the merged catalog") != _dumped(json.loads(text)):
        raise CatalogError("The merged property list is not read back as it was written. It was discarded.")
    return made


def loaded(content: bytes, title: str, form: plistlib.PlistFormat | None = None) -> Any:
    """The values of a property list. Raises `CatalogError` for a damaged one; ``title`` names it in errors."""
    try:
        root = plistlib.loads(content, fmt=form)
        _require_tree(root, set())
        return root
    except (
        plistlib.InvalidFileException,
        expat.ExpatError,
        ValueError,
        OverflowError,
        RecursionError,
        MemoryError,
    ) as error:
        raise no_plist(title, str(error) or "it is damaged") from error


def no_plist(title: str, why: str) -> CatalogError:
    """The error for what is no property list."""
    return CatalogError(
        f"The catalog {title} cannot be read as a property list: {why}.",
        next_step="It may be damaged; open it in its program on the old computer.",
    )


def _require_tree(value: Any, above: set[int]) -> None:
    """Raise `ValueError` for a list or dictionary that holds itself, which only damage can bring about."""
    if isinstance(value, dict | list):
        if id(value) in above:
            raise ValueError("a list or dictionary in it holds itself")
        inside = value.values() if isinstance(value, dict) else value
        for each in inside:
            _require_tree(each, above | {id(value)})


def _dumped(root: Any) -> str:
    return json.dumps(root, indent=1, ensure_ascii=False, default=_told)


def _told(value: object) -> dict[str, object]:
    if isinstance(value, bytes):
        return {f"{_FORM}data": [value.hex()]}
    if isinstance(value, datetime):
        return {f"{_FORM}date": [value.isoformat()]}
    if isinstance(value, plistlib.UID):
        return {f"{_FORM}uid": [value.data]}
    raise CatalogError(f"It has a value of the kind {type(value).__name__}, which cannot be merged.")


_UNTOLD: dict[str, Callable[[Any], object]] = {
    f"{_FORM}data": bytes.fromhex,
    f"{_FORM}date": datetime.fromisoformat,
    f"{_FORM}uid": plistlib.UID,
}


def _untold(value: dict[str, Any]) -> object:
    name = next(iter(value), "")
    return _UNTOLD[name](value[name][0]) if len(value) == 1 and name in _UNTOLD else value
