"""The page itself: one HTML file that needs no network and no script to be read."""

from __future__ import annotations

import base64
from collections import defaultdict
from importlib import resources

from ..crate import WHENS, readable_size
from ..survey import Problem, State
from .charts import flow_picture, holdings_chart, kinds_chart, states_chart
from .gather import Gathered
from .tables import Table, tables_of

STATES_IN_WORDS = {
    State.FOUND: "the file is where the entry says, and it is the one that was carried",
    State.CHANGED: "there is a file, with other content than was carried",
    State.MISSING: "there was a file on the old computer, and there is none now",
    State.MISSING_BEFORE: "there was none on the old computer either",
    State.REMOTE: "streamed; by design there is no file",
    State.OUTSIDE: "outside everything that the program calls its own",
    State.UNPLUGGED: "on a drive that is not here now",
    State.UNCLEAR: "more than one file could be meant, or it may not be looked at",
}
_WHENS_IN_WORDS = dict(zip(
    WHENS,
    ("before packing", "before unpacking", "after unpacking", "after the check", "before the old computer is wiped"),
    strict=True,
))  # fmt: skip


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
        programs=_programs(gathered),
        missing_before=_names(gathered, State.MISSING_BEFORE),
        unplugged=_names(gathered, State.UNPLUGGED),
        open_steps=[step for step in gathered.steps if not step.done],
        whens=_WHENS_IN_WORDS,
        states=[(state.value, said) for state, said in STATES_IN_WORDS.items()],
        charts={
            "holdings": holdings_chart(gathered),
            "states": states_chart(gathered),
            "kinds": kinds_chart(gathered),
            "flow": flow_picture(gathered),
        },
        pictures=[(each.name, base64.b64encode(each.png).decode()) for each in gathered.thumbnails],
        tables=_shown_tables(gathered),
    )
    return page.encode("utf-8", "replace").decode()


def _programs(gathered: Gathered) -> list[tuple[str, int, int, int]]:
    """Each program with its files, their size in bytes, and its catalog entries that find their media."""
    titles = {each.guide: each.title.partition(":")[0] for each in gathered.survey.holdings}
    sums: dict[str, list[int]] = defaultdict(lambda: [0, 0, 0])
    for each in gathered.check.report.holdings:
        for number, value in enumerate((each.carried.files, each.carried.size_bytes, each.totals["found"])):
            sums[each.guide][number] += value
    return [(titles[guide], files, size, found) for guide, (files, size, found) in sums.items() if files or found]


def _names(gathered: Gathered, state: State) -> list[str]:
    """What the entries of a state are called, as a customer knows them: the file's name."""
    return [_last_name(each) for each in gathered.check.report.problems if each.state is state]


def _last_name(problem: Problem) -> str:
    return problem.recorded.replace("\\", "/").rstrip("/").rpartition("/")[2].replace("%20", " ")


def _shown_tables(gathered: Gathered) -> list[Table]:
    return [table for table in tables_of(gathered) if table.rows]
