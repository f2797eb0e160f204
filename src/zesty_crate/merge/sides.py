"""The files of a merge: both catalogs as they are on one computer, and what they came from."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from pathlib import Path

from ..guides import HoldingPart
from ..machines import Computer
from ..paths import MachinePath
from .model import Rows


@dataclass(frozen=True, slots=True)
class OriginFiles:
    """What both catalogs came from: as the carried one was then, and as the one there was.

    ``rows`` are the rows there for the carried ones, by tables, where a merge gave them new keys; None where both had
    the same. With ``is_back`` that move went the other way.
    """

    carried: Path
    left: Path
    rows: Rows | None = None
    is_back: bool = False


@dataclass(frozen=True, slots=True)
class Sides:
    """A merge of two catalogs ``at`` one place of the new ``computer``.

    ``there`` is a copy of the one that is there, and ``target`` another one, which gets what was ``carried``; that is
    relinked already. ``scope`` are the keys of the entries and groups that were chosen; None for all.
    """

    part: HoldingPart
    at: MachinePath
    there: Path
    target: Path
    carried: Path
    computer: Computer
    origin: OriginFiles | None = None
    scope: tuple[Collection[str], Collection[str]] | None = None
