"""Two surveys at once: one beside another, for queries over both."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from .store import SurveyStore, read_only


def attach(store: SurveyStore, path: Path, name: str) -> None:
    """Have the survey at ``path`` at hand in ``store`` as ``name``, for queries only, until that is closed."""
    _between_transactions(store, "ATTACH ? AS " + name, (read_only(path),))


@contextmanager
def attached(store: SurveyStore, path: Path, name: str) -> Iterator[None]:
    """The same for a while."""
    attach(store, path, name)
    try:
        yield
    finally:
        _between_transactions(store, "DETACH " + name, ())


def _between_transactions(store: SurveyStore, statement: str, bindings: tuple[str, ...]) -> None:
    store.flush()
    if store.database.in_transaction:
        store.database.execute("COMMIT")
    store.database.execute(statement, bindings)
    store.database.execute("BEGIN")
