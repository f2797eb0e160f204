"""Make a plan: compare the two computers, propose routes, look at the new one, name what is in the way."""

from __future__ import annotations

import contextlib
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from ..crate import Contents, Crate, find_contents
from ..errors import ZestyError
from ..guides import Guide, holdings_on
from ..journal import Journal
from ..machines import Computer, Finder, Outside, Sheet, computer_of, make_folders
from ..paths import PathError, Route, RouteMap
from ..survey import SurveyStore
from .document import FORMAT, Blocker, PlannedRoute, load_plan, plan_text, read_routes
from .inspect import Findings, Inspector, find_blockers
from .placements import Placements
from .propose import propose_routes
from .readiness import Readiness, look_at_programs, program_blockers


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
    routes: tuple[PlannedRoute, ...]
    kept_routes: int
    blockers: tuple[Blocker, ...]
    programs: tuple[Readiness, ...]
    baseline: tuple[Baseline, ...]
    files: int
    size_bytes: int
    already_there: int


@dataclass(frozen=True, slots=True)
class Move:
    """One crate on its way to one computer: what every step after packing works with."""

    crate: Crate
    contents: Contents
    survey: SurveyStore
    old: Computer
    old_sheet: Sheet
    new: Computer
    new_sheet: Sheet
    guides: tuple[Guide, ...]
    outside: Outside

    @property
    def folder(self) -> Path:
        """Where this move's own records are."""
        return self.crate.move_folder(self.new.name)

    @property
    def plan_path(self) -> Path:
        """The plan file."""
        return self.folder / "plan.toml"

    @property
    def journal_path(self) -> Path:
        """The journal file."""
        return self.folder / "journal.db"

    def route_map(self, text: str) -> RouteMap:
        """The routes of a plan's text."""
        routes = read_routes(text, f"The plan {self.plan_path}", self.old, self.new)
        return RouteMap(routes, self.old.rules_for)


def open_move(crate: Crate, sheet: Sheet, outside: Outside, parts: Sequence[Path] = ()) -> Move:
    """Bring together a finished crate, with the folders of its other ``parts``, and the new computer.

    Close the move's ``survey`` in the end.
    """
    survey = crate.open_survey(outside.disk)
    old_sheet = crate.old_sheet(outside.disk, survey)
    new = computer_of(sheet)
    if not new.name.strip(". ") or any(c in new.name for c in '/\\:*?"<>|'):
        raise ZestyError(f"The computer's name {new.name!r} cannot name a folder.", next_step="Change it in the sheet.")
    guides = tuple(crate.guides(outside.disk))
    contents = find_contents(crate, survey, outside.disk, parts)
    return Move(crate, contents, survey, computer_of(old_sheet), old_sheet, new, sheet, guides, outside)


def make_plan(move: Move, given: Sequence[str] = ()) -> PlanReport:
    """Write the plan of a move. Routes that stand in the plan file already are kept, and no others are lost.

    ``given`` are routes as ``OLD=NEW``; they come before those in the file. Raises `ZestyError` for one that is none,
    and `PathError` when two of them contradict each other.
    """
    disk = move.outside.disk
    own = [_given_route(move, text) for text in given]
    RouteMap(own, move.old.rules_for)
    taken = {move.old.key(route.old) for route in own}
    kept = own + [route for route in _kept_routes(move) if move.old.key(route.old) not in taken]
    proposed = propose_routes(move.guides, move.old, move.old_sheet, move.new, move.new_sheet)
    taken = {move.old.key(route.old) for route in kept}
    routes = kept + [route for route in proposed if move.old.key(route.old) not in taken]
    findings = inspect_target(move, RouteMap(routes, move.old.rules_for))
    blockers = _blockers(move, RouteMap(routes, move.old.rules_for), findings)
    planned = _worth_showing(move, routes, kept, findings)
    made = move.outside.clock.now().isoformat()
    head = {"format": FORMAT, "crate": move.crate.name, "from": move.old.name, "to": move.new.name, "made": made}
    make_folders(disk, move.folder)
    disk.write_text(move.plan_path, plan_text(head, planned, blockers))
    return PlanReport(
        crate=str(move.crate.root),
        from_computer=move.old.name,
        to_computer=move.new.name,
        path=str(move.plan_path),
        routes=tuple(planned),
        kept_routes=len(kept),
        blockers=tuple(blockers),
        programs=tuple(programs_of(move)),
        baseline=tuple(_baseline(move)),
        files=findings.files,
        size_bytes=findings.size_bytes,
        already_there=findings.already_there,
    )


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
    present = {row.guide for row in move.survey.holdings() if row.present}
    guides = [guide for guide in move.guides if guide.id in present]
    return look_at_programs(guides, move.old_sheet, move.new, move.new_sheet, move.outside)


def blockers_of_programs(move: Move) -> list[Blocker]:
    """What keeps the things of single programs from being placed now."""
    return program_blockers(programs_of(move), move.new, move.new_sheet)


def current_blockers(move: Move, routes: RouteMap) -> list[Blocker]:
    """What keeps these routes from being carried out now."""
    return _blockers(move, routes, inspect_target(move, routes))


def _blockers(move: Move, routes: RouteMap, findings: Findings) -> list[Blocker]:
    blockers = blockers_of_programs(move) + find_blockers(findings, move.new, move.outside.disk)
    awaited = [each for each in move.old.volumes if each.travels and routes.translate(each.anchor) is None]
    return blockers + [
        Blocker(
            "drives",
            f"The drive {each.anchor} {each.label} goes along, and {move.new.name} has no volume with its label.",
            f"Plug it in and add it to the sheet of {move.new.name}, or add a [[route]] for it to the plan.",
        )
        for each in awaited
    ]


def _given_route(move: Move, text: str) -> Route:
    """A route as a technician types it. Either side may hold ``=``: the first split at which both are paths counts."""
    for cut in (position for position, character in enumerate(text) if character == "="):
        with contextlib.suppress(PathError):
            return Route(move.old.parse(text[:cut]), move.new.parse(text[cut + 1 :]), "given by hand")
    raise ZestyError(
        f"The route {text!r} does not say where from and where to.",
        next_step=f"Write it like 'OLD=NEW': a folder of {move.old.name} ({move.old.system}), and one of "
        f"{move.new.name} ({move.new.system}), each as its computer writes it.",
    )


def _kept_routes(move: Move) -> list[Route]:
    if move.outside.disk.facts(move.plan_path) is None:
        return []
    text = load_plan(move.plan_path, move.outside.disk)
    return read_routes(text, f"The plan {move.plan_path}", move.old, move.new)


def _worth_showing(move: Move, routes: list[Route], kept: list[Route], findings: Findings) -> list[PlannedRoute]:
    """The routes that something goes by, that an entry's path lies under, or that a person wrote."""
    used = _routes_of_entries(move, RouteMap(routes, move.old.rules_for))
    return [
        PlannedRoute(route, findings.by_route[str(route.old)])
        for route in routes
        if route in kept or findings.by_route[str(route.old)] or route in used
    ]


def _routes_of_entries(move: Move, routes: RouteMap) -> set[Route]:
    paths = (move.old.parse(row.path) for row in move.survey.entries("path <> ''"))
    return {route for path in paths if (route := routes.route_for(path))}


def _baseline(move: Move) -> list[Baseline]:
    finder = Finder(move.new, move.outside.disk)
    rows = []
    for guide in move.guides:
        for holding in holdings_on(guide, move.new, move.new_sheet):
            if holding.at is None or holding.has_several or holding.part.is_regenerable:
                continue
            top = finder.find(holding.at)
            files = sum(1 for seen in finder.walk(holding.at) if seen.facts and seen.facts.is_file)
            files += 1 if top.facts and top.facts.is_file else 0
            rows.append(Baseline(holding.id, holding.title, str(holding.at), files))
    return rows
