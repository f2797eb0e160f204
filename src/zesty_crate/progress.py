"""How long work tells how far it is. It does not know how that is shown."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Progress:
    """One moment of a long piece of work; totals are 0 while they are not known."""

    stage: str
    files_done: int = 0
    files_total: int = 0
    bytes_done: int = 0
    bytes_total: int = 0


Tell = Callable[[Progress], None]


def silent(_: Progress) -> None:
    """For callers that do not watch."""
