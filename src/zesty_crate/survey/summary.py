"""Sum a survey up for a person."""

from __future__ import annotations

from itertools import groupby
from typing import Any

from ..machines.texts import restored
from ..media import Opened
from .coverage import uncovered_in
from .lookalikes import Lookalike
from .model import (
    DocumentReport,
    DuplicateSet,
    HoldingReport,
    LeavingLink,
    ManualStep,
    NotLookedAt,
    ProgramReport,
    SpotCheck,
    SurveyReport,
    Unregistered,
    VolumeReport,
)
from .problems import Problems
from .states import State, Totals, no_totals
from .store import SurveyStore
from .uncovered_documents import UncoveredDocument

_COUNTS = """
SELECT holding, role, count(*), sum(size), sum(fault <> '') FROM file WHERE kind = 'file' OR fault <> ''
GROUP BY holding, role
"""
_DUPLICATES = """
SELECT d.grp, f.size, f.path FROM duplicate AS d JOIN file AS f ON f.id = d.file ORDER BY f.size DESC, d.grp, f.path
"""
_PROBLEMS = f"""
SELECT holding, key, state, recorded, why FROM entry
WHERE state NOT IN ('{State.FOUND}', '{State.REMOTE}', '{State.OUTSIDE}') ORDER BY rowid
"""


def summarize(store: SurveyStore) -> SurveyReport:
    """The report of a whole survey. Problems are the entries that are not found, in catalog order."""
    return SurveyReport(
        computer=store.about("computer"),
        system=store.about("system"),
        user=store.about("user"),
        home=store.about("home"),
        taken=store.about("taken"),
        volumes=tuple(VolumeReport(**_fields(each)) for each in store.about("volumes")),
        programs=tuple(ProgramReport(**each) for each in store.about("programs")),
        holdings=tuple(holding_reports(store)),
        problems=_problems(store),
        unregistered=unregistered_in(store),
        links=tuple(
            LeavingLink(holding, at, leads_to, carried=store.carried_as(key) is not None)
            for holding, at, leads_to, key in store.about("links")
        ),
        duplicates=_duplicates(store) if store.about("duplicates") else None,
        hard_links=store.about("hard-links") or 0,
        spot_checks=_spot_checks(store),
        manual_steps=tuple(ManualStep(**each) for each in store.about("manual-steps")),
        documents=tuple(
            DocumentReport(each.holding, each.path, each.verdict, each.unread, each.reasons, each.pointers, each.stale)
            for each in store.documents("1")
        ),
        uncovered=uncovered_in(store),
        uncovered_documents=tuple(UncoveredDocument(*each) for each in store.about("uncovered-documents") or ()),
        not_searched=store.about("not-searched") or 0,
        not_looked_into=tuple(store.about("mounts") or ()),
        system_folders=tuple(store.about("system-folders") or ()),
        warnings=tuple(store.about("warnings") or ()),
        lookalikes=tuple(Lookalike(**each) for each in store.about("lookalikes") or ()),
        not_looked_at=not_looked_at_in(store),
    )


def not_looked_at_in(store: SurveyStore) -> tuple[NotLookedAt, ...]:
    """What the computer may have or not, since it could not be looked at."""
    unseen, away = store.about("not-looked-at") or {}, store.about("not-connected") or {}
    holdings = (
        NotLookedAt(row.at, why, row.id, is_away=row.id in away)
        for row in store.holdings()
        if (why := unseen.get(row.id) or away.get(row.id))
    )
    folders = (NotLookedAt(at, why) for at, why in (store.about("denied") or {}).items())
    return (*holdings, *folders)


def holding_reports(store: SurveyStore) -> list[HoldingReport]:
    """Every holding with all that is counted of it."""
    database = store.database
    counts: dict[tuple[str, str], tuple[int, int, int]] = {
        (holding, role): (files, size, faults) for holding, role, files, size, faults in database.execute(_COUNTS)
    }
    documents = dict(
        database.execute("SELECT holding, count(*) FROM document WHERE verdict <> 'not-read' GROUP BY holding")
    )
    groups = dict(database.execute("SELECT holding, count(*) FROM grp GROUP BY holding"))
    annotations = dict(database.execute("SELECT holding, count(*) FROM annotation GROUP BY holding"))
    totals, unseen = _totals(store), {each.holding: each.why for each in not_looked_at_in(store)}
    reports = []
    for row in store.holdings():
        own, factory, outside, cache = (
            counts.get((row.id, role), (0, 0, 0)) for role in ("own", "factory", "outside", "cache")
        )
        reports.append(
            HoldingReport(
                *row,
                files=own[0] + cache[0],
                size_bytes=own[1] + cache[1],
                factory_files=factory[0],
                factory_bytes=factory[1],
                outside_files=outside[0],
                outside_bytes=outside[1],
                unreadable=own[2] + factory[2] + outside[2],
                documents=documents.get(row.id, 0),
                groups=groups.get(row.id, 0),
                annotations=annotations.get(row.id, 0),
                totals=totals[row.id],
                not_looked_at=unseen.get(row.id, ""),
            )
        )
    return reports


def unregistered_in(store: SurveyStore) -> tuple[Unregistered, ...]:
    """The content that no registration knows."""
    rows = store.database.execute("SELECT holding, path FROM unregistered ORDER BY 1, 2")
    return tuple(Unregistered(holding, restored(path)) for holding, path in rows)


def _totals(store: SurveyStore) -> dict[str, Totals]:
    totals = {row.id: no_totals() for row in store.holdings()}
    for holding, number in store.database.execute("SELECT holding, count(*) FROM entry GROUP BY holding"):
        totals[holding]["entries"] = totals[holding][State.FOUND] = number
    others = f"SELECT holding, state, count(*) FROM entry WHERE state <> '{State.FOUND}' GROUP BY holding, state"
    for holding, state, number in store.database.execute(others):  # few, and only they are sorted by their states
        totals[holding][state] = number
        totals[holding][State.FOUND] -= number
    return totals


def _problems(store: SurveyStore) -> Problems:
    rows = store.database.execute(_PROBLEMS)
    fields = ((holding, key, state, restored(recorded), why, False) for holding, key, state, recorded, why in rows)
    return Problems.of_fields(fields)


def _duplicates(store: SurveyStore) -> tuple[DuplicateSet, ...]:
    rows = store.database.execute(_DUPLICATES)
    sets = ((size, list(same)) for (_, size), same in groupby(rows, key=lambda row: row[:2]))
    return tuple(DuplicateSet(size, tuple(restored(path) for *_, path in same)) for size, same in sets)


def _spot_checks(store: SurveyStore) -> tuple[SpotCheck, ...]:
    rows = store.database.execute("SELECT * FROM spot_check ORDER BY named DESC, rowid")
    return tuple(
        SpotCheck(
            holding,
            entry,
            restored(path),
            bool(named),
            Opened(what, restored(fault), bool(slow), duration_s, (width, height) if width and height else None),
        )
        for holding, entry, path, named, what, fault, slow, duration_s, width, height in rows
    )


def _fields(table: dict[str, Any]) -> dict[str, Any]:
    return {name.replace("-", "_"): value for name, value in table.items()}
