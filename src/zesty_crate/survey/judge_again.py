"""Read the catalogs of a survey again by corrected guides, and judge their entries by what the survey remembers."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from contextlib import closing
from pathlib import Path

from ..catalogs import CatalogError, syntax_of
from ..guides import Holding
from ..machines import Computer, Disk, Seen, Sight
from ..progress import Tell
from .bases import based, bases_of
from .documents import FoundDocument
from .doubts import settle_verdicts
from .entries import EntryTaker
from .judge import Judge
from .rows import Document
from .states import State
from .stocktaking import note_reading
from .store import SurveyStore
from .surveyed_computer import RememberedFinder, as_surveyed
from .verdicts import Verdict

ContentOf = Callable[[str, str], Path | None]  # where a document of a holding is now, by its path


def judge_again(
    store: SurveyStore,
    old: Computer,
    holdings: Sequence[Holding],
    corrected: Mapping[str, Holding],
    content_of: ContentOf,
    disk: Disk,
    scratch: Path,
    tell: Tell,
) -> None:
    """Take the entries of the ``corrected`` holdings anew; ``holdings`` are all of them as they are now.

    Documents keep their numbers; those of a holding that had no entries before are added.
    """
    computer = as_surveyed(old)
    finder = RememberedFinder(store, computer, holdings)
    present = {row.id for row in store.holdings() if row.present}
    documents = _documents(store, corrected, present, computer)
    found = [_found(each, corrected[each.holding], computer, content_of) for each in documents]
    bases, baseless = bases_of(holdings, found, computer, disk, scratch)
    store.set_about("bases", {**store.bases(), **bases})
    know = {each.id: each for each in based(corrected.values(), bases, computer)}
    _forget(store, corrected, documents)
    judge = Judge(computer, finder, [each for each in holdings if each.id in present], State.MISSING_BEFORE)
    taker = EntryTaker(store, computer, finder, judge, disk, tell)
    for document, each in zip(documents, found, strict=True):
        try:
            if document.holding in baseless:
                raise baseless[document.holding]
            _take(store, taker, document, know[document.holding], each.seen, disk, scratch)
        except CatalogError as error:
            store.set_not_read(document, error.message)
    store.database.execute("DELETE FROM unnamed")
    taker.judge()
    settle_verdicts(store)


def _documents(
    store: SurveyStore, corrected: Mapping[str, Holding], present: set[str], computer: Computer
) -> list[Document]:
    """The documents of these holdings, in the order of their numbers, with those that were none before."""
    known = [each for each in store.documents("1") if each.holding in corrected]
    had = {each.holding for each in known}
    for each in corrected.values():
        if each.id in present and each.id not in had and each.part.entries:
            for row in list(store.files("holding = ? AND kind = 'file' AND role = 'own'", (each.id,))):
                is_it = each.has_several or (each.at is not None and row.key == computer.key(each.at))
                if is_it:
                    known.append(store.add_document(each.id, row.path, several=each.has_several, registry=False))
    return known


def _found(document: Document, holding: Holding, computer: Computer, content_of: ContentOf) -> FoundDocument:
    """A document as a finder would see it, where its content is now."""
    in_registry = bool(holding.part.branch)
    at = computer.place("home").below("registry.reg") if in_registry else computer.parse(document.path)
    real = content_of(document.holding, document.path)
    seen = Seen(Sight.THERE if real else Sight.ABSENT, at, real, None, is_anchor=True)
    return FoundDocument(holding, seen, in_registry)


def _forget(store: SurveyStore, corrected: Mapping[str, Holding], documents: Sequence[Document]) -> None:
    """What was read of these holdings; what was judged of all others stays as it is."""
    run = store.database.execute
    for holding in corrected:
        for table in ("entry", "annotation", "grp", "member", "belongs"):
            run(f"DELETE FROM {table} WHERE holding = ?", (holding,))
    run("UPDATE entry SET judged = 1")
    for each in documents:
        store.set_verdict(each, Verdict.READ, 0, [])


def _take(
    store: SurveyStore,
    taker: EntryTaker,
    document: Document,
    holding: Holding,
    seen: Seen,
    disk: Disk,
    scratch: Path,
) -> None:
    if seen.real is None:
        raise CatalogError("It was not carried, so it cannot be read again.")
    with closing(syntax_of(holding.part).open(seen.real, holding.part, seen.path, disk, scratch)) as catalog:
        note_reading(store, document, holding.part, taker.take(document, holding, catalog))
