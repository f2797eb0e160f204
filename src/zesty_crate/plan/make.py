"""Make a plan: compare the two computers, propose routes, look at the new one, name what is in the way."""

from __future__ import annotations

import logging
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from functools import partial

from ..crate import kept_steps
from ..documents import Line
from ..guides import Holding
from ..machines import Finder, faults_in, make_folders, working_folder
from ..merge import MergeReport
from ..paths import Route, RouteMap, System
from ..split_paths import Targets
from ..survey import uncovered_in
from ..systems import CREATED
from .blockers import absent_parts, blockers_of, inspect_target, programs_of
from .conflicts import Conflict, Judge, undecided, undecided_in_merges
from .decisions import Choice, Decision, Decisions
from .differences import ComputerDifference, differences
from .document import FORMAT, Blocker, MergingChoices, PlannedRoute
from .earlier_moves import EarlierMoves
from .entry_folders import EntryFolders, routes_of_single_entries
from .inspect import Findings
from .installer_content import InstallerContent, installer_content
from .merging import MergeErrand, merged_file
from .move import Move
from .names import look_at_names
from .options import NO_OPTIONS, PlanOptions, decisions_of, earlier_plan, merging_of, routes_of
from .placed_before import placed_elsewhere
from .placements import Placements
from .readiness import Readiness
from .registry_conflicts import RegistryConflict, registry_conflicts, undecided_values
from .renamed_companions import companions_in, companions_of
from .same_files import routes_to_same_files
from .same_paths import SamePath, same_paths
from .unsayable import Foreseen, UnsayableEntries, blockers_of_unsayable, foresee
from .writing import plan_text

_log = logging.getLogger(__name__)

_OLDER_PROGRAMS_OPEN = 259  # characters of a path on Windows: MAX_PATH without the NUL at its end


@dataclass(frozen=True, slots=True)
class Baseline:
    """What is at a holding's place on the new computer before anything is placed."""

    holding: str
    title: str
    at: str
    files: int


@dataclass(frozen=True, slots=True)
class PlanReport:
    """A plan, for reading. Sizes in bytes."""

    crate: str
    from_computer: str
    to_computer: str
    path: str
    differences: tuple[ComputerDifference, ...]
    same_paths: tuple[SamePath, ...]  # what would make relinking unnecessary
    routes: tuple[PlannedRoute, ...]
    manual_routes: int
    renames: tuple[Route, ...]
    decisions: tuple[Decision, ...]
    conflicts: tuple[Conflict, ...]
    registry_conflicts: tuple[RegistryConflict, ...]
    unsayable: tuple[UnsayableEntries, ...]  # entries whose new paths their catalogs cannot say
    leave_entries: bool
    merging: MergingChoices
    blockers: tuple[Blocker, ...]
    absent_parts: tuple[str, ...]  # of the crate, whose carriers are not here
    programs: tuple[Readiness, ...]
    installer_content: tuple[InstallerContent, ...]
    baseline: tuple[Baseline, ...]
    files: int
    size_bytes: int
    already_there: int
    notes: tuple[str, ...]


def make_plan(move: Move, options: PlanOptions = NO_OPTIONS) -> PlanReport:
    """Write the plan of a move. Manual routes, names and decisions that are in the plan file already are kept.

    Raises `ZestyError` for a wish that makes no sense, and `PathError` when two routes contradict each other.
    """
    earlier = earlier_plan(move)
    routes, kept = routes_of(move, options, earlier)
    decisions, merging = decisions_of(move, options, earlier), merging_of(options, earlier)
    routes += routes_to_same_files(move, RouteMap(routes, move.old.rules_for), Decisions(decisions, move.new))
    base = RouteMap(routes, move.old.rules_for)
    placements = Placements(move.survey, move.old, base)
    renames = [each for each in earlier.renames if each.manual] if earlier else []
    names = look_at_names(placements, move.old, move.new, base, renames)
    arranged = RouteMap([*routes, *names.renames], move.old.rules_for)
    following = list(move.following(arranged))
    arranged = RouteMap([*routes, *names.renames, *following], move.old.rules_for)
    findings = inspect_target(move, arranged)
    leave_entries = options.leave_entries or (earlier is not None and earlier.leave_entries)
    merger = partial(_merge_report, move, arranged, merging, leave_entries=leave_entries)
    with EarlierMoves(move) as moves, faults_in(move.folder / "work"):
        judge = Judge(
            move, arranged, Decisions(decisions, move.new), earlier.conflicts if earlier else (), moves, merger
        )
        conflicts = judge.judge(findings.conflicts)
    values = registry_conflicts(move, arranged, Decisions(decisions, move.new), earlier.values if earlier else ())
    _count_room(move, findings, conflicts)
    folders = EntryFolders(move.survey, move.old)
    foreseen = foresee(move, arranged, folders)
    report = PlanReport(
        crate=str(move.crate.root),
        from_computer=move.old.name,
        to_computer=move.new.name,
        path=str(move.plan_path),
        differences=tuple(differences(folders, move.old, move.new, arranged)),
        same_paths=tuple(_same_paths(move, folders, base)),
        routes=tuple(_worth_showing(move, base, kept, findings, folders)),
        manual_routes=len(kept),
        renames=tuple(names.renames),
        decisions=tuple(decisions),
        conflicts=tuple(conflicts),
        registry_conflicts=tuple(values),
        unsayable=foreseen.entries,
        leave_entries=leave_entries,
        merging=merging,
        blockers=(
            *blockers_of(move, arranged, findings, names),
            *undecided(conflicts),
            *undecided_in_merges(conflicts),
            *undecided_values(values),
            *([] if leave_entries else blockers_of_unsayable(foreseen.entries)),
        ),
        absent_parts=tuple(each.what for each in absent_parts(move)),
        programs=tuple(programs_of(move)),
        installer_content=tuple(installer_content(move)),
        baseline=tuple(_baseline(move, arranged)),
        files=findings.files,
        size_bytes=findings.size_bytes,
        already_there=findings.already_there,
        notes=(*_notes(move, arranged, len(following)), *_not_seen(foreseen)),
    )
    _write(move, report)
    for route in routes:
        _log.debug("route %s to %s: %s", route.old, route.new, route.why)
    for conflict in report.conflicts:
        _log.info("conflict at %s: %s (%s)", conflict.new, conflict.outcome or "undecided", conflict.why)
    for blocker in report.blockers:
        _log.info("blocker: %s", blocker.what)
    return report


def _merge_report(
    move: Move, routes: RouteMap, merging: MergingChoices, errand: MergeErrand, *, leave_entries: bool
) -> MergeReport:
    """What merging comes to, from doing it in a working folder."""
    options = merging.options_for(errand.place)
    targets = Targets(move.survey, move.old, move.new, routes)
    with working_folder(move.outside.disk, move.folder / "work") as work:
        return merged_file(move, errand, targets, options, work, leave_entries=leave_entries).report


def _write(move: Move, report: PlanReport) -> None:
    made = move.outside.clock.now().isoformat()
    head = [
        Line("format", FORMAT),
        Line("crate", move.crate.name),
        Line("from", move.old.name),
        Line("to", move.new.name),
        Line("made", made),
    ]
    head += [Line("leave-entries", report.leave_entries)] if report.leave_entries else []
    head += [Line("values", report.merging.values)] if report.merging.values else []
    head += [Line("without", list(report.merging.without))] if report.merging.without else []
    text = plan_text(
        head,
        report.routes,
        report.renames,
        report.decisions,
        report.conflicts,
        report.registry_conflicts,
        report.merging.single,
        report.blockers,
    )
    make_folders(move.outside.disk, move.folder)
    move.outside.disk.write_text(move.plan_path, text)


def _count_room(move: Move, findings: Findings, conflicts: Iterable[Conflict]) -> None:
    """What is brought in needs its room, too: what it replaces goes only when it is complete."""
    for each in conflicts:
        volume = move.new.volume_of(move.new.parse(each.new))
        if volume is not None and each.outcome in (Choice.BRING_IN, Choice.BOTH):
            findings.needed[str(volume.anchor)] += each.carried.size_bytes


def _worth_showing(
    move: Move, routes: RouteMap, kept: list[Route], findings: Findings, folders: EntryFolders
) -> list[PlannedRoute]:
    """The routes that something goes by, that an entry's path is below, of drives that travel, or of a person."""
    files: Counter[Route] = Counter()
    for old, number in findings.by_route.items():  # what is renamed goes by a route of its own
        if (route := routes.route_for(old)) is not None:
            files[route] += number
    used = {*folders.by(routes.route_for), *routes_of_single_entries(move.survey, move.old, routes)}
    used |= {route for each in move.old.volumes if each.travels and (route := routes.route_for(each.anchor))}
    return [PlannedRoute(each, files[each]) for each in routes if each in kept or files[each] or each in used]


def _same_paths(move: Move, folders: EntryFolders, routes: RouteMap) -> Iterator[SamePath]:
    ticked = {each.do for each in kept_steps(move.crate, move.outside.disk) if each.done}
    for each in same_paths(folders, move.old, Finder(move.new, move.outside.disk), routes):
        yield replace(each, ticked=each.do in ticked)


def _baseline(move: Move, routes: RouteMap) -> list[Baseline]:
    finder = Finder(move.new, move.outside.disk)
    holdings = (h for h in move.holdings_by(routes) if not h.has_several and not h.part.is_regenerable)
    return [row for each in holdings if (row := _at_its_place(each, finder))]


def _at_its_place(holding: Holding, finder: Finder) -> Baseline | None:
    if holding.at is None:
        return None
    top = finder.find(holding.at)
    files = sum(1 for seen in finder.walk(holding.at) if seen.facts and seen.facts.is_file)
    files += 1 if top.facts and top.facts.is_file else 0
    return Baseline(holding.id, holding.title, str(holding.at), files)


def _notes(move: Move, routes: RouteMap, following: int) -> list[str]:
    """What is no blocker, and good to know: what guides warn of, paths that are long, what was placed before."""
    placements = Placements(move.survey, move.old, routes)
    present = {row.id for row in move.survey.holdings() if row.present}
    warnings = [f"{h.title}: {h.part.warning}" for h in move.holdings_there() if h.part.warning and h.id in present]
    follow = [f"Companion files named after the path of their media, renamed after the new path: {following}."]
    elsewhere = placed_elsewhere(move, routes)
    placed = [
        f"Files that this move has placed already, and where the routes do not lead now: {elsewhere:,}. Unpacking "
        "places them again by the new routes; those there stay until zesty undo."
    ]
    told = warnings + follow[: bool(following)] + _unexplained_companions(move) + placed[: bool(elsewhere)]
    return told + _long_paths(move, placements) + _uncovered(move) + _dates(move)


def _not_seen(foreseen: Foreseen) -> Iterator[str]:
    for each in foreseen.not_seen:
        yield (
            f"Whether {each} can say the new paths of all its entries is not known yet, since it cannot be read from "
            "here now. zesty relink looks before it writes."
        )


def _unexplained_companions(move: Move) -> list[str]:
    """Companions that should be named by a path, and that no path explains: nobody will ask for their names."""
    notes = []
    for each in move.old_holdings():
        there = len(companions_in(move.survey, each, move.old)) if each.part.named_by else 0
        known = sum(1 for _ in companions_of(move.survey, each, move.old)) if there else 0
        if known < there:
            notes.append(
                f"{each.title}: companion files whose names no path explains: {there - known:,} of {there:,}. "
                "They keep their names."
            )
    return notes


def _uncovered(move: Move) -> list[str]:
    """What no holding covers stays on the old computer, and nobody has decided that yet."""
    folders = [each for each in uncovered_in(move.survey) if each.is_open]
    files = sum(each.files for each in folders)
    return [
        f"Not covered by any holding, and left on {move.old.name}: files: {files:,}, in {len(folders):,} folders. "
        "zesty survey CRATE --details coverage lists them."
    ][: len(folders)]


def _dates(move: Move) -> list[str]:
    """No program can say on Linux when a file was created."""
    if move.new.system is not System.LINUX:
        return []
    number = move.survey.count("SELECT count(*) FROM attribute WHERE name = ?", (CREATED,))
    return [
        f"Files and folders whose dates of creation are known: {number:,}. Linux sets these itself, so they get those "
        "of their copies; the dates of their last changes are kept."
    ][:number]


def _long_paths(move: Move, placements: Placements) -> list[str]:
    if move.new.system is not System.WINDOWS:
        return []
    long = [str(each.new) for each in placements.files() if len(str(each.new or "")) > _OLDER_PROGRAMS_OPEN]
    if not long:
        return []
    return [
        f"Paths of more than {_OLDER_PROGRAMS_OPEN} characters, which older Windows programs cannot open: "
        f"{len(long)}. A route to a folder nearer the top helps. The first is {long[0]}."
    ]
