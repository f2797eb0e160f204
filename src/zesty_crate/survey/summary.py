"""Sum a survey up for a person."""

from __future__ import annotations

from .model import HoldingReport, Problem, State, SurveyReport, no_totals
from .store import SurveyStore

_COUNTS = """
SELECT holding, role, count(*), sum(size), sum(fault <> '') FROM file WHERE kind = 'file' OR fault <> ''
GROUP BY holding, role
"""


def summarize(store: SurveyStore) -> SurveyReport:
    """The report of a whole survey. Problems are the entries that are not found, in catalog order."""
    database = store.database
    counts: dict[tuple[str, str], tuple[int, int, int]] = {
        (holding, role): (files, size, faults) for holding, role, files, size, faults in database.execute(_COUNTS)
    }
    documents = dict(database.execute("SELECT holding, count(*) FROM document WHERE fault = '' GROUP BY holding"))
    groups = dict(database.execute("SELECT holding, count(*) FROM grp GROUP BY holding"))
    totals = {row[0]: no_totals() for row in database.execute("SELECT id FROM holding")}
    for holding, state, number in database.execute(
        "SELECT holding, state, count(*) FROM entry GROUP BY holding, state"
    ):
        totals[holding][state] = number
        totals[holding]["entries"] += number
    holdings = []
    for name, guide, title, kind, at, present, swept in database.execute("SELECT * FROM holding ORDER BY rowid"):
        own, factory, outside = (counts.get((name, role), (0, 0, 0)) for role in ("own", "factory", "outside"))
        if kind == "cache":
            own = counts.get((name, "cache"), (0, 0, 0))
        unreadable = own[2] + factory[2] + outside[2]
        holdings.append(
            HoldingReport(
                name, guide, title, kind, at, bool(present), bool(swept), own[0], own[1], factory[0], factory[1],
                outside[0], outside[1], unreadable, documents.get(name, 0), groups.get(name, 0), totals[name],
            )
        )  # fmt: skip
    return SurveyReport(
        computer=store.about("computer"),
        system=store.about("system"),
        user=store.about("user"),
        taken=store.about("taken"),
        unplugged=tuple(_named(volume) for volume in store.about("volumes") if not volume["here"]),
        holdings=tuple(holdings),
        problems=tuple(
            Problem(row.holding, row.key, row.state, row.recorded, row.why)
            for row in store.entries(f"state NOT IN ('{State.FOUND}', '{State.REMOTE}')")
        ),
        unread=tuple(document.fault for document in store.documents("fault <> ''")),
        warnings=tuple(store.about("warnings") or ()),
    )


def _named(volume: dict[str, str]) -> str:
    return f"{volume['anchor']} ({volume['label']})" if volume["label"] else volume["anchor"]
