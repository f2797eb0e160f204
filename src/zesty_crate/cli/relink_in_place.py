"""``zesty relink --at SHEET --look-in DIR``: one computer without a crate, routes found from evidence."""

from __future__ import annotations

import argparse
from dataclasses import dataclass
from functools import lru_cache, partial
from pathlib import Path
from typing import TYPE_CHECKING

from .evidence_screen import show_evidence, show_left_behind
from .one_computer import OneComputer
from .terminal import Terminal
from .wording import count

if TYPE_CHECKING:
    from ..relink import Evidence, LeftBehind, RelinkReport


@dataclass(frozen=True, slots=True)
class InPlace:
    """What was found on one computer, and what was written, with the folder in which the originals are ``kept``.

    ``left`` are catalogs that cannot say the new paths of some entries.
    """

    evidence: Evidence
    left: tuple[LeftBehind, ...]
    report: RelinkReport | None = None
    kept: Path | None = None


def find_and_relink(args: argparse.Namespace, terminal: Terminal) -> InPlace:
    """Find routes, show them, and write if the person agrees."""
    from ..relink import Explained, relink_in_place

    alone = OneComputer(args, terminal)
    if not args.dry_run:
        alone.take_back_unfinished(yes=args.yes)
    handed_back = args.decisions is not None and alone.outside.disk.facts(args.decisions) is not None
    evidence, holdings, left = _look(args, alone, terminal, handed_back=handed_back)
    if not terminal.json:
        show_evidence(evidence, alone.computer.name, terminal, None if handed_back else args.decisions)
        show_left_behind(left, terminal)
    if args.dry_run or not evidence.explained:
        return InPlace(evidence, left)
    terminal.ask(f"Write the new paths of {count(len(evidence.explained), 'file')}?", yes=args.yes)
    with alone.originals_kept(holdings) as move, terminal.progress() as tell:
        report = relink_in_place(move, Explained(move.new, evidence), tell)
        return InPlace(evidence, left, report, move.crate.root)


def _look(
    args: argparse.Namespace, alone: OneComputer, terminal: Terminal, *, handed_back: bool
) -> tuple[Evidence, tuple[str, ...], tuple[LeftBehind, ...]]:
    from ..relink import Explained, Given, catalogs_concerned, find_routes, found_files, lost_files, read_decisions

    disk, finder, table = alone.outside.disk, alone.finder(), args.decisions
    with alone.surveyed() as store, terminal.progress() as tell:
        lost = (each.path for each in lost_files(store, alone.computer))
        found = lru_cache(maxsize=1)(partial(found_files, store))
        decided = read_decisions(table, lost, finder, disk, found) if handed_back else {}
        evidence = find_routes(store, finder, disk, args.look_in, Given(args.route, decided), tell)
        if table is not None and not handed_back:
            _write_table(table, evidence, alone)
        concerned = catalogs_concerned(store, alone.computer, evidence)
        left = alone.left_behind(store, concerned, Explained(alone.computer, evidence))
        return evidence, concerned, tuple(left)


def _write_table(table: Path, evidence: Evidence, alone: OneComputer) -> None:
    from ..relink import undecided_of, write_undecided

    if undecided := undecided_of(evidence.matched):
        write_undecided(table, undecided, alone.outside.disk)
