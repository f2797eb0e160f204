"""Routes: files under this folder of the old computer are under that folder of the new one."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass

from .errors import PathError
from .keys import path_key
from .machine_path import MachinePath
from .systems import NameRules

RulesOf = Callable[[MachinePath], NameRules]


@dataclass(frozen=True, slots=True)
class Route:
    """One line of a plan: what is in ``old`` on the old computer is in ``new`` on the new one.

    It is ``manual`` when a person asked for it, and else a proposal, which is made anew each time.
    """

    old: MachinePath
    new: MachinePath
    why: str = ""
    manual: bool = False

    def apply(self, path: MachinePath) -> MachinePath:
        """Where ``path``, which is in ``old``, is on the new computer."""
        return self.new.below(*path.parts[len(self.old.parts) :])


class RouteMap:
    """Routes ready for look-up: the deepest old folder that holds a path decides."""

    def __init__(self, routes: Iterable[Route], rules_of: RulesOf) -> None:
        """Raise `PathError` when two routes send the same old folder to different places."""
        self._rules_of = rules_of
        self._by_key: dict[str, Route] = {}
        for route in routes:
            key = path_key(route.old, rules_of(route.old))
            known = self._by_key.setdefault(key, route)
            if known.new != route.new:
                raise PathError(
                    f"Two routes start at {route.old}: one leads to {known.new}, the other to {route.new}.",
                    next_step="Remove one of them from the plan.",
                )

    def route_for(self, path: MachinePath) -> Route | None:
        """The deepest route that holds ``path``, or None."""
        return self._deepest(path_key(path, self._rules_of(path)))

    def starts_at(self, key: str) -> Route | None:
        """The route that starts at the very path of this key, as `Computer.key` makes it."""
        return self._by_key.get(key)

    def _deepest(self, key: str) -> Route | None:
        while True:
            route = self._by_key.get(key)
            if route is not None:
                return route
            key, slash, _ = key.rpartition("/")
            if not slash:
                return None

    def translate(self, path: MachinePath) -> MachinePath | None:
        """Where ``path`` is on the new computer, or None when no route holds it. Names stay as they were written."""
        route = self.route_for(path)
        return None if route is None else route.apply(path)

    def __iter__(self) -> Iterator[Route]:
        return iter(self._by_key.values())

    def lines(self) -> set[tuple[MachinePath, MachinePath]]:
        """From where to where, without the reasons."""
        return {(route.old, route.new) for route in self}
