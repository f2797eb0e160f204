"""Documents that were read though their guide can hardly be right: what their entries say contradicts the computer."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import islice

from ..machines.texts import restored
from .rows import OF_DOCUMENT, Document, bounds_of
from .states import State
from .store import SurveyStore
from .verdicts import Verdict

_FEW = 2  # entries, of which no judgement is possible
_SAMPLE = 1_000
_GONE = f"state IN ('{State.MISSING}', '{State.MISSING_BEFORE}')"
_OF_DOCUMENT = OF_DOCUMENT.format("key")
_OTHERS_SELECT = f"""
UPDATE document SET verdict = '{Verdict.READ}' WHERE verdict = '{Verdict.NOTHING_SELECTED}' AND prefix <> ''
AND EXISTS (SELECT 1 FROM entry WHERE entry.holding = document.holding)
"""
_TWICE = f"""
SELECT key, count(*) FROM entry INDEXED BY entry_by_key WHERE {_OF_DOCUMENT}
GROUP BY key HAVING count(*) > 1 LIMIT 1
"""


def settle_verdicts(store: SurveyStore) -> None:
    """Complete the verdicts, once all entries are judged and indexed.

    Of many documents of one holding some may have no entries when others have. A document that was read is doubtful
    when several entries have one key, or when most find no file though files of their names are there.
    """
    store.database.execute(_OTHERS_SELECT)
    names: set[str] | None = None
    for document in store.documents(f"verdict = '{Verdict.READ}'"):
        bounds = bounds_of(document)
        if twice := _twice(store, document):
            store.set_verdict(document, Verdict.DOUBTFUL, 0, [twice])
            continue
        gone = store.count(f"SELECT count(*) FROM entry WHERE {_OF_DOCUMENT} AND {_GONE}", bounds)
        local = store.count(f"SELECT count(*) FROM entry WHERE {_OF_DOCUMENT} AND state <> '{State.REMOTE}'", bounds)
        if gone < _FEW or gone * 2 <= local:
            continue
        names = names if names is not None else set(_names(store, "file", "kind = 'file'", ()))
        looked = list(islice(_names(store, "entry", f"{_OF_DOCUMENT} AND {_GONE}", bounds), _SAMPLE))
        elsewhere = [name for name in looked if name in names]
        if len(elsewhere) * 2 > len(looked):
            why = (
                f"{gone:,} of {local:,} entries find no file, though files of these names are on the computer, "
                f"for example {elsewhere[0]}"
            )
            store.set_verdict(document, Verdict.DOUBTFUL, 0, [why])


def _twice(store: SurveyStore, document: Document) -> str:
    """Which key several entries of a document have; empty when each has its own."""
    for key, number in store.database.execute(_TWICE, bounds_of(document)):
        return f"{number:,} entries have the same key {key.removeprefix(document.prefix)!r}"
    return ""


def _names(store: SurveyStore, table: str, condition: str, bounds: tuple[str, ...]) -> Iterator[str]:
    """The last names of paths, in one case."""
    column = "path" if table == "file" else "CASE WHEN path <> '' THEN path ELSE recorded END"
    for (path,) in store.database.execute(f"SELECT {column} FROM {table} WHERE {condition}", bounds):
        yield restored(path).replace("\\", "/").rpartition("/")[2].casefold()
