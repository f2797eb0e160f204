"""One condition for retiring a computer: whether it holds, and what was found."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Evidence:
    """One condition: whether it holds, what was found, and what to do when it does not, at all its ``places``."""

    about: str
    holds: bool
    found: str
    next_step: str = ""
    places: tuple[str, ...] = ()


def holds(about: str, found: str) -> Evidence:
    """A condition that holds."""
    return Evidence(about, holds=True, found=found)


def is_open(about: str, found: str, next_step: str, places: tuple[str, ...] = ()) -> Evidence:
    """A condition that does not hold yet."""
    return Evidence(about, holds=False, found=found, next_step=next_step, places=places)
