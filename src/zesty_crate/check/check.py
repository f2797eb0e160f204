"""Confirm that every entry of every catalog finds its media on the new computer, and that it is what was carried."""

from __future__ import annotations

import datetime as dt
import logging
from collections.abc import Iterator
from contextlib import closing
from dataclasses import replace
from pathlib import Path

from ..errors import ZestyError
from ..journal import Journal
from ..machines import Finder, faults_in, working_folder
from ..plan import Arrangement, Move, baseline
from ..progress import Tell, silent
from ..survey import (
    OF_DOCUMENT,
    WERE_READ,
    Document,
    Problems,
    Relinked,
    SpotCheck,
    SurveyReport,
    SurveyStore,
    Verdict,
    attach,
    bounds_of,
    not_looked_at_in,
    note_unregistered,
    summarize,
    unregistered_in,
    written,
)
from .attributes import compare_attributes
from .entries import judge_entries, newly_away
from .figures import checked_holdings
from .files import CarriedFiles
from .handed_over import hand_over, since_hand_over
from .look import Look
from .merged import merged_organisation, there_prefix
from .model import CheckedDocument, CheckReport, Content, ContentRead, MergedCatalog, Organisation, Searched
from .organisation import compare_organisation
from .record import CheckRecord, keep_record, last_change
from .residue import Search
from .reverse import registrations_without_content, unknown_media
from .spot_checks import open_spot_checks
from .surplus import explain_surplus

_log = logging.getLogger(__name__)


def check(move: Move, tell: Tell = silent, content: Content = Content.SAMPLE, *, keep: bool = True) -> CheckReport:
    """Judge every entry on the new computer against the survey and the crate, and ``keep`` what that came to.

    The first one that comes out well after the last change is what was handed over, and later ones say what changed
    since. Raises `ZestyError` when nothing of the crate was unpacked there.
    """
    journal = Journal.open_existing(move.journal_path, move.outside)
    unpacked = journal.standing("unpack") if journal else []
    if journal is None or not unpacked:
        raise ZestyError(
            f"This crate was not unpacked on {move.new.name}, so there is nothing to check.",
            next_step="Run zesty unpack first.",
        )
    work = move.folder / "work"
    with closing(journal), faults_in(work), working_folder(move.outside.disk, work) as scratch:
        survey = scratch / "now.db"
        with written(SurveyStore.create(survey)) as store:
            checker = _Checker(move, move.arrangement(unpacked[-1].note), store, scratch, tell)
            report = checker.run(journal, content, dt.datetime.fromisoformat(unpacked[0].begun))
        sheet, now = move.new_sheet, move.outside.clock.now().isoformat()
        record = CheckRecord(now, last_change(journal), report, sheet.text, str(sheet.folder), sheet.is_here)
        _log.info("totals %s; attention: %s", report.totals, ", ".join(report.attention) or "nothing")
        if keep:
            keep_record(move, record)
        if keep and record.passed and report.since is None:
            hand_over(move, survey)
        return report


class _Checker:
    def __init__(self, move: Move, arrangement: Arrangement, store: SurveyStore, scratch: Path, tell: Tell) -> None:
        self._move = move
        self._arrangement = arrangement
        self._store = store
        self._tell = tell
        self._scratch = scratch
        self._finder = Finder(move.new, move.outside.disk)
        self._look = Look(move, arrangement, store, self._finder, scratch, tell)
        self._before: SurveyReport = summarize(move.survey)

    def run(self, journal: Journal, content: Content, begun: dt.datetime) -> CheckReport:
        """Look at everything once, then compare it with what it was."""
        store, look, begun_ns = self._store, self._look, int(begun.timestamp() * 10**9)
        store.set_format()
        store.set_about("taken", self._move.outside.clock.now().isoformat())
        store.set_about("last-change", last_change(journal))
        files = CarriedFiles(self._move, self._arrangement, store, self._finder, self._tell)
        files.expect()
        look.find_documents()
        with closing(look.prefetch()):
            look.list_files()
            read = files.judge(content, self._spot_check_keys(), look.written_since(journal, begun_ns))
            look.take_entries()
        attach(store, self._move.crate.survey_path, "old")
        problems = judge_entries(
            self._move, self._arrangement, store, self._finder, look.problems, look.absent, look.away, look.merged
        )
        return self._report(read, problems, begun_ns, journal)

    def _report(self, read: ContentRead, problems: Problems, begun_ns: int, journal: Journal) -> CheckReport:
        move, store = self._move, self._store
        before = baseline(move)
        try:
            surplus = explain_surplus(move, self._arrangement, store, before, begun_ns)
        finally:
            if before is not None:
                before.close()
        note_unregistered(store, move.new, self._finder, list(self._look.holdings.values()))
        marks = open_spot_checks(self._spot_checks(), move, self._arrangement, store, self._finder, self._tell)
        organisation = tuple(self._organisation())
        documents = tuple(self._documents(journal))
        return CheckReport(
            computer=move.new.name,
            from_computer=move.old.name,
            holdings=checked_holdings(self._before, self._look.holdings, store),
            problems=problems,
            content=read,
            surplus=surplus,
            organisation=organisation,
            merged=tuple(self._merged()),
            attributes=compare_attributes(move, self._arrangement, store, self._finder),
            unknown_media=tuple(unknown_media(store, move)),
            unregistered=unregistered_in(store),
            without_content=tuple(registrations_without_content(store, move)),
            spot_checks=marks,
            since=since_hand_over(move, store, self._finder, last_change(journal)),
            documents=documents,
            searched=self._search(documents),
            not_chosen=self._not_chosen(),
            not_looked_at=not_looked_at_in(store),
            newly_away=newly_away(store, self._look.away),
            not_covered=sum(each.files for each in self._before.to_decide),
            not_surveyed=sum(not each.is_away for each in self._before.not_looked_at),
        )

    def _search(self, checked: tuple[CheckedDocument, ...]) -> Searched:
        """Look for what still names the old computer, in documents that were relinked and in small files."""
        relinked = {(e.holding, e.at) for e in checked if e.relinked in (Relinked.PROVEN, Relinked.NOTHING_TO_CHANGE)}
        documents = [each for each in self._move.survey.documents() if (each.holding, each.path) in relinked]
        search = Search(self._move, self._arrangement, self._store, self._finder, self._look, self._scratch, self._tell)
        return search.run(documents)

    def _not_chosen(self) -> tuple[str, ...]:
        """The holdings outside the scope of packing."""
        chosen = self._move.chosen
        held = (each for each in self._before.holdings if each.present and not each.is_left)
        return tuple(each.title for each in held if each.id not in chosen)

    def _spot_checks(self) -> tuple[SpotCheck, ...]:
        """Those of holdings that this system has."""
        return tuple(each for each in self._before.spot_checks if each.holding in self._look.holdings)

    def _spot_check_keys(self) -> list[str]:
        """The keys of the spot checks' files, wherever routes led them."""
        parse = self._move.old.parse
        places = (
            self._arrangement.routes.translate(parse(each.at)) for each in self._before.spot_checks if each.opened.what
        )
        return [self._move.new.key(place) for place in places if place is not None]

    def _documents(self, journal: Journal) -> Iterator[CheckedDocument]:
        """Every document of the survey, with its verdict then and what was done with it since."""
        look, outcomes, chosen = self._look, journal.outcomes(), self._move.chosen
        titles = {each.id: each.title for each in self._before.holdings}
        files = {each.id for each in self._move.survey.documents("NOT registry")}
        for each in self._move.survey.documents("1"):
            if left := look.left.get(each.id) or (each.id in files and self._left_out(each)):
                relinked, why = Relinked.LEFT_BY_CHOICE, left
            elif each.id in outcomes:
                outcome, why = outcomes[each.id]
                relinked = Relinked(outcome)
            elif each.holding not in chosen:
                relinked, why = Relinked.LEFT_BY_CHOICE, "it was not selected"
            elif each.holding not in look.holdings:
                why = (
                    f"Its guide names no place for it on {self._move.new.name}. Add one, or a route, and move it again."
                )
                relinked = Relinked.NOT_RELINKED
            else:
                relinked, why = Relinked.NOT_RELINKED, "Run zesty relink."
            verdict, unread, reasons = each.verdict, each.unread, each.reasons
            if each.id in look.unread:
                verdict, unread, reasons = Verdict.NOT_READ, 0, (look.unread[each.id],)
            title = titles[each.holding]
            yield CheckedDocument(each.holding, title, each.path, verdict, unread, reasons, relinked, why)

    def _left_out(self, document: Document) -> str:
        """Why a document was left out of the crate by choice; empty when it was not, or travels on its own drive."""
        old = self._move.old.parse(document.path)
        return "" if self._move.old.travels(old) else self._move.survey.left_out(self._move.old.key(old))

    def _merged(self) -> Iterator[MergedCatalog]:
        """Both sides of each merged catalog, counted."""
        titles = {each.id: each.title for each in self._look.holdings.values()}
        for document in self._store.documents(f"{WERE_READ} AND id > 0"):
            record = self._look.merged.get(document.id)
            if record is not None:
                query = f"SELECT count(*) FROM main.entry WHERE {OF_DOCUMENT.format('key')}"
                there = replace(document, prefix=there_prefix(document))
                carried, others = (self._store.count(query, bounds_of(each)) for each in (document, there))
                now = carried if document.prefix == "" else carried + others  # without a prefix it is all of them
                came, both = len(record.keys.entries), len(record.keys.entries) - len(record.keys.new)
                yield MergedCatalog(titles[document.holding], document.path, record.before, came, both, now)

    def _organisation(self) -> Iterator[Organisation]:
        """Every catalog that was read, compared with itself as it was."""
        titles = {each.id: each.title for each in self._look.holdings.values()}
        for document in self._store.documents(f"{WERE_READ} AND id > 0"):  # not what was there already
            title, record = titles[document.holding], self._look.merged.get(document.id)
            if record is None:
                yield compare_organisation(self._store, document, title)
            else:
                yield merged_organisation(self._store, document, title, record, record.before)
