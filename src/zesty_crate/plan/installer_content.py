"""What comes with the programs' own installers, and is not carried: which of it the new computer has, and which not."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..guides import FactoryPatterns, Holding
from ..machines import Finder
from .move import Move


@dataclass(frozen=True, slots=True)
class InstallerContent:
    """The supplied content of one holding: how many files the old computer has of it, and which the new one lacks."""

    holding: str
    title: str
    at: str
    files: int
    lacking: tuple[str, ...]


def installer_content(move: Move) -> list[InstallerContent]:
    """Every holding of which something came with its program on the old computer."""
    finder = Finder(move.new, move.outside.disk)
    there = {holding.id: holding for holding in move.holdings_there()}
    rows = []
    for old in move.old_holdings():
        new = there.get(old.id)
        if old.at is None or not old.part.factory or new is None or new.at is None:
            continue
        names = [
            "/".join(move.old.parse(row.path).parts[len(old.at.parts) :])
            for row in move.survey.files("holding = ? AND role = 'factory' AND kind = 'file'", (old.id,))
        ]
        if names:
            keys = set(_keys(new, finder, move))
            lacking = tuple(name for name in names if move.new.key(new.at.below(*name.split("/"))) not in keys)
            rows.append(InstallerContent(old.id, old.title, str(new.at), len(names), lacking))
    return rows


def _keys(holding: Holding, finder: Finder, move: Move) -> Iterator[str]:
    if holding.at is None:
        return
    patterns = FactoryPatterns(holding, holding.at, move.new)
    for seen in finder.walk(holding.at):
        if seen.facts is not None and seen.facts.is_file and patterns.match(seen.path):
            yield move.new.key(seen.path)
