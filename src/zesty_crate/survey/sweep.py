"""Sweep whole volumes for files by pattern: one walk for all holdings that ask for it."""

from __future__ import annotations

import fnmatch
import re
from collections.abc import Iterator, Sequence

from ..guides import Holding
from ..machines import Computer, Finder, Seen
from ..paths import MachinePath, name_key


def sweep(computer: Computer, finder: Finder, holdings: Sequence[Holding]) -> Iterator[tuple[Holding, Seen]]:
    """Every file that a holding sweeps for, in the user's home and on every volume but the one with the home.

    Patterns are of names alone, as a shell has them, by the volume's own rules of case.
    """
    if not any(holding.part.sweep for holding in holdings):
        return
    for top in _tops(computer):
        folding = computer.rules_for(top).folding
        patterns = [
            (holding, re.compile("|".join(fnmatch.translate(name_key(each, folding)) for each in holding.part.sweep)))
            for holding in holdings
            if holding.part.sweep
        ]
        for seen in finder.walk(top):
            if seen.facts is not None and seen.facts.is_file:
                name = name_key(seen.path.name, folding)
                yield from ((holding, seen) for holding, pattern in patterns if pattern.match(name))


def _tops(computer: Computer) -> list[MachinePath]:
    home = computer.place("home")
    system = computer.volume_of(home)
    others = [volume.anchor for volume in computer.volumes if volume is not system and volume.mount is not None]
    return [home, *sorted(others, key=str)]
