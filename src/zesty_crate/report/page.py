"""The page itself: one HTML file that needs no network and no script to be read."""

from __future__ import annotations

import base64
from collections.abc import Iterator, Mapping, Sequence
from importlib import resources
from itertools import islice
from typing import NamedTuple

from ..check import CheckedHolding
from ..crate import WHENS, readable_size
from ..plan import Choice, PlannedConflict
from ..survey import Problem, State
from .charts import flow_picture, holdings_chart, kinds_chart, states_chart
from .gather import Gathered
from .tables import Row, tables_of

_WHENS_IN_WORDS = dict(
    zip(
        WHENS,
        (
            "before packing",
            "before unpacking",
            "after unpacking",
            "after the check",
            "before the old computer is wiped",
        ),
        strict=True,
    )
)


def as_page(gathered: Gathered) -> str:
    """The whole page."""
    from jinja2 import Environment, StrictUndefined

    text = resources.files(__package__).joinpath("page.html.j2").read_text(encoding="utf-8")
    environment = Environment(autoescape=True, trim_blocks=True, lstrip_blocks=True, undefined=StrictUndefined)
    environment.filters["size"] = readable_size
    environment.filters["number"] = lambda number: f"{number:,}"
    environment.filters["moment"] = lambda text: text[:16].replace("T", " ")
    page = environment.from_string(text).render(
        data=gathered,
        report=gathered.check.report,
        totals=gathered.check.report.totals,
        programs=list(_programs(gathered)),
        organised=all(each.is_equal for each in gathered.check.report.organisation),
        decisions=list(_decisions(gathered)),
        missing_before=_names(gathered, State.MISSING_BEFORE),
        unplugged=_names(gathered, State.UNPLUGGED),
        open_steps=[step for step in gathered.steps if not step.done and step.who == "customer"],
        open_for_technician=sum(not step.done and step.who != "customer" for step in gathered.steps),
        whens=_WHENS_IN_WORDS,
        states=[(state.value, state.when) for state in State],
        charts={
            "holdings": holdings_chart(gathered),
            "states": states_chart(gathered),
            "kinds": kinds_chart(gathered),
            "flow": flow_picture(gathered),
        },
        pictures=[(each.name, base64.b64encode(each.png).decode()) for each in gathered.thumbnails],
        tables=list(_shown_tables(gathered)),
        names_shown=_NAMES_SHOWN,
    )
    return page.encode("utf-8", "replace").decode()


class MovedProgram(NamedTuple):
    """What moved of one program: its things by name, their files and bytes, and its entries that find their media."""

    title: str
    things: str
    files: int
    size_bytes: int
    found: int


def _programs(gathered: Gathered) -> Iterator[MovedProgram]:
    titles = {each.guide: each.title.partition(":")[0] for each in gathered.survey.holdings}
    holdings: dict[str, list[CheckedHolding]] = {}
    for each in gathered.check.report.holdings:
        holdings.setdefault(each.guide, []).append(each)
    for guide, mine in holdings.items():
        files, size, found = (
            sum(each.carried.files for each in mine),
            sum(each.carried.size_bytes for each in mine),
            sum(each.totals["found"] for each in mine),
        )
        if files or found:
            yield MovedProgram(titles[guide], "; ".join(_things(mine, gathered)), files, size, found)


def _things(holdings: Sequence[CheckedHolding], gathered: Gathered) -> Iterator[str]:
    """What the holdings of a program are, as their owner knows them; formats without own places by their documents."""
    for each in holdings:
        names = gathered.documents.get(each.id, ())
        more = f" and {len(names) - _MOST_NAMED:,} more" if len(names) > _MOST_NAMED else ""
        own = each.title.partition(": ")[2]
        if own and (each.carried.files or each.totals["found"]):
            yield own
        elif not own and names:
            yield ", ".join(names[:_MOST_NAMED]) + more


def _decisions(gathered: Gathered) -> Iterator[str]:
    """What was decided where both computers had a file, and what that means for the customer."""
    old, new = gathered.survey.computer, gathered.new_computer
    titles = {each.id: each.title for each in gathered.survey.holdings}
    catalogs = {each.id for each in gathered.survey.holdings if each.kind == "catalog"}
    said = {
        Choice.KEEP: f"the file that was on {new} already is still there; the one of {old} is in the copy we made",
        Choice.MERGE: f"what {old} and {new} each had is in one now; nothing of either was lost",
        Choice.BRING_IN: f"the file of {old} is on {new} now; the one that was there is kept aside and can come back",
    }
    for each in gathered.plan.conflicts:
        if each.outcome is Choice.BOTH and each.beside is not None:
            both = f"both are there; the one of {old} is named {each.beside.name}"
            opened = (
                each.holding in catalogs
                and f", and the program does not open it by itself: it goes on with {each.new.name}"
            )
            yield f"{_named(each, titles)}: {both}{opened or ''}"
        elif each.outcome in said:
            yield f"{_named(each, titles)}: {said[each.outcome]}"


def _named(conflict: PlannedConflict, titles: Mapping[str, str]) -> str:
    return f"{titles.get(conflict.holding, conflict.holding)}, {conflict.new.name}"


_MOST_NAMED = 6
_NAMES_SHOWN = 30
_ROWS_SHOWN = 5_000


def _names(gathered: Gathered, state: State) -> list[str]:
    """What the first entries of a state are called, as a customer knows them: the file's name.

    One more than is shown tells that there are more.
    """
    some = (_last_name(each) for each in gathered.check.report.problems if each.state is state)
    return list(islice(some, _NAMES_SHOWN + 1))


def _last_name(problem: Problem) -> str:
    return problem.recorded.replace("\\", "/").rstrip("/").rpartition("/")[2].replace("%20", " ")


class ShownTable(NamedTuple):
    """A table of the page: its first rows, and how many there are. More than these no browser scrolls through."""

    name: str
    title: str
    columns: tuple[str, ...]
    rows: list[Row]
    number: int


def _shown_tables(gathered: Gathered) -> Iterator[ShownTable]:
    for table in tables_of(gathered):
        if table.rows:
            first = list(islice(table.rows, _ROWS_SHOWN))
            yield ShownTable(table.name, table.title, table.columns, first, len(table.rows))
