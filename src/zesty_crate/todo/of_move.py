"""Steps that follow from the move itself: from the state of the new computer, and from the last check there."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from ..check import CheckReport, Searched, last_check
from ..crate import RequestedStep
from ..guides import HoldingKind
from ..machines import Finder
from ..paths import RouteMap
from ..plan import (
    Choice,
    EntryFolders,
    Move,
    Placements,
    PlanFile,
    installer_content,
    load_plan,
    programs_of,
    read_plan,
    same_paths,
)

_SHOWN = 3


def steps_of_move(move: Move) -> Iterator[RequestedStep]:
    """What to install, start, register and decide on the new computer."""
    source = move.new.name
    for program in programs_of(move):
        for do in program.to_do:
            yield RequestedStep("before-unpack", program.guide, do, source)
    for each in installer_content(move):
        if each.lacking:
            names = ", ".join(each.lacking[:_SHOWN]) + (" and more" if len(each.lacking) > _SHOWN else "")
            do = (
                f"Install the missing files of {each.title} on {source}: {len(each.lacking)} of {each.files} ({names})."
            )
            yield RequestedStep("before-unpack", each.holding.partition("/")[0], do, source)
    check = last_check(move)
    if move.outside.disk.facts(move.plan_path) is not None:
        plan = read_plan(load_plan(move.plan_path, move.outside.disk), move.plan_title, move.old, move.new)
        yield from _same_paths(move, plan, source)
        yield from _beside(move, plan, source)
        if check is not None:
            yield from _links(move, plan, source)
    present = {row.id for row in move.survey.holdings() if row.present}
    for holding in move.holdings_there():
        if holding.part.warning and holding.id in present:
            yield RequestedStep("after-unpack", holding.guide.id, f"{holding.title}: {holding.part.warning}", source)
    if check is not None:
        yield from _of_check(check.report, source)


def _same_paths(move: Move, plan: PlanFile, source: str) -> Iterator[RequestedStep]:
    """What would make relinking unnecessary, where only a person can do it."""
    routes = RouteMap(plan.routes, move.old.rules_for)
    finder = Finder(move.new, move.outside.disk)
    for each in same_paths(EntryFolders(move.survey, move.old), move.old, finder, routes):
        if not each.option:
            yield RequestedStep("before-unpack", "drives", each.do, source)


def _links(move: Move, plan: PlanFile, source: str) -> Iterator[RequestedStep]:
    """Symbolic links that are not there, in folders that are: their volume knows none, or the user may make none."""
    finder = Finder(move.new, move.outside.disk)
    for each in Placements(move.survey, move.old, RouteMap(plan.routes, move.old.rules_for)).links():
        if each.new is None or finder.folder(each.new.parent).facts is None or finder.find(each.new).facts is not None:
            continue
        do = f"Make the link {each.new}, which leads to {each.leads_to}, or do without it: it is not there."
        yield RequestedStep("after-unpack", each.row.holding.partition("/")[0], do, source)


def _beside(move: Move, plan: PlanFile, source: str) -> Iterator[RequestedStep]:
    """Catalogs that were placed under another name, which their programs do not open by themselves."""
    kinds = {row.id: row.kind for row in move.survey.holdings()}
    documents = {each.path for each in move.survey.documents()}
    for each in plan.conflicts:
        is_catalog = kinds.get(each.holding) == HoldingKind.CATALOG and str(each.old) in documents
        if is_catalog and each.outcome is Choice.BOTH and each.beside is not None:
            do = (
                f"Open {each.beside} in its program, or bring it into the one there: the program goes on with "
                f"{each.new}, and shows nothing of the carried catalog."
            )
            yield RequestedStep("after-unpack", each.holding.partition("/")[0], do, source)
        if is_catalog and each.outcome is Choice.MERGE:
            do = (
                f"Open {each.new} in its program, and look at some of the entries that came from {move.old.name}. "
                f"After that, {each.old} is not needed there any more; the crate keeps it."
            )
            yield RequestedStep("after-check", each.holding.partition("/")[0], do, source)


def _of_residue(searched: Searched, old: str) -> str:
    places = list(dict.fromkeys(f"{each.at} ({each.field})" for each in searched.residue))
    more = f" and {len(places) - _SHOWN} more" if len(places) > _SHOWN else ""
    return (
        f"Look at what still names places of {old}, which relinking did not change: "
        f"{'; '.join(places[:_SHOWN])}{more}. Correct it in its program where the program needs it."
    )


def _of_check(report: CheckReport, source: str) -> Iterator[RequestedStep]:
    titles = {each.id: each.title for each in report.holdings}
    left = Counter(
        (each.holding, each.state) for each in report.problems if each.state.needs_attention and not each.chosen
    )
    for (holding, state), number in sorted(left.items()):
        do = f"{titles.get(holding, holding)}: {number:,} {state}. {state.remedy}"
        yield RequestedStep("after-check", holding.partition("/")[0], do, source)
    for document in report.unsettled:
        if document.needs_relinking:
            do = f"{document.title}: not relinked: {document.at}. {document.why}"
            yield RequestedStep("after-check", document.holding.partition("/")[0], do, source)
    for each in report.unregistered:
        do = f"Register {each.at}: it has no registration."
        yield RequestedStep("after-unpack", each.holding.partition("/")[0], do, source)
    for lost in report.without_content:
        if not lost.before:
            do = f"Install the content of {lost.entry}, or remove its registration: there is nothing at {lost.at}."
            yield RequestedStep("after-check", lost.holding.partition("/")[0], do, source)
    if report.searched is not None and report.searched.residue:
        yield RequestedStep("after-check", "residue", _of_residue(report.searched, report.from_computer), source)
    for mark in report.spot_checks:
        if not mark.is_good:
            yield RequestedStep(
                "after-check", "spot-check", f"Open {mark.at} yourself: {mark.verdict}, {mark.said}.", source
            )
