"""Everything that keeps a plan from being carried out now."""

from __future__ import annotations

from contextlib import ExitStack

from ..crate import PLUG_IN, kept_steps, open_gates
from ..journal import Journal, Locations
from ..machines import Finder, Sight
from ..paths import MachinePath, RouteMap
from .arrangement import Arrangement
from .conflicts import date_of
from .document import Blocker
from .entry_folders import EntryFolders
from .inspect import Findings, Inspector, find_blockers
from .move import Move
from .names import Names
from .placements import Placements
from .readiness import Readiness, look_at_programs, program_blockers
from .registry_conflicts import value_blockers
from .unsayable import blockers_of_unsayable, foresee


def inspect_target(move: Move, routes: RouteMap) -> Findings:
    """Look at the new computer under these routes."""
    journal = Journal.open_existing(move.journal_path, move.outside)
    try:
        inspector = Inspector(move.new, move.outside.disk, journal)
        return inspector.look(Placements(move.survey, move.old, routes))
    finally:
        if journal is not None:
            journal.close()


def programs_of(move: Move) -> list[Readiness]:
    """How the programs that this crate is of stand on the new computer."""
    present = {row.guide for row in move.survey.holdings() if row.present and row.id in move.chosen}
    guides = [guide for guide in move.guides if guide.id in present]
    finder, locations = Finder(move.new, move.outside.disk), Locations(move.new)
    with ExitStack() as stack:
        journal = Journal.open_existing(move.journal_path, move.outside)
        if journal is not None:
            stack.callback(journal.close)

        def is_ours(path: MachinePath) -> bool:
            return journal is not None and journal.has_acted_at(locations.at(finder, path))

        return look_at_programs(guides, move.old_sheet, move.new, move.new_sheet, move.outside, is_ours)


def absent_parts(move: Move) -> list[Blocker]:
    """Parts of the crate whose carriers are not here."""
    names = (str(each) for each in move.contents.missing())
    return [Blocker("parts", f"{name[0].upper()}{name[1:]} is not here.", PLUG_IN) for name in names]


def blockers_of_programs(move: Move) -> list[Blocker]:
    """What keeps the things of single programs from being placed now; nothing does where they do not go live."""
    if move.into is not None:
        return []
    ticked = {each.do for each in kept_steps(move.crate, move.outside.disk) if each.done}
    return program_blockers(programs_of(move), move.new, move.new_sheet, ticked) + _gates(move)


def _gates(move: Move) -> list[Blocker]:
    """What a person must do before anything of a program is placed, and has not marked done."""
    titles = {guide.id: guide.title for guide in move.guides}
    chosen = {each.partition("/")[0] for each in move.chosen}
    return [
        Blocker(
            titles.get(step.about, step.about),
            f"Manual step before unpacking: {step.do}",
            f'When it is done, tick it off with zesty todo "{move.crate.root}" --done {step.id}.',
            guide=step.about,
        )
        for step in open_gates(move.crate, move.survey, "before-unpack", move.outside.disk)
        if step.about in chosen
    ]


def blockers_of(move: Move, routes: RouteMap, findings: Findings, names: Names) -> list[Blocker]:
    """All blockers but conflicts."""
    blockers = blockers_of_programs(move) + find_blockers(findings, names, move.new, move.outside.disk)
    awaited = [each for each in move.old.volumes if each.travels and routes.translate(each.anchor) is None]
    return blockers + [
        Blocker(
            "drives",
            f"The drive {each.anchor} {each.label} travels to {move.new.name}; no volume there is known to be it.",
            f"Connect it and add it to the sheet of {move.new.name} with its label or serial, or "
            "add a [[route]] for it to the plan.",
        )
        for each in awaited
    ]


def current_blockers(move: Move, arrangement: Arrangement) -> list[Blocker]:
    """What keeps an arrangement from being carried out now: also what came into its way since it was made."""
    findings = inspect_target(move, arrangement.routes)
    return (
        blockers_of(move, arrangement.routes, findings, Names())
        + _conflicts(findings, arrangement)
        + _gone(move, arrangement)
        + value_blockers(move, arrangement.routes)
        + _unsayable(move, arrangement)
    )


def _unsayable(move: Move, arrangement: Arrangement) -> list[Blocker]:
    if arrangement.leaves_entries:
        return []
    return blockers_of_unsayable(
        foresee(move, arrangement.routes, EntryFolders(move.survey, move.old), arrangement).entries
    )


def _gone(move: Move, arrangement: Arrangement) -> list[Blocker]:
    """Files that were to be kept and are gone by now: what is carried would be missing with them."""
    finder = Finder(move.new, move.outside.disk)
    kept = arrangement.kept() if move.into is None else []  # in a folder to look at things in, nothing is there
    gone = tuple(str(each.new) for each in kept if finder.find(each.new).sight is Sight.ABSENT)
    what = f"Files that should be kept but no longer exist: {len(gone)}."
    return [Blocker("conflicts", what, _ANEW, gone)] if gone else []


_ANEW = "Run zesty plan again, and decide about them."


def _conflicts(findings: Findings, arrangement: Arrangement) -> list[Blocker]:
    """What is in the place of something, as far as the plan does not say what becomes of it."""
    came, edited, undecided = [], [], []
    for placement, seen in findings.conflicts:
        settled = arrangement.conflict_of(placement.old)
        facts = seen.facts
        if settled is None or facts is None:
            came.append(str(seen.path))
        elif (settled.there_bytes, settled.there_date) != (facts.size_bytes, date_of(facts)):
            came.append(f"{seen.path} (it was changed)")
        elif not settled.is_current:
            edited.append(str(seen.path))
        elif settled.outcome is None:
            undecided.append(str(seen.path))
    blockers = []
    for places, what, clear in (
        (came, "New or changed files since the plan was made, in the place of carried files", _ANEW),
        (edited, "Conflicts whose choice was edited after the plan was made", _ANEW),
        (undecided, "Conflicts that need a decision", "Decide with zesty plan --decide."),
    ):
        if places:
            blockers.append(Blocker("conflicts", f"{what}: {len(places)}.", clear, tuple(places)))
    return blockers
