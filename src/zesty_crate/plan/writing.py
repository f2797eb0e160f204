"""The plan's text, line by line: readable first, and everything in it can be read back."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from ..documents import Line, table_text
from ..paths import Route
from .conflicts import Conflict
from .decisions import Choice, Decision
from .document import Blocker, PlannedRoute, ValueChoice, as_option
from .registry_conflicts import RegistryConflict

_HEADER = """\
# What goes where. Each route maps a folder "old" of the old computer to a folder "new" of the new one; where several
# fit, the one with the deepest "old" counts. You may edit and add routes; then run "zesty plan" again. A route that
# differs from its "proposed", or has none, is yours: it stays, and counts for all below it. Other routes are proposed
# anew each time. Blockers are found anew, so editing them changes nothing.
"""
_RENAMES = """\
# Names that are not possible on the new computer. You may edit "new"; then run "zesty plan" again.
"""
_DECISIONS = """\
# Decisions about conflicts: on = "all", a program, a holding, or one path of the new computer.
"""
_CONFLICTS = f"""\
# Conflicts: another file is already in the place of a carried one. Write one of {", ".join(Choice)} into "choose", or
# decide about many with "zesty plan --decide"; then run "zesty plan" again. Undo restores replaced files,
# which are kept aside.
"""

_VALUES = """\
# Registry values that differ on the new computer. Write keep or bring-in into "choose"; then run "zesty plan" again.
"""


_MERGED = """\
# What was chosen for single values that two merged catalogs have differently.
"""


def plan_text(
    head: Sequence[Line],
    routes: Sequence[PlannedRoute],
    renames: Sequence[Route],
    decisions: Sequence[Decision],
    conflicts: Sequence[Conflict],
    values: Sequence[RegistryConflict],
    merged: Sequence[ValueChoice],
    blockers: Sequence[Blocker],
) -> str:
    """The text of a plan file."""
    tables: tuple[tuple[str, str, Iterable[Sequence[Line]]], ...] = (
        ("route", "", ([*_ends(each.route), Line("files", each.files)] for each in routes)),
        ("rename", _RENAMES, (_ends(each) for each in renames)),
        ("decision", _DECISIONS, ([Line("on", each.on), Line("choose", each.choice)] for each in decisions)),
        ("conflict", _CONFLICTS, (_conflict(each) for each in conflicts)),
        ("registry-conflict", _VALUES, (_value(each) for each in values)),
        ("merged-value", _MERGED, (_merged(each) for each in merged)),
        ("blocker", "", (_blocker(each) for each in blockers)),
    )
    texts = [_HEADER, table_text("plan", head)]
    for name, comment, rows in tables:
        for number, row in enumerate(rows):
            texts += [comment] if comment and number == 0 else []
            texts.append(table_text(name, row, is_item=True))
    return "\n".join(texts)


def _ends(route: Route) -> list[Line]:
    lines = [Line("old", str(route.old)), Line("new", str(route.new)), Line("why", route.why)]
    return lines if route.manual else [*lines, Line("proposed", as_option(route.old, route.new))]


def _conflict(each: Conflict) -> list[Line]:
    rows = [
        Line("holding", each.holding),
        Line("old", each.old),
        Line("new", each.new),
        Line("carried-bytes", each.carried.size_bytes),
        Line("carried-date", each.carried.date),
        Line("there-bytes", each.there.size_bytes),
        Line("there-date", each.there.date),
        Line("choose", each.asked or ""),
        Line("comes-to", each.outcome or ""),
    ]
    more = (Line("beside", each.beside), Line("why", each.why), Line("warning", each.warning))
    return rows + [line for line in more if line.value]


def _value(each: RegistryConflict) -> list[Line]:
    rows = [Line("holding", each.holding), Line("value", each.value)]
    rows += [Line("carried", each.carried), Line("there", each.there)]
    rows += [Line("choose", each.asked or ""), Line("comes-to", each.outcome or "")]
    return rows + ([Line("why", each.why)] if each.why else [])


def _merged(each: ValueChoice) -> list[Line]:
    of = [Line("catalog", each.catalog), Line("entry", each.entry)]
    return [*of, Line("field", each.field), Line("choose", each.choice)]


def _blocker(each: Blocker) -> list[Line]:
    return [Line("concerns", each.concerns), Line("what", each.what), Line("clear", each.clear)]
