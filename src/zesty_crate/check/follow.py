"""Entries of a relinked catalog that its guide no longer selects, since a selector mentions what only old paths have.

While a catalog is exactly as relinking left it, that was proven: its entries are those of the original, with the new
paths. So they are taken from the survey, and their paths from the plan.
"""

from __future__ import annotations

from ..machines.texts import restored
from ..paths import MachinePath
from ..plan import Arrangement, Move
from ..survey import OF_DOCUMENT, Document, EntryRow, State, SurveyStore, bounds_of, entry_row

_COUNT = f"SELECT count(*) FROM entry WHERE {OF_DOCUMENT.format('key')}"
_ENTRIES = f"SELECT * FROM entry WHERE {OF_DOCUMENT.format('key')} ORDER BY rowid"
_ANNOTATIONS = f"SELECT entry, name, value FROM annotation WHERE {OF_DOCUMENT.format('entry')} ORDER BY rowid"
_BELONGING = f"""
SELECT b.entry, f.path FROM belongs AS b JOIN file AS f ON f.key = b.key WHERE {OF_DOCUMENT.format("b.entry")}
""".replace("holding =", "b.holding =")


def lacks_entries(document: Document, store: SurveyStore, move: Move) -> bool:
    """Whether fewer entries of a document were read than it had."""
    store.flush()
    return store.count(_COUNT, bounds_of(document)) < move.survey.count(_COUNT, bounds_of(document))


def follow_entries(document: Document, store: SurveyStore, move: Move, arrangement: Arrangement) -> None:
    """Take all entries of a document from the survey, as the plan moved them, in place of those that were read."""
    bounds, survey = bounds_of(document), move.survey.database
    for table, column in (("entry", "key"), ("annotation", "entry"), ("belongs", "entry")):
        store.database.execute(f"DELETE FROM {table} WHERE {OF_DOCUMENT.format(column)}", bounds)

    def place_of(path: str) -> MachinePath | None:
        return arrangement.routes.translate(move.old.parse(restored(path)))

    def moved(before: EntryRow) -> EntryRow:
        place = place_of(before.path) if before.path else None
        if place is None:
            state = before.state if before.state is State.REMOTE else State.MISSING
            return before._replace(path="", path_key="", state=state, why="", judged=True)
        path, key = str(place), move.new.key(place)
        return before._replace(recorded=path, path=path, path_key=key, state=State.FOUND, why="", judged=False)

    store.add_entries([moved(entry_row(row)) for row in survey.execute(_ENTRIES, bounds)])
    for entry, name, value in survey.execute(_ANNOTATIONS, bounds):
        store.add_annotations(document.holding, entry, [(name, value)])
    for entry, path in survey.execute(_BELONGING, bounds):
        if (place := place_of(path)) is not None:
            store.add_belonging(document.holding, entry, move.new.key(place))
