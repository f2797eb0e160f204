"""``zesty relink --at SHEET --look-in DIR``: one computer, no crate, routes found from evidence."""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from .options import find_guides, read_sheet
from .terminal import Terminal
from .wording import count, show_list

if TYPE_CHECKING:
    from ..crate import Crate
    from ..guides import Guide
    from ..machines import Outside, Sheet
    from ..plan import Move
    from ..relink import Evidence, RelinkReport

_SHOWN = 12


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
    from ..relink import catalogs_concerned, find_routes

    computer, cache = computer_of(sheet), platformdirs.user_cache_path("zesty-crate")
    with terminal.progress() as tell, survey_aside(sheet, guides, outside, cache, tell, before=True) as store:
        evidence = find_routes(store, computer, Finder(computer, outside.disk), args.look_in, args.route, tell)
        return evidence, catalogs_concerned(store, computer, evidence)


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


def show_evidence(evidence: Evidence, computer: str, terminal: Terminal) -> None:
    """Each route with what speaks for it, before anything is written; then what is in doubt, and what is left."""
    lost = len(evidence.explained) + len(evidence.left)
    terminal.heading(f"{computer}: {count(lost, 'file')} missing; {len(evidence.explained):,} found elsewhere")
    for each in evidence.routes[:_SHOWN]:
        terminal.say(f"  {each.route.old}\n    is now {each.route.new}")
        against = f", {each.contradicted:,} contradicted: another size" if each.contradicted else ""
        terminal.say(f"    {each.found:,} of {each.missing:,} found{against}, for example")
        for old, new in each.examples[:2]:
            terminal.say(f"      {old}\n      {new}")
    if len(evidence.routes) > _SHOWN:
        terminal.say(f"  and {len(evidence.routes) - _SHOWN:,} more routes; --json lists all")
    for doubt in evidence.doubts:
        terminal.say(f"  {doubt.old}: {count(doubt.entries, 'file')} could be in any of these, and nothing decides:")
        show_list(terminal, (str(each) for each in doubt.new), indent="    ")
    if evidence.left:
        terminal.say(f"  left as they are: {count(len(evidence.left), 'file')}")
        show_list(terminal, (str(each) for each in evidence.left))
    terminal.say()


def as_document(evidence: Evidence) -> dict[str, object]:
    """Evidence for the one JSON document."""
    left = [str(each) for each in evidence.left]
    return {
        "routes": evidence.routes, "doubts": evidence.doubts, "explained": len(evidence.explained), "left": left,
    }  # fmt: skip
