"""The plan's text, line by line: readable first, and everything in it can be read back."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Iterator, Mapping, Sequence

import tomlkit

from ..paths import Route
from .conflicts import Conflict
from .decisions import Choice, Decision
from .document import Blocker, PlannedRoute

_HEADER = """\
# What goes where. A route says: what lies under "old" on the old computer is to lie under "new" on the new one;
# of several that fit, the one with the deepest "old" counts. Edit the routes as you like and run "zesty plan" again:
# routes that stand here are kept. Blockers are looked for afresh each time; editing them changes nothing.
"""
_RENAMES = """
# Names that the new computer cannot hold as they are. Edit "new" if you like other names, and run "zesty plan" again.
"""
_DECISIONS = """
# Where something else is in a carried file's place: on = "all", a program, a holding, or one path of the new computer.
"""
_CONFLICTS = f"""
# Something else is in the place of these. Put one of {", ".join(Choice)} in "choose", or make one decision on many
# with "zesty plan --decide"; then run "zesty plan" again. What is replaced is kept aside, and comes back with undo.
"""
_BLOCKERS = "\n"

Row = Mapping[str, object]


def plan_text(
    head: Row,
    routes: Sequence[PlannedRoute],
    renames: Sequence[Route],
    decisions: Sequence[Decision],
    conflicts: Sequence[Conflict],
    blockers: Sequence[Blocker],
) -> str:
    """The plan file's text."""
    tables: tuple[tuple[str, str, Iterable[Row]], ...] = (
        ("route", "", ({**_ends(each.route), "files": each.files} for each in routes)),
        ("rename", _RENAMES, (_ends(each) for each in renames)),
        ("decision", _DECISIONS, ({"on": each.on, "choose": each.choice} for each in decisions)),
        ("conflict", _CONFLICTS, (_conflict(each) for each in conflicts)),
        ("blocker", _BLOCKERS, ({"concerns": b.concerns, "what": b.what, "clear": b.clear} for b in blockers)),
    )
    lines = [_HEADER + "\n[plan]", *_pairs(head)]
    for name, comment, rows in tables:
        for number, row in enumerate(rows):
            lines += [comment * (number == 0) + f"\n[[{name}]]", *_pairs(row)]
    return "\n".join(lines) + "\n"


def _ends(route: Route) -> dict[str, object]:
    return {"old": str(route.old), "new": str(route.new), "why": route.why}


def _conflict(each: Conflict) -> dict[str, object]:
    row: dict[str, object] = {
        "holding": each.holding,
        "old": each.old,
        "new": each.new,
        "carried-bytes": each.carried.size_bytes,
        "carried-date": each.carried.date,
        "there-bytes": each.there.size_bytes,
        "there-date": each.there.date,
        "choose": each.asked or "",
        "comes-to": each.outcome or "",
    }
    more = {"beside": each.beside, "why": each.why, "warning": each.warning}
    return {**row, **{name: value for name, value in more.items() if value}}


def _pairs(row: Row) -> Iterator[str]:
    for key, value in row.items():
        yield f"{key} = {_written(value)}"


def _written(value: object) -> str:
    if isinstance(value, dt.datetime):
        return value.isoformat()
    return _text(value) if isinstance(value, str) else str(value)


def _text(text: str) -> str:
    """Backslashes read better in single quotes, wherever TOML can write a text so."""
    plain = "'" not in text and text.isprintable()
    return tomlkit.string(str(text), literal="\\" in text and plain).as_string()
