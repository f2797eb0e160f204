"""What merging two catalogs comes to, in lines."""

from __future__ import annotations

from typing import TYPE_CHECKING

from .terminal import Terminal
from .wording import count, show_list

if TYPE_CHECKING:
    from ..merge import MergeReport, ValueConflict

_SHOWN = 5
_ROLES = {"pieces": "folders", "attached": "records", "lookups": "words"}


def show_merge(report: MergeReport, terminal: Terminal, indent: str = "    ") -> None:
    """Counts, groups, conflicts and examples of one merge."""
    before, after = (
        sum(getattr(t, each) for t in report.tables if t.role == "entries") for each in ("before", "after")
    )
    terminal.say(
        f"{indent}entries   {before:,} there + {report.new:,} new = {after:,}; {report.same:,} carried are on both"
    )
    show_list(terminal, report.examples[:_SHOWN], indent=f"{indent}  ")
    others = [each for each in report.tables if each.role != "entries" and (each.new or each.same)]
    for each in others:
        why = f" (explained by {each.why})" if each.why else ""
        named = f"{each.name}: " if each.name.isidentifier() else ""  # and not a selector of the guide
        sums = f"{named}{each.before:,} there + {each.new:,} new = {each.after:,}"
        terminal.say(f"{indent}{_ROLES.get(each.role, each.role):<9} {sums}{why}")
    if report.groups_new or report.groups_grown:
        new, grown = (", ".join(names[:_SHOWN]) or "none" for names in (report.groups_new, report.groups_grown))
        terminal.say(f"{indent}groups new: {new}; with more members: {grown}")
    _show_values(report, terminal, indent)
    if report.unsure:
        terminal.say(
            f"{indent}not sure  {count(len(report.unsure), 'entry', 'entries')} could be one of several: both are kept"
        )
        show_list(terminal, report.unsure[:_SHOWN])
    if report.deleted_there:
        entries = count(report.deleted_there, "entry was", "entries were")
        terminal.say(f"{indent}deleted   {entries} here after an earlier move and deleted since; they come again")
    if report.left_out:
        terminal.say(f"{indent}left      in the carried file alone: {', '.join(report.left_out[:_SHOWN])}")
    if report.aside:
        terminal.say(f"{indent}stays     as it is on the new computer: {', '.join(report.aside)}")


def _show_values(report: MergeReport, terminal: Terminal, indent: str) -> None:
    sides = "three sides, since both came from one" if report.three_sides else "two sides, with no common origin"
    words = [f"{report.only_carried:,} come", f"{report.only_there:,} stay"]
    words += [f"{report.facts:,} that nobody wrote stay as they are there"] if report.facts else []
    if report.conflicts:
        decided = len(report.conflicts) - len(report.undecided)
        differ = count(len(report.conflicts), "value differs", "values differ")
        words.append(f"{differ} on both sides ({decided:,} decided)")
    if not (report.only_carried or report.only_there or report.facts or report.conflicts):
        return
    terminal.say(f"{indent}values    {'; '.join(words)} ({sides})")
    for each in report.conflicts[:_SHOWN]:
        terminal.say(f"{indent}  {_conflict(each)}")
    if len(report.conflicts) > _SHOWN:
        terminal.say(f"{indent}  and {len(report.conflicts) - _SHOWN:,} more; --decisions FILE.csv lists all")


def _conflict(each: ValueConflict) -> str:
    was = "" if each.origin is None else f", was {each.origin!r}"
    outcome = f": {each.outcome}" if each.outcome else ""
    return f"{each.entry}: {each.field} {each.there!r} there, {each.carried!r} carried{was}{outcome}"
