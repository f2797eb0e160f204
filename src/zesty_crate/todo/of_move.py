"""Steps that follow from the move itself: from how the new computer stands, and from the last check there."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from ..check import CheckReport, last_check
from ..crate import Wanted
from ..plan import Move, programs_of, supplied_content
from ..survey import State

_SHOWN = 3


def steps_of_move(move: Move) -> Iterator[Wanted]:
    """What to install, start, register and decide on the new computer."""
    source = move.new.name
    for program in programs_of(move):
        for do in program.to_do:
            yield Wanted("before-unpack", program.guide, do, source)
    for each in supplied_content(move):
        if each.lacking:
            names = ", ".join(each.lacking[:_SHOWN]) + (" and more" if len(each.lacking) > _SHOWN else "")
            do = f"Install what {each.title} lacks on {source}: {len(each.lacking)} of {each.files} files ({names})."
            yield Wanted("before-unpack", each.holding.partition("/")[0], do, source)
    present = {row.id for row in move.survey.holdings() if row.present}
    for holding in move.holdings_there():
        if holding.part.warning and holding.id in present:
            yield Wanted("after-unpack", holding.guide.id, f"{holding.title}: {holding.part.warning}", source)
    check = last_check(move)
    if check is not None:
        yield from _of_check(check.report, source)


def _of_check(report: CheckReport, source: str) -> Iterator[Wanted]:
    titles = {each.id: each.title for each in report.holdings}
    left = Counter(
        (each.holding, each.state)
        for each in report.problems
        if each.state in (State.MISSING, State.UNCLEAR, State.CHANGED) and not each.chosen
    )
    for (holding, state), number in sorted(left.items()):
        do = f"{titles.get(holding, holding)}: {number:,} {state}. {_REMEDY[state]}"
        yield Wanted("after-check", holding.partition("/")[0], do, source)
    for each in report.unregistered:
        do = f"Register {each.at}: no registration knows it."
        yield Wanted("after-unpack", each.holding.partition("/")[0], do, source)
    for lost in report.without_content:
        if not lost.before:
            do = f"Install the content of {lost.entry}, or remove its registration: nothing is at {lost.at}."
            yield Wanted("after-check", lost.holding.partition("/")[0], do, source)
    for mark in report.landmarks:
        if not mark.is_good:
            yield Wanted("after-check", "landmark", f"Look at {mark.at} yourself: {mark.verdict}, {mark.said}.", source)


_REMEDY = {
    State.MISSING: "See why with zesty check; where files went elsewhere, decide with zesty relink --at … --decisions.",
    State.UNCLEAR: "See why with zesty check, and make it possible to tell.",
    State.CHANGED: "See with the customer which version counts; what was carried is in the crate.",
}
