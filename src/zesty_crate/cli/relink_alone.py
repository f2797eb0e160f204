"""``zesty relink --at SHEET --look-in DIR``: one computer, no crate, routes found from evidence."""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from .evidence_screen import show_evidence
from .options import find_guides, read_sheet
from .terminal import Terminal
from .wording import count

if TYPE_CHECKING:
    from ..crate import Crate
    from ..guides import Guide
    from ..machines import Outside, Sheet
    from ..plan import Move
    from ..relink import Evidence, RelinkReport


def relink_alone(args: argparse.Namespace, terminal: Terminal) -> tuple[Evidence, RelinkReport | None, Path | None]:
    """Find routes, show them, and, when somebody agrees, write; what was kept where, if anything was written."""
    from ..machines import Outside

    outside = Outside()
    sheet, guides = read_sheet(args.at, outside.disk), find_guides(args.guides, outside.disk)
    evidence, holdings = _look(args, sheet, guides, outside, terminal)
    if not terminal.json:
        show_evidence(evidence, sheet.part.computer.name, terminal)
    if args.dry_run or not evidence.explained:
        return evidence, None, None
    question = f"Write the new paths of {count(len(evidence.explained), 'file')}?"
    terminal.ask(question, yes=args.yes)
    crate = _free_crate(args.keep_in, sheet, outside)
    with _originals_kept(crate, sheet, guides, holdings, outside, terminal) as move, terminal.progress() as tell:
        from ..relink import Explained, relink_in_place

        aims = Explained(move.new, evidence)
        return evidence, relink_in_place(move, aims, tell), crate.root


def _look(
    args: argparse.Namespace, sheet: Sheet, guides: list[Guide], outside: Outside, terminal: Terminal
) -> tuple[Evidence, tuple[str, ...]]:
    import platformdirs

    from ..check import survey_aside
    from ..machines import Finder, computer_of
    from ..relink import Given, catalogs_concerned, find_routes, lost_files, read_decisions

    computer, cache = computer_of(sheet), platformdirs.user_cache_path("zesty-crate")
    finder, table = Finder(computer, outside.disk), args.decisions
    with terminal.progress() as tell, survey_aside(sheet, guides, outside, cache, tell, before=True) as store:
        handed_back = table is not None and outside.disk.facts(table) is not None
        lost = (each.path for each in lost_files(store, computer))
        decided = read_decisions(table, lost, finder, outside.disk) if handed_back else {}
        evidence = find_routes(store, finder, outside.disk, args.look_in, Given(args.route, decided), tell)
        if table is not None and not handed_back:
            _write_table(table, evidence, outside)
        return evidence, catalogs_concerned(store, computer, evidence)


def _write_table(table: Path, evidence: Evidence, outside: Outside) -> None:
    from ..relink import undecided_of, write_undecided

    if undecided := undecided_of(evidence.matched):
        write_undecided(table, undecided, outside.disk)


def _free_crate(folder: Path, sheet: Sheet, outside: Outside) -> Crate:
    from ..crate import Crate, proposed_name

    return Crate(folder / proposed_name(sheet, folder, outside, "catalogs before relinking"))


@contextmanager
def _originals_kept(
    crate: Crate, sheet: Sheet, guides: list[Guide], holdings: tuple[str, ...], outside: Outside, terminal: Terminal
) -> Iterator[Move]:
    """The catalogs concerned, in a crate of their own: from it everything can be taken back."""
    from ..crate import Scope, create_crate, open_finished, pack
    from ..plan import open_move

    with terminal.progress() as tell:
        create_crate(crate, sheet, guides, outside, tell)
        pack(crate, Scope(only=holdings), outside, tell)
    move = open_move(open_finished(crate.root, outside.disk), sheet, outside)
    try:
        yield move
    finally:
        move.survey.close()
