"""The plan as a file: routes and blockers in TOML, for a person to read and edit."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import tomlkit
from pydantic import Field

from ..documents import DocumentError, KeyLines, Part, parse_document
from ..errors import ZestyError
from ..machines import Computer, Disk
from ..paths import PathError, Route

FORMAT = 1
_HEADER = """\
 What goes where. A route says: what lies under "old" on the old computer is to lie under "new" on the new one;
 of several that fit, the one with the deepest "old" counts. Edit the routes as you like and run "zesty plan" again:
 routes that stand here are kept. Blockers are looked for afresh each time; editing them changes nothing.
"""


class PlanHead(Part):
    """``[plan]``"""

    format: int
    crate: str
    from_computer: str = Field(alias="from")
    to_computer: str = Field(alias="to")
    made: str


class RoutePart(Part):
    """``[[route]]``"""

    old: str
    new: str
    why: str = ""
    files: int = 0


class BlockerPart(Part):
    """``[[blocker]]``, written for people and never read back into anything."""

    concerns: str
    what: str
    clear: str


class PlanPart(Part):
    """A whole plan file."""

    plan: PlanHead
    route: tuple[RoutePart, ...] = ()
    blocker: tuple[BlockerPart, ...] = ()


@dataclass(frozen=True, slots=True)
class Blocker:
    """A reason why a part of the plan may not run, and what clears it. ``places`` are all the places concerned.

    With a ``guide`` it stops the part of that program alone.
    """

    concerns: str
    what: str
    clear: str
    places: tuple[str, ...] = ()
    guide: str = ""


@dataclass(frozen=True, slots=True)
class PlannedRoute:
    """A route with the number of carried files that go by it."""

    route: Route
    files: int


def plan_text(head: dict[str, object], routes: Sequence[PlannedRoute], blockers: Sequence[Blocker]) -> str:
    """The plan file's text."""
    document = tomlkit.document()
    for line in _HEADER.splitlines():
        document.add(tomlkit.comment(line.strip()))
    document.add(tomlkit.nl())
    document["plan"] = head
    document["route"] = _tables(
        [
            {"old": str(each.route.old), "new": str(each.route.new), "why": each.route.why, "files": each.files}
            for each in routes
        ]
    )
    if blockers:
        document["blocker"] = _tables(
            [{"concerns": each.concerns, "what": each.what, "clear": each.clear} for each in blockers]
        )
    return tomlkit.dumps(document)


def read_routes(text: str, title: str, old: Computer, new: Computer) -> list[Route]:
    """The routes of a plan file. Raises `DocumentError` that names the lines of all routes that are no paths."""
    part = parse_document(text, PlanPart, title)
    lines = KeyLines(text)
    routes, faults = [], []
    for number, each in enumerate(part.route):
        try:
            routes.append(Route(old.parse(each.old), new.parse(each.new), each.why))
        except PathError as error:
            faults.append(f"line {lines.line_of(('route', number))}: {error.message}")
    if faults:
        raise DocumentError(f"{title} has routes that cannot be used.", details=faults, next_step="Correct them.")
    return routes


def load_plan(path: Path, disk: Disk) -> str:
    """The text of a plan file. Raises `ZestyError` when there is none."""
    if disk.facts(path) is None:
        raise ZestyError(f"There is no plan at {path}.", next_step="Run zesty plan first, and read what it says.")
    return disk.read_text(path)


def _tables(rows: Sequence[dict[str, object]]) -> tomlkit.items.AoT:
    array = tomlkit.aot()
    for row in rows:
        table = tomlkit.table()
        for key, value in row.items():
            table.add(key, _literal(value) if isinstance(value, str) else value)
        array.append(table)
    return array


def _literal(text: str) -> tomlkit.items.String:
    """Backslashes read better in single quotes, wherever TOML can write a text so."""
    plain = "'" not in text and text.isprintable()
    return tomlkit.string(text, literal="\\" in text and plain)
