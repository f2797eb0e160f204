"""Holdings compared: how much of each was on the old computer, was carried, and is on the new one."""

from __future__ import annotations

from collections.abc import Mapping

from ..guides import Holding
from ..survey import (
    OF_DOCUMENT,
    Document,
    HoldingReport,
    SurveyReport,
    SurveyStore,
    Totals,
    bounds_of,
    holding_reports,
    no_totals,
    summed,
)
from .model import CheckedHolding, Figures

# The keys of one document's things, by the index: ``:`` ends its prefix, and ``;`` comes right after that.
_CARRIED = "SELECT holding, count(*), sum(size) FROM expected WHERE role = 'own' AND kind = 'file' GROUP BY holding"
_FOUND = """
SELECT holding, count(*), sum(size) FROM expected WHERE role = 'own' AND kind = 'file' AND state = 'found'
GROUP BY holding
"""


def checked_holdings(
    before: SurveyReport, here: Mapping[str, Holding], store: SurveyStore
) -> tuple[CheckedHolding, ...]:
    """Every holding that is looked at on the new computer, its three sides counted."""
    now = {each.id: each for each in holding_reports(store)}
    carried = {holding: (files, size) for holding, files, size in store.database.execute(_CARRIED)}
    lost = _totals_of_lost(store)
    found = {holding: (files, size) for holding, files, size in store.database.execute(_FOUND)}
    return tuple(
        CheckedHolding(
            id=old.id,
            guide=old.guide,
            kind=old.kind,
            title=old.title,
            at=old.at if here[old.id].has_several else str(here[old.id].at),
            totals=summed([now[old.id].totals if old.id in now else no_totals(), lost.get(old.id, no_totals())]),
            before=old.totals,
            old=_figures(old),
            carried=_carried(store, old, *carried.get(old.id, (0, 0))),
            new=_figures(now[old.id], found.get(old.id, (0, 0))) if old.id in now else Figures(),
            files_found=found.get(old.id, (0, 0))[0],
        )
        for old in before.holdings
        if old.present and not old.is_left and old.id in here
    )


def _totals_of_lost(store: SurveyStore) -> dict[str, Totals]:
    """The entries that catalogs have no more, by holding: no side's, and yet to be answered for."""
    totals: dict[str, Totals] = {}
    for holding, state, number in store.database.execute("SELECT holding, state, count(*) FROM lost GROUP BY 1, 2"):
        mine = totals.setdefault(holding, no_totals())
        mine[state] += number
        mine["entries"] += number
    return totals


def _figures(report: HoldingReport, found: tuple[int, int] | None = None) -> Figures:
    """One side; of what is swept for, the files that were ``found``, since nothing is swept for again."""
    files, size_bytes = found if found and report.swept else (report.files, report.size_bytes)
    return Figures(files, size_bytes, report.totals["entries"], report.groups, report.annotations)


def _carried(store: SurveyStore, old: HoldingReport, files: int, size_bytes: int) -> Figures:
    """What went along; of catalogs, what those hold that were carried, or are kept in the registry."""
    query = """SELECT d.id, d.prefix FROM old.document AS d WHERE d.holding = ? AND d.verdict <> 'not-read'
               AND (d.registry OR EXISTS (SELECT 1 FROM expected AS x WHERE x.old = d.path))"""
    documents = [Document(number, old.id, "", prefix) for number, prefix in store.database.execute(query, (old.id,))]
    counts = [
        sum(
            store.count(f"SELECT count(*) FROM old.{table} WHERE {OF_DOCUMENT.format(column)}", bounds_of(document))
            for document in documents
        )
        for table, column in (("entry", "key"), ("grp", "key"), ("annotation", "entry"))
    ]
    return Figures(files, size_bytes, *counts)
