"""What a plan arranges: where everything goes, and what becomes of what is in its place."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from ..machines import Computer
from ..machines.sqlite_files import SIDE_ENDINGS
from ..paths import MachinePath, PathError, Route, RouteMap
from .decisions import Choice
from .document import PlanFile, PlannedConflict
from .placements import main_of


def nothing_follows(_: RouteMap) -> Iterable[Route]:
    """Nothing goes by where other things go."""
    return ()


class Arrangement:
    """A plan ready for look-up."""

    def __init__(
        self, plan: PlanFile, old: Computer, following: Callable[[RouteMap], Iterable[Route]] = nothing_follows
    ) -> None:
        """``following`` gives the routes of what goes by where other things go.

        Raise `PathError` when routes contradict each other.
        """
        self._old = old
        self.leaves_entries = plan.leave_entries
        self.merging = plan.merging
        self._conflicts = {old.key(each.old): each for each in plan.conflicts}
        routes = [*plan.routes, *plan.renames, *_apart(plan)]
        self.routes = RouteMap(routes, old.rules_for)
        if follow := list(following(self.routes)):
            self.routes = RouteMap([*routes, *follow], old.rules_for)

    def settled(self) -> list[PlannedConflict]:
        """Every conflict, as the plan settles it."""
        return list(self._conflicts.values())

    def kept(self) -> list[PlannedConflict]:
        """The conflicts in which what is there stays, or gets more."""
        return [each for each in self._conflicts.values() if each.outcome in (Choice.KEEP, Choice.MERGE)]

    def conflict_of(self, path: MachinePath) -> PlannedConflict | None:
        """What the plan says about the carried file ``path``, where something else is in its place."""
        found = self._conflicts.get(self._old.key(path))
        if found is None and (main := main_of(path)) is not None:
            return self._conflicts.get(self._old.key(main))  # it goes with its database
        return found

    def choice_of(self, path: MachinePath) -> Choice | None:
        """What was decided for the carried file ``path``; None when nothing was in its place."""
        conflict = self.conflict_of(path)
        return conflict.outcome if conflict else None

    def place_of_kept(self, path: MachinePath) -> MachinePath | None:
        """Where the file is that was there already in the place of the carried ``path``; None when none was."""
        conflict = self.conflict_of(path)
        return conflict.new if conflict else None

    def means_the_same_as(self, other: Arrangement) -> bool:
        """Whether everything goes to the same places, and the decisions are the same."""
        mine, theirs = ({key: each.outcome for key, each in one._conflicts.items()} for one in (self, other))
        return mine == theirs and self.routes.lines() == other.routes.lines()


def _apart(plan: PlanFile) -> list[Route]:
    """What is placed beside something goes by a route of its own, so that recorded paths follow."""
    routes = []
    for each in plan.conflicts:
        if each.outcome is Choice.BOTH:
            if each.beside is None:
                raise PathError(
                    f"The plan does not say under which name to place {each.old} beside the file that is already there."
                )
            for ending in ("", *SIDE_ENDINGS):
                old, new = (path.renamed(path.name + ending) for path in (each.old, each.beside))
                routes.append(Route(old, new, "kept beside the file that is already there"))
    return routes
