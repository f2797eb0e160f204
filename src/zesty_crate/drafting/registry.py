"""Branches of a registry as documents: an export that a sheet names, the real one, or the hives of a disk."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from pathlib import Path

from ..errors import ZestyError
from ..guides import Guide, Holding, HoldingPart, WholeGuide
from ..machines import Finder, Outside, Sheet
from ..machines.registry import write_export
from ..survey.documents import Registry
from .documents import Kind, Place
from .read_rows import read_sections
from .tables import merged

_BRANCH = re.compile(r"HKEY_[A-Z_]+\\", re.IGNORECASE)


def is_branch(text: str) -> bool:
    """Whether a place is a branch of a registry, and not a folder."""
    return _BRANCH.match(text) is not None


def kinds_in_registry(
    branches: Sequence[str], sheet: Sheet, finder: Finder, outside: Outside, scratch: Path
) -> Iterator[Kind]:
    """What is in branches of a computer's registry. Raises `ZestyError` for one in which nothing is."""
    registry = Registry(sheet, finder, outside, scratch)
    for branch in branches:
        blocks = registry.branch(_holding(branch))
        if not blocks:
            raise ZestyError(f"There is nothing in {branch}.", next_step="Name a branch of the registry that is there.")
        text = write_export(blocks).decode("utf-16")
        at = finder.computer.place("home").below("registry.reg")
        tables = [merged([each]) for each in read_sections("reg", text, at)]
        yield Kind("reg", (), "", [Place(at, scratch)], tables, None, 1, branch=branch)


def _holding(branch: str) -> Holding:
    entries = [{"each": ".*", "path": [{"at": "@"}]}]
    told = {"id": "it", "kind": "registrations", "branch": branch, "syntax": "reg", "entries": entries}
    part = HoldingPart.model_validate(told)
    guide = WholeGuide.model_validate({"guide": {"id": "it", "title": "it", "language": 1}, "holding": [told]})
    return Holding("it/it", Guide(guide, ""), part, None)
