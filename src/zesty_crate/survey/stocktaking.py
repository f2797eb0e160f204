"""Steps that taking stock of an old computer and checking a new one have in common."""

from __future__ import annotations

from contextlib import closing
from pathlib import Path

from ..catalogs import CatalogError, Reading, syntax_of
from ..guides import Holding, HoldingPart
from ..machines import Disk, DiskError, Seen
from ..progress import Progress, Tell
from .entries import EntryTaker
from .prefetch import Prefetch
from .rows import Document, HoldingRow
from .store import SurveyStore
from .verdicts import verdict_of
from .walk import Walk


def list_files(store: SurveyStore, walk: Walk, tell: Tell) -> None:
    """Write every file that a walk finds into a survey."""
    seen = 0
    for rows in walk.rows():
        store.add_files(rows)
        seen += len(rows)
        tell(Progress("looking at files", seen))


def note_not_looked_at(store: SurveyStore, walk: Walk) -> None:
    """Record what a walk could not look at: holdings and folders, each with the reason."""
    store.set_about("not-looked-at", walk.unseen)
    store.set_about("not-connected", walk.away)
    store.set_about("denied", walk.denied)


def holding_row(holding: Holding, *, present: bool) -> HoldingRow:
    """The row of a holding in a survey."""
    return HoldingRow(
        holding.id,
        holding.guide.id,
        holding.title,
        holding.kind,
        holding.part.media_class or "",
        holding.where,
        present=present,
        swept=bool(holding.part.sweep),
    )


def read_catalog(
    store: SurveyStore,
    taker: EntryTaker,
    prefetch: Prefetch,
    document: Document,
    holding: Holding,
    seen: Seen,
    real: Path,
    disk: Disk,
    scratch: Path,
) -> None:
    """Take the entries and groups of one catalog, unless another process has read it already.

    Its verdict is recorded. Raises `CatalogError` when it cannot be read.
    """
    reading = prefetch.take_over(taker, document, holding)
    if reading is None:
        try:
            with closing(syntax_of(holding.part).open(real, holding.part, seen.path, disk, scratch)) as catalog:
                reading = taker.take(document, holding, catalog)
        except DiskError as error:
            if error.path != str(real):
                raise
            raise CatalogError(error.message, next_step=error.next_step) from error
    note_reading(store, document, holding.part, reading)


def note_reading(store: SurveyStore, document: Document, part: HoldingPart, reading: Reading) -> None:
    """Record what became of a document's records."""
    store.set_verdict(document, verdict_of(reading, part), reading.unread, reading.reasons)
    store.set_besides(document, reading.pointers, reading.stale)


def index_entries(store: SurveyStore) -> None:
    """Make the indexes over entries and what belongs to them, once all are written."""
    for index in ("entry_by_key", "annotation_by_entry", "member_by_group", "belongs_by_entry"):
        store.index(index)
