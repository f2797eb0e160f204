"""Try a guide on one computer, with no crate: what it finds, document by document and entry by entry."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from ..check import survey_aside
from ..guides import Guide, places_on
from ..machines import Computer, DiskError, Finder, Outside, Sheet, computer_of
from ..machines.texts import restored
from ..paths import MachinePath
from ..progress import Tell, silent
from ..survey import (
    OF_DOCUMENT,
    Document,
    HoldingReport,
    State,
    SurveyReport,
    SurveyStore,
    Totals,
    Verdict,
    bounds_of,
    details_of,
    no_totals,
    summarize,
)

_EXAMPLES = 4  # of each state, of each document
_MOST_NEARBY, _MOST_LOOKED_AT = 40, 5_000


@dataclass(frozen=True, slots=True)
class TriedEntry:
    """An entry as it is recorded, and the file that it means; empty where it means none."""

    recorded: str
    means: str
    state: State
    why: str


@dataclass(frozen=True, slots=True)
class TriedDocument:
    """A document, how far it was read, and some of its entries in each state; ``totals`` count all of them."""

    at: str
    verdict: Verdict
    reasons: tuple[str, ...]
    totals: Totals
    examples: tuple[TriedEntry, ...]
    same_keys: int = 0  # entries that have a key in common with another one
    stale: int = 0  # entries with a copy of their path that was not made of it as the guide says
    pointers: int = 0  # entries with something that only their program can follow


@dataclass(frozen=True, slots=True)
class TriedHolding:
    """What was found of one holding. Sizes are in bytes."""

    report: HoldingReport
    documents: tuple[TriedDocument, ...]
    annotations: tuple[tuple[str, int], ...]
    groups: tuple[tuple[str, int, int], ...]  # its name, how deep it is in others, how many members it has


@dataclass(frozen=True, slots=True)
class TrialReport:
    """What a guide finds on a computer; ``nearby`` are files in its places that no holding covers."""

    guide: str
    title: str
    computer: str
    holdings: tuple[TriedHolding, ...]
    nearby: tuple[str, ...]
    nearby_more: bool
    warnings: tuple[str, ...]

    @property
    def documents(self) -> tuple[TriedDocument, ...]:
        """Those of all holdings."""
        return tuple(each for holding in self.holdings for each in holding.documents)

    @property
    def found_nothing(self) -> bool:
        """Whether no holding is there."""
        return not any(each.report.present for each in self.holdings)

    @property
    def attention(self) -> bool:
        """Whether something is not as a guide's author wants it."""
        unseen = any(each.report.not_looked_at for each in self.holdings)
        return (
            unseen
            or self.found_nothing
            or any(each.verdict is not Verdict.READ or each.same_keys or each.stale for each in self.documents)
        )


def try_guide(sheet: Sheet, guide: Guide, outside: Outside, folder: Path, tell: Tell = silent) -> TrialReport:
    """See what a guide finds. ``folder`` is for working copies, and holds nothing of them afterwards."""
    computer = computer_of(sheet)
    with survey_aside(sheet, [guide], outside, folder, tell, before=True, may_be_empty=True) as store:
        report = summarize(store)
        nearby = _Nearby(computer, outside, store)
        found = list(nearby.of(_places(guide, computer, sheet, report)))
        holdings = tuple(_tried(store, report, each) for each in report.holdings if each.guide == guide.id)
    return TrialReport(
        guide.id,
        guide.title,
        computer.name,
        holdings,
        tuple(found[:_MOST_NEARBY]),
        len(found) > _MOST_NEARBY or nearby.stopped,
        report.warnings,
    )


def _tried(store: SurveyStore, report: SurveyReport, holding: HoldingReport) -> TriedHolding:
    details = details_of(store, report, holding.id)
    verdicts = {each.at: each for each in report.documents if each.holding == holding.id}
    documents = []
    for document in store.documents("1"):
        if document.holding == holding.id:
            told = verdicts[document.path]
            documents.append(_document(store, document, told.verdict, told.said))
    groups = tuple((each.name, each.depth, each.members) for each in details.groups)
    return TriedHolding(holding, tuple(documents), details.annotations, groups)


def _document(store: SurveyStore, document: Document, verdict: Verdict, said: tuple[str, ...]) -> TriedDocument:
    within, bound, database = OF_DOCUMENT.format("key"), bounds_of(document), store.database
    counted = dict(database.execute(f"SELECT state, count(*) FROM entry WHERE {within} GROUP BY state", bound))
    examples = [
        TriedEntry(restored(recorded), restored(path or ""), State(state), restored(why))
        for state in counted
        for recorded, path, why in database.execute(
            f"SELECT recorded, path, why FROM entry WHERE {within} AND state = ? LIMIT {_EXAMPLES}", (*bound, state)
        )
    ]
    same = store.count(
        f"SELECT coalesce(sum(number), 0) FROM (SELECT count(*) AS number FROM entry WHERE {within} GROUP BY key "
        "HAVING number > 1)",
        bound,
    )
    totals = no_totals() | counted | {"entries": sum(counted.values())}
    return TriedDocument(document.path, verdict, said, totals, tuple(examples), same, document.stale, document.pointers)


def _places(guide: Guide, computer: Computer, sheet: Sheet, report: SurveyReport) -> Iterator[MachinePath]:
    """The folders in which a guide's things are: its own places, and those around its documents."""
    yield from places_on(guide, computer, sheet).values()
    in_registry = {f"{guide.id}/{part.id}" for part in guide.part.holding if part.branch}
    for each in report.documents:
        if each.holding not in in_registry:
            yield computer.parse(each.at).parent


class _Nearby:
    """Looks for files that no holding covers."""

    def __init__(self, computer: Computer, outside: Outside, store: SurveyStore) -> None:
        self._disk = outside.disk
        self._finder = Finder(computer, outside.disk)
        self._computer = computer
        self._store = store
        self._seen: set[str] = set()
        self._looked_at = 0

    @property
    def stopped(self) -> bool:
        """Whether there was too much to look at all of it."""
        return self._looked_at >= _MOST_LOOKED_AT

    def of(self, places: Iterator[MachinePath]) -> Iterator[str]:
        """The files in these folders and below them, each once."""
        for place in places:
            if len(place.parts) > 1 and place != self._computer.expand("{home}", {}):
                yield from self._below(place)

    def _below(self, folder: MachinePath) -> Iterator[str]:
        key, real = self._computer.key(folder), self._finder.find(folder).real
        if key in self._seen or real is None or self.stopped:
            return
        self._seen.add(key)
        try:
            found = self._disk.scan(real)
        except DiskError:
            return
        for name, facts in found.items():
            self._looked_at += 1
            if isinstance(facts, DiskError) or self.stopped:
                continue
            path = folder.below(name)
            if facts.kind == "folder":
                yield from self._below(path)
            elif not self._store.count("SELECT count(*) FROM file WHERE key = ?", (self._computer.key(path),)):
                yield str(path)
