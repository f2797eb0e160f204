"""The plan as a page: what goes where, what is already there, what blocks the move."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from .merge_screen import show_merge
from .terminal import Terminal
from .wording import count, show_list

if TYPE_CHECKING:
    from ..plan import Conflict, PlanReport, Version

_SHOWN = 8


def show_plan(report: PlanReport, terminal: Terminal) -> None:
    """The whole page; what needs a decision comes last, where the eye is."""
    from ..crate import readable_size

    terminal.heading(f"{report.from_computer} to {report.to_computer}: what goes where")
    there = f"; {count(report.already_there, 'file')} already there" if report.already_there else ""
    terminal.say(f"{count(report.files, 'file')}, {readable_size(report.size_bytes)}{there}")
    terminal.say()
    for planned in report.routes:
        terminal.say(f"  {planned.route.old}")
        terminal.say(f"    to {planned.route.new}")
        terminal.say(f"    {count(planned.files, 'file')}; reason: {planned.route.why or 'set in the plan'}")
    terminal.say()
    _show_differences(report, terminal)
    _show_same_paths(report, terminal)
    _show_programs(report, terminal)
    _show_installer_content(report, terminal)
    _show_baseline(report, terminal)
    _show_renames(report, terminal)
    _show_conflicts(report, terminal)
    _show_values(report, terminal)
    _show_left_entries(report, terminal)
    if report.notes:
        terminal.heading("Notes")
        for note in report.notes:
            terminal.say(f"  {note}")
        terminal.say()
    terminal.say(f"The plan is in {report.path}. Read it; you may edit it.")
    _show_blockers(report, terminal)


def _show_differences(report: PlanReport, terminal: Terminal) -> None:
    """What differs between the computers, how many recorded paths that breaks, and what is done about them."""
    if not report.differences:
        return
    terminal.heading("Differences between the computers")
    columns = ["difference", f"on {report.from_computer}", f"on {report.to_computer}", "entries affected"]
    rows = [[each.what, each.old, each.new, f"{each.entries:,}"] for each in report.differences]
    terminal.table(columns, rows, numbers=1)
    done: dict[str, list[str]] = {}
    for each in report.differences:
        if each.entries:
            done.setdefault(each.done, []).append(each.what)
    for what, names in done.items():
        terminal.say(f"  {', '.join(names)}: {what}.")
    terminal.say()


def _show_same_paths(report: PlanReport, terminal: Terminal) -> None:
    """What a person may do so that fewer recorded paths have to be changed."""
    if not report.same_paths:
        return
    terminal.heading("With the old paths kept, there is less to relink. If you like:")
    for each in report.same_paths:
        terminal.say(f"  {each.do}")
        gain = (
            f"    {count(each.entries, 'entry', 'entries')} would keep {'its' if each.entries == 1 else 'their'} paths."
        )
        if each.option:
            terminal.say(f"{gain} Plan again with --route '{each.option}'.")
        elif each.ticked:
            terminal.say(f"{gain} It is ticked off, but {report.to_computer} does not show it: correct its sheet.")
        else:
            terminal.say(f"{gain} Then correct the sheet of {report.to_computer}, and plan again.")
    terminal.say()


def _show_programs(report: PlanReport, terminal: Terminal) -> None:
    """Each program on the new computer, and what a person may have to do."""
    if not report.programs:
        return
    terminal.heading(f"Programs on {report.to_computer}")
    started = {True: "yes", False: "not yet", None: "not known"}
    rows = [
        [
            each.title,
            each.old_version or "?",
            each.new_version or "?",
            each.rule,
            started[each.started],
            "" if each.running is None else "running" if each.running else "closed",
        ]
        for each in report.programs
    ]
    terminal.table(
        ["program", f"on {report.from_computer}", f"on {report.to_computer}", "version rule", "started", "now"], rows
    )
    for step in (step for each in report.programs for step in each.to_do):
        terminal.say(f"  To do: {step}")
    terminal.say()


def _show_installer_content(report: PlanReport, terminal: Terminal) -> None:
    """What the programs' installers bring: present and missing."""
    if not report.installer_content:
        return
    terminal.heading("Not carried: comes with the programs' installers")
    rows = [
        [each.title, f"{each.files - len(each.lacking):,}", f"{len(each.lacking):,}"]
        for each in report.installer_content
    ]
    terminal.table(["holding", "present", "missing"], rows, numbers=2)
    for each in report.installer_content:
        if each.lacking:
            terminal.say(f"  To do: install the missing files of {each.title} in {each.at}:")
            show_list(terminal, each.lacking)
    terminal.say()


def _show_baseline(report: PlanReport, terminal: Terminal) -> None:
    terminal.heading(f"On {report.to_computer} now")
    rows = [[each.title, each.at, f"{each.files:,}"] for each in report.baseline if each.files]
    if rows:
        terminal.table(["holding", "at", "files"], rows, numbers=1)
    others = count(len(report.baseline) - len(rows), "holding")
    terminal.say(f"The places of {others} are still empty; --json lists all.")
    terminal.say()


def _show_renames(report: PlanReport, terminal: Terminal) -> None:
    if report.renames:
        terminal.heading(f"{count(len(report.renames), 'name')} not possible on {report.to_computer}")
        lines = [f"{each.old} becomes {each.new.name} ({each.why})" for each in report.renames]
        show_list(terminal, lines, shown=_SHOWN)
        terminal.say("  Catalogs are updated. The plan records the old names, so that each can be restored.")
        terminal.say()


def _show_conflicts(report: PlanReport, terminal: Terminal) -> None:
    """Both files of each conflict, and the decision; undecided ones come last."""
    conflicts = [each for each in report.conflicts if not each.earlier]
    _show_settled(report, terminal)
    if not conflicts:
        return
    decided = [each for each in conflicts if each.outcome]
    title = f"{count(len(conflicts), 'conflict')}: another file is already there on {report.to_computer}"
    left = len(conflicts) - len(decided)
    state = "all decided" if not left else f"{len(decided)} decided, {left} not"
    terminal.heading(f"{title} ({state})")
    shown = sorted(conflicts, key=lambda each: each.outcome is not None)[:_SHOWN]
    for each in sorted(shown, key=lambda each: each.outcome is None):
        terminal.say(f"  {each.new}")
        terminal.say(f"    carried   {_version(each.carried)}")
        terminal.say(f"    there     {_version(each.there)}{_newer(each)}")
        if each.warning:
            terminal.say(f"    {each.warning}")
        terminal.say(f"    {_outcome(each)}")
        if each.merge is not None:
            show_merge(each.merge, terminal)
    if len(conflicts) > len(shown):
        terminal.say(f"  and {len(conflicts) - len(shown):,} more; the plan lists all")
    terminal.say()


def _show_settled(report: PlanReport, terminal: Terminal) -> None:
    """What an earlier move settles: files that only one of the computers has changed since."""
    settled = [each for each in report.conflicts if each.earlier]
    if settled:
        terminal.heading(f"{count(len(settled), 'file')} of an earlier move, changed on one computer since, or on none")
        for why, number in Counter((each.outcome, each.why) for each in settled).items():
            terminal.say(f"  {count(number, 'file')}: {why[0]}: {why[1]}")
        terminal.say()


def _show_values(report: PlanReport, terminal: Terminal) -> None:
    """Registry values that differ, either side of each."""
    values = report.registry_conflicts
    if not values:
        return
    left = sum(each.outcome is None for each in values)
    state = "all decided" if not left else f"{len(values) - left} decided, {left} not"
    terminal.heading(f"{count(len(values), 'registry value')} of {report.to_computer} that differ ({state})")
    for each in sorted(values, key=lambda each: each.outcome is not None)[:_SHOWN]:
        said = "needs a decision" if each.outcome is None else each.outcome.value
        terminal.say(f"  {each.value}")
        terminal.say(f"    carried   {each.carried}")
        terminal.say(f"    there     {each.there}")
        terminal.say(f"    {said}{f' ({each.why})' if each.why else ''}")
    if len(values) > _SHOWN:
        terminal.say(f"  and {len(values) - _SHOWN:,} more; the plan lists all")
    terminal.say()


def _show_left_entries(report: PlanReport, terminal: Terminal) -> None:
    """Entries that stay behind by decision; undecided ones are blockers."""
    if not (report.leave_entries and report.unsayable):
        return
    terminal.heading("Entries left behind by choice: their catalogs cannot say their new paths")
    for each in report.unsayable:
        terminal.say(f"  {each.title}, {each.at}: {count(each.entries, 'entry', 'entries')}")
        show_list(terminal, each.examples)
    terminal.say()


def _version(version: Version) -> str:
    from ..crate import readable_size

    text = f"{readable_size(version.size_bytes)} of {version.date:%Y-%m-%d %H:%M}"
    if version.work is None:
        return text
    entries = count(version.work.entries, "entry", "entries")
    return f"{text}: {entries}, {count(version.work.groups, 'group')}, {count(version.work.annotations, 'annotation')}"


def _newer(conflict: Conflict) -> str:
    if conflict.carried.date == conflict.there.date:
        return ""
    return "  (newer)" if conflict.there.date > conflict.carried.date else "  (older)"


def _outcome(conflict: Conflict) -> str:
    from ..plan import Choice

    if conflict.outcome is None:
        return f"needs a decision{': ' + conflict.why if conflict.why else ''}"
    said = {
        Choice.KEEP: "keep: the file there stays",
        Choice.BRING_IN: "bring in: the file there is kept aside",
        Choice.BOTH: f"both: the carried file becomes {conflict.beside}",
        Choice.MERGE: "merge: relinking writes one catalog that holds all of both",
    }[conflict.outcome]
    return f"{said} ({conflict.why})" if conflict.why else said


def _show_blockers(report: PlanReport, terminal: Terminal) -> None:
    for part in report.absent_parts:
        terminal.say(f"{part} Unpacking needs it: connect its carrier, and name its folder with --part.")
    if not report.blockers:
        can = "can begin" if not report.absent_parts else "can begin with what is here"
        terminal.say(f"No blockers: unpacking {can}.")
        return
    terminal.say()
    terminal.heading(f"{count(len(report.blockers), 'blocker')}: clear first")
    for blocker in report.blockers:
        terminal.say(f"  {blocker.what}")
        show_list(terminal, blocker.places)
        alone = " Only this program's files wait; zesty unpack places the rest." if blocker.guide else ""
        terminal.say(f"    {blocker.clear}{alone}")
