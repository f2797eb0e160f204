"""What was found for missing files, before anything is written: routes, single matches, and open decisions."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from .terminal import Terminal
from .wording import count, show_list, show_not_looked_at

if TYPE_CHECKING:
    from ..relink import Candidate, Doubt, Evidence, FoundRoute, LeftBehind, Matched

_SHOWN = 12
_EXAMPLES = 4


def show_evidence(evidence: Evidence, computer: str, terminal: Terminal, table: Path | None = None) -> None:
    """Each route with its evidence; matches, doubts, and the rest. ``table`` lists all that needs a decision."""
    from ..relink import undecided_of

    lost = len(evidence.explained) + len(evidence.left)
    terminal.heading(f"{computer}: {count(lost, 'file')} missing; {len(evidence.explained):,} found elsewhere")
    for route in evidence.routes[:_SHOWN]:
        _show_route(route, terminal)
    if len(evidence.routes) > _SHOWN:
        terminal.say(f"  and {len(evidence.routes) - _SHOWN:,} more routes; --json lists all")
    for doubt in evidence.doubts:
        _show_doubt(doubt, terminal)
    _show_matches([each for each in evidence.matched if each.choice is not None], terminal)
    unsure = undecided_of(evidence.matched)
    _show_unsure(unsure, terminal, table)
    asked = {each.lost.path for each in unsure}
    nowhere = [str(path) for path in evidence.left if path not in asked]
    if nowhere:
        terminal.say(f"  not found: {count(len(nowhere), 'file')}")
        show_list(terminal, nowhere)
    show_not_looked_at(terminal, evidence.not_looked_at, {})
    terminal.say()


def show_left_behind(left: Sequence[LeftBehind], terminal: Terminal) -> None:
    """Entries that were found, and whose catalogs cannot say so."""
    for each in left:
        terminal.say(f"  not to be written: {count(len(each.left.entries), 'entry', 'entries')} of {each.title}")
        terminal.say("    They share a piece of their path with entries that stay:")
        show_list(terminal, each.left.entries, indent="    ")
        terminal.say(f"    {each.helps}")
    if left:
        terminal.say()


def _show_route(found: FoundRoute, terminal: Terminal) -> None:
    terminal.say(f"  {found.route.old}")
    terminal.say(f"    is now {found.route.new}")
    against = f", {found.contradicted:,} have another size" if found.contradicted else ""
    terminal.say(f"    {found.found:,} of {found.missing:,} found{against}, for example")
    for old, new in found.examples[:2]:
        terminal.say(f"      {old}")
        terminal.say(f"      {new}")


def _show_doubt(doubt: Doubt, terminal: Terminal) -> None:
    files = count(doubt.entries, "file")
    terminal.say(f"  {doubt.old}: {files} could be in any of these folders; needs a decision (--route):")
    show_list(terminal, (str(each) for each in doubt.new), indent="    ")


def _show_matches(matched: list[Matched], terminal: Terminal) -> None:
    if not matched:
        return
    terminal.say(f"  matched one by one: {count(len(matched), 'file')}")
    for each in matched[:_EXAMPLES]:
        terminal.say(f"    {each.lost.path}")
        if each.choice is not None:
            _show_candidate(each.choice, terminal)
    if len(matched) > _EXAMPLES:
        terminal.say(f"    and {len(matched) - _EXAMPLES:,} more; --json lists all")


def _show_unsure(unsure: list[Matched], terminal: Terminal, table: Path | None) -> None:
    if not unsure:
        return
    terminal.say(f"  not sure: {count(len(unsure), 'file')} need your decision")
    for each in unsure[:_EXAMPLES]:
        terminal.say(f"    {each.lost.path}")
        for candidate in each.candidates:
            _show_candidate(candidate, terminal)
    more = f"and {len(unsure) - _EXAMPLES:,} more; " if len(unsure) > _EXAMPLES else ""
    if table is None:
        terminal.say(f"    {more}--decisions FILE.csv writes a table of all of them")
    else:
        terminal.say(
            f"    {more}all of them are in {table}: fill in the column choice, then run the same command again"
        )


def _show_candidate(candidate: Candidate, terminal: Terminal) -> None:
    terminal.say(f"      {candidate.confidence:.2f}  {candidate.path}", hang=6)
    terminal.say(f"            {candidate.why}")


def as_document(evidence: Evidence) -> dict[str, object]:
    """The evidence for the JSON document."""
    matched = [
        {
            "recorded": str(each.lost.path),
            "choice": None if each.choice is None else str(each.choice.path),
            "candidates": [
                {"path": str(c.path), "confidence": round(c.confidence, 4), "why": c.why} for c in each.candidates
            ],
        }
        for each in evidence.matched
    ]
    left = [str(each) for each in evidence.left]
    explained = len(evidence.explained)
    return {
        "routes": evidence.routes,
        "doubts": evidence.doubts,
        "matched": matched,
        "explained": explained,
        "left": left,
    }
