"""The plan as a page: what goes where, what is there, what is in the way."""

from __future__ import annotations

from typing import TYPE_CHECKING

from .terminal import Terminal
from .wording import count, show_list

if TYPE_CHECKING:
    from ..plan import Conflict, PlanReport, Version

_SHOWN = 8


def show_plan(report: PlanReport, terminal: Terminal) -> None:
    """The whole page; what a person must see to comes last, where the eye is."""
    from ..crate import readable_size

    terminal.heading(f"{report.from_computer} to {report.to_computer}: what goes where")
    there = f"; {count(report.already_there, 'file')} there already" if report.already_there else ""
    terminal.say(f"{count(report.files, 'file')}, {readable_size(report.size_bytes)}{there}")
    terminal.say()
    for planned in report.routes:
        terminal.say(f"  {planned.route.old}")
        terminal.say(f"    to {planned.route.new}")
        terminal.say(f"    {count(planned.files, 'file')}, by {planned.route.why or 'a line of the plan'}")
    terminal.say()
    _show_differences(report, terminal)
    _show_programs(report, terminal)
    _show_supplied(report, terminal)
    _show_baseline(report, terminal)
    _show_renames(report, terminal)
    _show_conflicts(report, terminal)
    if report.notes:
        terminal.heading("Good to know")
        for note in report.notes:
            terminal.say(f"  {note}")
        terminal.say()
    terminal.say(f"The plan is in {report.path}, to be read and edited.")
    _show_blockers(report, terminal)


def _show_differences(report: PlanReport, terminal: Terminal) -> None:
    """What is not the same, how many recorded paths that breaks, and what becomes of them."""
    if not report.differences:
        return
    terminal.heading("Not the same on both")
    columns = ["", f"on {report.from_computer}", f"on {report.to_computer}", "entries"]
    rows = [[each.what, each.old, each.new, f"{each.entries:,}"] for each in report.differences]
    terminal.table(columns, rows, numbers=1)
    done: dict[str, list[str]] = {}
    for each in report.differences:
        if each.entries:
            done.setdefault(each.done, []).append(each.what)
    for what, names in done.items():
        terminal.say(f"  {', '.join(names)}: {what}.")
    terminal.say()


def _show_programs(report: PlanReport, terminal: Terminal) -> None:
    """How each program stands on the new computer, and what a person may have to do."""
    if not report.programs:
        return
    terminal.heading(f"Programs on {report.to_computer}")
    started = {True: "started before", False: "not started yet", None: ""}
    rows = [
        [each.title, each.old_version or "?", each.new_version or "?", each.rule, started[each.started],
         "running" if each.running else "closed"]
        for each in report.programs
    ]  # fmt: skip
    terminal.table(["program", f"on {report.from_computer}", f"on {report.to_computer}", "rule", "", "now"], rows)
    for step in (step for each in report.programs for step in each.to_do):
        terminal.say(f"  To do: {step}")
    terminal.say()


def _show_supplied(report: PlanReport, terminal: Terminal) -> None:
    """What installers bring: have and lack."""
    if not report.supplied:
        return
    terminal.heading("Not carried, since it comes with the programs' own installers")
    rows = [[each.title, f"{each.files - len(each.lacking):,}", f"{len(each.lacking):,}"] for each in report.supplied]
    terminal.table(["holding", "here", "lacking"], rows, numbers=2)
    for each in report.supplied:
        if each.lacking:
            terminal.say(f"  To do: install what {each.title} lacks, at {each.at}:")
            show_list(terminal, each.lacking)
    terminal.say()


def _show_baseline(report: PlanReport, terminal: Terminal) -> None:
    terminal.heading(f"On {report.to_computer} now")
    rows = [[each.title, each.at, f"{each.files:,}"] for each in report.baseline if each.files]
    if rows:
        terminal.table(["holding", "at", "files"], rows, numbers=1)
    others = count(len(report.baseline) - len(rows), "holding")
    terminal.say(f"Nothing is at the place of {others} yet; --json lists all.\n")


def _show_renames(report: PlanReport, terminal: Terminal) -> None:
    if report.renames:
        terminal.heading(f"{count(len(report.renames), 'name')} that {report.to_computer} cannot hold as they are")
        lines = [f"{each.old}\n      will be {each.new.name} ({each.why})" for each in report.renames]
        show_list(terminal, lines, shown=_SHOWN)
        terminal.say("  Catalogs follow; the plan holds the old names, so that each can be given back.\n")


def _show_conflicts(report: PlanReport, terminal: Terminal) -> None:
    """The two sides of each, and what becomes of them; those that nothing decides come last."""
    if not report.conflicts:
        return
    decided = [each for each in report.conflicts if each.outcome]
    title = f"{count(len(report.conflicts), 'file')} of {report.to_computer} in the place of what is carried"
    left = len(report.conflicts) - len(decided)
    terminal.heading(f"{title}: {'all decided' if not left else f'{len(decided)} decided, {left} not'}")
    shown = sorted(report.conflicts, key=lambda each: each.outcome is not None)[:_SHOWN]
    for each in sorted(shown, key=lambda each: each.outcome is None):
        terminal.say(f"  {each.new}")
        terminal.say(f"    carried   {_version(each.carried)}")
        terminal.say(f"    there     {_version(each.there)}{_newer(each)}")
        if each.warning:
            terminal.say(f"    {each.warning}")
        terminal.say(f"    {_outcome(each)}")
    if len(report.conflicts) > len(shown):
        terminal.say(f"  and {len(report.conflicts) - len(shown):,} more; the plan lists all")
    terminal.say()


def _version(version: Version) -> str:
    from ..crate import readable_size

    text = f"{readable_size(version.size_bytes)} of {version.date:%Y-%m-%d %H:%M}"
    if version.work is None:
        return text
    entries = count(version.work.entries, "entry", "entries")
    return f"{text}: {entries}, {count(version.work.groups, 'group')}, {version.work.handwork:,} by hand"


def _newer(conflict: Conflict) -> str:
    if conflict.carried.date == conflict.there.date:
        return ""
    return "  (newer)" if conflict.there.date > conflict.carried.date else "  (older)"


def _outcome(conflict: Conflict) -> str:
    from ..plan import Choice

    if conflict.outcome is None:
        return f"undecided{': ' + conflict.why if conflict.why else ''}"
    said = {
        Choice.KEEP: "keep: what is there stays",
        Choice.BRING_IN: "bring in: what is there is kept aside",
        Choice.BOTH: f"both: what is carried becomes {conflict.beside}",
    }[conflict.outcome]
    return f"{said} ({conflict.why})" if conflict.why else said


def _show_blockers(report: PlanReport, terminal: Terminal) -> None:
    if not report.blockers:
        terminal.say("Nothing is in the way." if not report.conflicts else "Nothing is in the way any more.")
        return
    terminal.say()
    terminal.heading(f"{count(len(report.blockers), 'blocker')}, to be cleared first")
    for blocker in report.blockers:
        terminal.say(f"  {blocker.what}")
        show_list(terminal, blocker.places)
        alone = " Only what is its own waits for that; zesty unpack places the rest." if blocker.guide else ""
        terminal.say(f"    {blocker.clear}{alone}")
