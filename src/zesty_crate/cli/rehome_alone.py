"""``zesty relink --at SHEET --rehome OLD=NEW``: a folder goes to its final place, and recorded paths go along."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from .alone import Alone
from .status import Status
from .terminal import Terminal
from .wording import count, show_list

if TYPE_CHECKING:
    from ..paths import Route
    from ..relink import Leading


def run_rehome(args: argparse.Namespace, terminal: Terminal) -> Status:
    """Show what leads into the folder, move it when somebody agrees, and prove that nothing leads there any more."""
    from ..errors import ZestyError
    from ..relink import leading_into, rehome, rehome_route

    alone = Alone(args, terminal)
    route = rehome_route(args.rehome, alone.finder(), args.keep_in)
    with alone.surveyed() as store:
        before = leading_into(store, alone.computer, route.old)
    if not before.entries:
        raise ZestyError(
            f"No entry of any catalog leads into {route.old}.",
            next_step="Move it with the file manager; nothing follows.",
        )
    if not terminal.json:
        _announce(route, before, terminal)
    if args.dry_run:
        return _tell(args, route, before, None, "", terminal)
    paths = count(before.entries, "recorded path")
    terminal.ask(f"Move the folder, and take {paths} along?", yes=args.yes)
    with alone.originals_kept(before.holdings) as move, terminal.progress() as tell:
        report = rehome(move, route, tell)
        kept = str(move.crate.root)
    if report.renamed and not terminal.json:
        terminal.say(f"  {count(report.renamed, 'companion file')} renamed by the new path of its media")
    with alone.surveyed() as store:
        still, after = (leading_into(store, alone.computer, place) for place in (route.old, route.new))
    return _tell(args, route, before, (still, after), kept, terminal)


def _announce(route: Route, before: Leading, terminal: Terminal) -> None:
    terminal.heading(f"{route.old}\n  goes to {route.new}")
    entries = count(before.entries, "entry leads", "entries lead")
    terminal.say(
        f"  {entries} into it, in {count(len(before.holdings), 'catalog holding')}; {before.found:,} find their file"
    )


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
        terminal.document({
            "dry-run": args.dry_run, "old": str(route.old), "new": str(route.new), "entries": before.entries,
            "found-before": before.found, "found-after": None if there is None else there.found,
            "still-leading-there": list(still.recorded), "kept": kept or None,
        })  # fmt: skip
    elif there is not None:
        terminal.say(f"\n  {there.found:,} of {there.entries:,} entries find their file in the new place")
        if still.entries:
            terminal.say(f"  {count(still.entries, 'entry leads', 'entries lead')} to the old place still:")
            show_list(terminal, still.recorded)
        else:
            terminal.say("  nothing leads to the old place any more")
        terminal.say(f"\nThe catalogs as they were are in {kept}.")
        terminal.next(f'zesty undo "{kept}" --to "{args.at}"', "To take it back")
    well = there is not None and not still.entries and there.found >= before.found
    return Status.DONE if well or args.dry_run else Status.ATTENTION
