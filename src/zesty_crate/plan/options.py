"""What a technician asks of a plan, together with what is in the plan already and what is proposed."""

from __future__ import annotations

import contextlib
from collections.abc import Iterable
from dataclasses import dataclass

from ..errors import ZestyError
from ..machines import Computer, Finder
from ..paths import PathError, Route, RouteMap
from .decisions import ALL, Choice, Decision, is_subject, read_decision, require_subject
from .document import NOTHING_CHOSEN, MergingChoices, PlanFile, load_plan, read_plan
from .earlier_routes import newest_earlier_plan
from .folding import fold_in
from .move import Move
from .propose import link_routes, propose_routes


@dataclass(frozen=True, slots=True)
class PlanOptions:
    """What is asked of a plan: ``routes`` as ``OLD=NEW``, ``decisions`` as ``WHAT=CHOICE``, and to ``fold_in``.

    With ``leave_entries``, entries stay behind whose new paths their catalogs cannot say. ``merging`` says how catalogs
    are merged.
    """

    routes: tuple[str, ...] = ()
    decisions: tuple[str, ...] = ()
    fold_in: bool = False
    leave_entries: bool = False
    merging: MergingChoices = NOTHING_CHOSEN


NO_OPTIONS = PlanOptions()


def earlier_plan(move: Move) -> PlanFile | None:
    """What is in the plan file, if there is one."""
    if move.outside.disk.facts(move.plan_path) is None:
        return None
    return read_plan(load_plan(move.plan_path, move.outside.disk), move.plan_title, move.old, move.new)


def merging_of(options: PlanOptions, earlier: PlanFile | None) -> MergingChoices:
    """How catalogs are merged: what is asked for now, else what is in the plan."""
    before, asked = earlier.merging if earlier else MergingChoices(), options.merging
    single = {(each.catalog, each.entry, each.field): each for each in (*before.single, *asked.single)}
    return MergingChoices(asked.values or before.values, tuple(single.values()), asked.without or before.without)


def routes_of(move: Move, options: PlanOptions, earlier: PlanFile | None) -> tuple[list[Route], list[Route]]:
    """All routes, and those among them that a person asked for: what is proposed at or below these does not count."""
    given = [given_route(text, move.old, move.new) for text in options.routes]
    RouteMap(given, move.old.rules_for)  # two that contradict each other are refused, and not one of them forgotten
    in_plan = newest_earlier_plan(move).routes if earlier is None else earlier.routes
    kept = _first_of(move, given, (each for each in in_plan if each.manual))
    if options.fold_in:
        finder = Finder(move.new, move.outside.disk)
        folded = fold_in(move.survey, move.guides, move.old, move.new, move.new_sheet, finder)
        kept = _first_of(move, kept, folded)
    proposed = propose_routes(move.guides, move.old, move.old_sheet, move.new, move.new_sheet)
    routes = _and_proposed(move, kept, proposed)
    return _and_proposed(move, routes, link_routes(move.survey, move.old, routes)), kept


def decisions_of(move: Move, options: PlanOptions, earlier: PlanFile | None) -> list[Decision]:
    """All decisions: those that are in the plan, those that were edited into its conflicts, and those asked for."""
    holdings = [row.id for row in move.survey.holdings()]
    stood = {_slot(decision, holdings): decision for decision in (earlier.decisions if earlier else ())}
    for decision in stood.values():
        require_subject(decision.on, holdings, move.new)
    if earlier is None:  # what was decided once is proposed again, where it still concerns anything
        stood_before = newest_earlier_plan(move).decisions
        proposed = (each for each in stood_before if is_subject(each.on, holdings, move.new))
        stood = {_slot(each, holdings): each for each in proposed}
    for settled in earlier.conflicts if earlier else ():
        on = str(settled.new)
        stood.pop((on, False), None)
        if settled.asked is not None:
            stood[on, False] = Decision(on, settled.asked)
    for text in options.decisions:
        decision = read_decision(text, holdings, move.new)
        stood.pop(_slot(decision, holdings), None)
        stood[_slot(decision, holdings)] = decision
    return list(stood.values())


def _slot(decision: Decision, holdings: Iterable[str]) -> tuple[str, bool]:
    """What a decision takes the place of: merging in general is decided besides what becomes of other files."""
    general = {ALL, *holdings, *(each.partition("/")[0] for each in holdings)}
    return decision.on, decision.choice is Choice.MERGE and decision.on in general


def _first_of(move: Move, first: Iterable[Route], then: Iterable[Route]) -> list[Route]:
    """Both, but where two start at one folder, the former alone."""
    routes = list(first)
    taken = {move.old.key(route.old) for route in routes}
    return routes + [route for route in then if move.old.key(route.old) not in taken]


def _and_proposed(move: Move, routes: Iterable[Route], proposed: Iterable[Route]) -> list[Route]:
    """All routes, and what is proposed besides, but for what is at or below the place of a manual one."""
    manual = RouteMap((route for route in routes if route.manual), move.old.rules_for)
    return _first_of(move, routes, (each for each in proposed if manual.route_for(each.old) is None))


def given_route(text: str, old: Computer, new: Computer) -> Route:
    """A route as a technician types it. Either side may hold ``=``: the first split at which both are paths counts.

    Raises `ZestyError` when there is no such split.
    """
    for cut in (position for position, character in enumerate(text) if character == "="):
        with contextlib.suppress(PathError):
            return Route(old.parse(text[:cut]), new.parse(text[cut + 1 :]), "set by you", manual=True)
    raise ZestyError(
        f"The route {text!r} is not of the form OLD=NEW.",
        next_step=f"Write it like 'OLD=NEW': a folder of {old.name} ({old.system}), and one of "
        f"{new.name} ({new.system}), each written as on its computer.",
    )
