"""``zesty relink --at SHEET --rehome OLD=NEW``: move a folder to its final place, and update all recorded paths."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from .one_computer import OneComputer
from .status import Status
from .terminal import Terminal
from .wording import count, show_list

if TYPE_CHECKING:
    from ..paths import Route
    from ..relink import Leading

_SHOWN = 8


def run_rehome(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Show the entries below the folder, move it when the person agrees, and prove that no entry is left behind."""
    from ..errors import ZestyError
    from ..relink import Rehomed, leading_into, rehome, rehome_route

    alone = OneComputer(args, terminal)
    if not args.dry_run:
        alone.take_back_unfinished(yes=args.yes)
    route = rehome_route(args.rehome, alone.sheet, alone.outside, args.keep_in)
    with alone.surveyed() as store:
        before = leading_into(store, alone.computer, route.old)
        left = alone.left_behind(store, before.holdings, Rehomed(alone.computer, route))
    if left:
        raise ZestyError(
            f"The paths of {count(len(left[0].left.entries), 'entry', 'entries')} cannot follow the folder: in "
            f"{left[0].at} they share a piece with entries that stay.",
            details=left[0].left.entries[:_SHOWN],
            next_step=f"Nothing was moved. {left[0].helps}",
        )
    if not before.entries:
        raise ZestyError(
            f"No catalog entry refers to {route.old}.",
            next_step="Move it with the file manager; no catalog needs an update.",
        )
    if not terminal.json:
        _announce(route, before, terminal)
    if args.dry_run:
        return _tell(args, route, before, None, "", terminal)
    paths = count(before.entries, "recorded path")
    terminal.ask(f"Move the folder and update {paths}?", yes=args.yes)
    with alone.originals_kept(before.holdings) as move, terminal.progress() as tell:
        report = rehome(move, route, tell)
        kept = str(move.crate.root)
    if report.renamed and not terminal.json:
        terminal.say(f"  {count(report.renamed, 'companion file')} renamed after the new path of the media")
    with alone.surveyed() as store:
        still, after = (leading_into(store, alone.computer, place) for place in (route.old, route.new))
    return _tell(args, route, before, (still, after), kept, terminal)


def _announce(route: Route, before: Leading, terminal: Terminal) -> None:
    terminal.heading(str(route.old))
    terminal.say(f"  moves to {route.new}")
    entries = count(before.entries, "catalog entry refers", "catalog entries refer")
    holdings = count(len(before.holdings), "holding")
    terminal.say(f"  {entries} to it, in {holdings}; {before.found:,} find their file")


def _tell(
    args: argparse.Namespace,
    route: Route,
    before: Leading,
    after: tuple[Leading, Leading] | None,
    kept: str,
    terminal: Terminal,
) -> Status:
    still, there = after or (before, None)
    if terminal.json:
        terminal.document(
            {
                "dry-run": args.dry_run,
                "old": str(route.old),
                "new": str(route.new),
                "entries": before.entries,
                "found-before": before.found,
                "found-after": None if there is None else there.found,
                "still-leading-there": list(still.recorded),
                "kept": kept or None,
            }
        )
    elif there is not None:
        terminal.say()
        terminal.say(f"  {there.found:,} of {there.entries:,} entries find their file in the new folder")
        if still.entries:
            terminal.say(f"  {count(still.entries, 'entry still refers', 'entries still refer')} to the old folder:")
            show_list(terminal, still.recorded)
        else:
            terminal.say("  no entry refers to the old folder any more")
        terminal.say()
        terminal.say(f"The original catalogs are in {kept}.")
        terminal.next("zesty", "undo", kept, "--to", str(args.at), why="To undo this")
    well = there is not None and not still.entries and there.found >= before.found
    return Status.DONE if well or args.dry_run else Status.ATTENTION
