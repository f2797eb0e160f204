"""Values of the new computer's registry that differ from the carried ones: shown side by side, and decided like files.

A registry keeps no date of a value, so which one is newer cannot be known; and one key cannot have both.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace

from ..crate import merges
from ..guides import Holding
from ..machines.registry import Difference, Tree, differences_of, read_export
from ..machines.texts import restored
from ..paths import MachinePath, PathError, RouteMap
from .decisions import Choice, Decisions
from .document import Blocker, PlannedValue, load_plan, read_plan
from .move import Move

_NOT_FOR_VALUES = {
    Choice.NEWER: "newer was chosen, but values of a registry have no date",
    Choice.BOTH: "both was chosen, but a key cannot have two values of one name",
    Choice.MERGE: "merge was chosen, but a value is one or the other; branches are merged in any case",
}


@dataclass(frozen=True, slots=True)
class RegistryConflict:
    """A value that differs: ``value`` is its key and name, ``carried`` and ``there`` are what either side has.

    ``asked``, ``outcome`` and ``why`` are as those of a `Conflict`.
    """

    holding: str
    title: str
    value: str
    carried: str
    there: str
    asked: Choice | None = None
    outcome: Choice | None = None
    why: str = ""


def registry_conflicts(
    move: Move, routes: RouteMap, decisions: Decisions, earlier: Iterable[PlannedValue]
) -> list[RegistryConflict]:
    """The conflicts of every branch that would be merged; none where the new computer's registry is not here."""
    asked = {each.value.casefold(): each.asked for each in earlier}
    return [
        _settled(each, decisions, asked) for holding in merged_branches(move) for each in _of(move, holding, routes)
    ]


def decided_values(move: Move) -> dict[str, PlannedValue]:
    """What the plan file says about registry values now, by their keys and names in small letters."""
    if move.outside.disk.facts(move.plan_path) is None:
        return {}
    plan = read_plan(load_plan(move.plan_path, move.outside.disk), move.plan_title, move.old, move.new)
    return {each.value.casefold(): each for each in plan.values}


def value_blockers(move: Move, routes: RouteMap) -> list[Blocker]:
    """What differs in the registry now, and was not decided with just that in view."""
    decided = decided_values(move)
    found = registry_conflicts(move, routes, Decisions((), move.new), ())
    return undecided_values(each for each in found if outcome_of(each.value, each.there, decided) is None)


def outcome_of(value: str, there: str, decided: Mapping[str, PlannedValue]) -> Choice | None:
    """What was decided on a value while this was there; None when nothing was, or something else was there."""
    planned = decided.get(value.casefold())
    return planned.outcome if planned is not None and planned.there == there else None


def undecided_values(conflicts: Iterable[RegistryConflict]) -> list[Blocker]:
    """The blockers for values that nothing decides, each of which stops only its own program."""
    by_guide: dict[str, list[RegistryConflict]] = {}
    for each in conflicts:
        if each.outcome is None:
            by_guide.setdefault(each.holding.partition("/")[0], []).append(each)
    return [
        Blocker(
            "registry",
            f"Registry values that differ and need a decision: {len(found)}.",
            f"Decide with zesty plan --decide keep or bring-in; or --decide '{found[0].value}=keep' for one value.",
            tuple(each.value for each in found),
            guide=guide,
        )
        for guide, found in by_guide.items()
    ]


def merged_branches(move: Move) -> Iterator[Holding]:
    """The holdings whose branch of the registry is merged: those that were carried and are in the scope of packing."""
    if move.registry() is None:
        return
    scope = move.survey.about("scope") or {}
    for holding in move.old_holdings():
        carried = holding.part.branch and move.outside.disk.facts(move.crate.export_path(holding.id)) is not None
        if carried and merges(scope, holding.id):
            yield holding


def _of(move: Move, holding: Holding, routes: RouteMap) -> Iterator[RegistryConflict]:
    registry, path = move.registry(), move.crate.export_path(holding.id)
    if registry is None:
        return
    places = _places(move, holding, routes)
    carried = Tree(read_export(move.outside.disk.read_bytes(path), str(path)))
    for each in differences_of(carried.blocks(), registry.branch(holding.part.branch)):
        new = places.get(each.carried.casefold())
        if new is None or not _means(each, new, move):
            said = str(new) if new is not None else each.carried
            yield RegistryConflict(holding.id, holding.title, each.value, said, each.there)


def _places(move: Move, holding: Holding, routes: RouteMap) -> dict[str, MachinePath]:
    """Where the paths of a branch's entries are on the new computer, by the texts that record them."""
    query = "SELECT recorded, path FROM entry WHERE holding = ? AND path <> ''"
    places = {}
    for recorded, path in move.survey.database.execute(query, (holding.id,)):
        new = routes.translate(move.old.parse(restored(path)))
        if new is not None:
            places[restored(recorded).casefold()] = new
    return places


def _means(difference: Difference, new: MachinePath, move: Move) -> bool:
    try:
        return move.new.key(move.new.parse(difference.there)) == move.new.key(new)
    except PathError:
        return False


def _settled(conflict: RegistryConflict, decisions: Decisions, asked: Mapping[str, Choice | None]) -> RegistryConflict:
    own = decisions.on_text(conflict.value) or asked.get(conflict.value.casefold())
    general = decisions.in_general(conflict.holding)
    choice = own or (general.choice if general else None)
    if choice is None:
        return conflict
    if choice in _NOT_FOR_VALUES:
        return replace(conflict, asked=own, why=_NOT_FOR_VALUES[choice])
    why = "chosen for this value" if own else f"chosen for {general.on}" if general else ""
    return replace(conflict, asked=own, outcome=choice, why=why)
