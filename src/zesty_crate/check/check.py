"""Confirm that every entry of every catalog finds its media on the new computer, and that it is what was carried."""

from __future__ import annotations

from contextlib import closing
from dataclasses import dataclass

from ..catalogs import CatalogError, Entry, syntax_of
from ..errors import ZestyError
from ..guides import Holding, holdings_on
from ..journal import Journal
from ..machines import Finder, Seen, working_folder
from ..plan import Arrangement, Choice, Move
from ..progress import Progress, Tell, silent
from ..survey import (
    NEEDS_ATTENTION,
    Document,
    EntryRow,
    HoldingReport,
    Judge,
    Judgement,
    Problem,
    Registry,
    State,
    Totals,
    no_totals,
    summarize,
    summed,
)
from .files import CarriedFiles, compare_content, look_at_files

_TELL_EVERY = 20


@dataclass(frozen=True, slots=True)
class CheckedHolding:
    """One holding: the totals of its entries now and before, and its files as carried and as found."""

    id: str
    guide: str
    kind: str
    title: str
    at: str
    totals: Totals
    before: Totals
    files_carried: int
    files_found: int


@dataclass(frozen=True, slots=True)
class CheckReport:
    """What a check came to; ``contents_compared`` files were read and compared with what was carried.

    ``from_computer`` is empty when one computer was checked by itself.
    """

    computer: str
    from_computer: str
    holdings: tuple[CheckedHolding, ...]
    problems: tuple[Problem, ...]
    contents_compared: int
    unread: tuple[str, ...] = ()
    warnings: tuple[str, ...] = ()

    @property
    def totals(self) -> Totals:
        """All holdings' entries, summed."""
        return summed(holding.totals for holding in self.holdings)


def check(move: Move, tell: Tell = silent) -> CheckReport:
    """Judge every entry on the new computer against the survey and the crate."""
    journal = Journal.open_existing(move.journal_path, move.outside)
    unpacked = journal.standing("unpack") if journal else []
    if journal is None or not unpacked:
        raise ZestyError(
            f"This crate was not unpacked on {move.new.name}, so there is nothing to check.",
            next_step="Run zesty unpack first.",
        )
    with closing(journal):
        finder = Finder(move.new, move.outside.disk)
        arrangement = move.arrangement(unpacked[-1].note)
        files = look_at_files(move, journal, arrangement, finder, tell)
        return _Checker(move, arrangement, files, finder, tell).run()


class _Checker:
    def __init__(self, move: Move, arrangement: Arrangement, files: CarriedFiles, finder: Finder, tell: Tell) -> None:
        self._move = move
        self._arrangement = arrangement
        self._files = files
        self._finder = finder
        self._tell = tell
        self._registry = Registry(move.new_sheet, finder, move.outside, move.folder)
        self._problems: list[Problem] = []
        self._told: set[str] = set()

    def run(self) -> CheckReport:
        """Check the holdings of every guide, then what no entry has told of."""
        before = {holding.id: holding for holding in summarize(self._move.survey).holdings}
        move = self._move
        holdings = [h for guide in move.guides for h in holdings_on(guide, move.new, move.new_sheet)]
        judge = Judge(move.new, self._finder, holdings, gone=State.MISSING)
        here = {holding.id: holding for holding in holdings}
        rows = [
            self._holding(here[name], old, judge)
            for name, old in before.items()
            if old.present and not old.is_left and name in here and self._can_check(here[name])
        ]
        for verdict in self._files.verdicts.values():
            if verdict.state is not State.FOUND and verdict.old not in self._told:
                self._problems.append(
                    Problem(verdict.holding, verdict.new, verdict.state, verdict.old, verdict.why, verdict.chosen)
                )
        order = {state: number for number, state in enumerate((*_QUIET, *NEEDS_ATTENTION))}
        problems = sorted(self._problems, key=lambda problem: order[problem.state])
        return CheckReport(self._move.new.name, self._move.old.name, tuple(rows), tuple(problems), self._files.compared)

    def _can_check(self, holding: Holding) -> bool:
        return not holding.part.branch or bool(self._registry.documents(holding))

    def _holding(self, holding: Holding, before: HoldingReport, judge: Judge) -> CheckedHolding:
        totals = no_totals()
        for document in self._move.survey.documents():
            if document.holding == holding.id:
                self._check_document(document, holding, totals, judge)
        for document in self._move.survey.documents("registry AND fault = ''") if holding.part.branch else ():
            for found in self._registry.documents(holding) if document.holding == holding.id else ():
                self._check_entries(document, holding, found.seen, totals, judge)
        return CheckedHolding(
            id=holding.id,
            guide=holding.guide.id,
            kind=holding.kind,
            title=holding.title,
            at=before.at if holding.has_several else str(holding.at),
            totals=totals,
            before=before.totals,
            files_carried=self._files.carried[holding.id],
            files_found=self._files.found[holding.id],
        )

    def _check_document(self, document: Document, holding: Holding, totals: Totals, judge: Judge) -> None:
        """Check every entry of one catalog; one that cannot be read is a problem of its own."""
        old = self._move.old.parse(document.path)
        choice = self._arrangement.choice_of(old)
        aside = holding.has_several or choice is Choice.BOTH
        place = self._arrangement.routes.translate(old) if aside else holding.at
        seen = self._finder.find(place) if place is not None else None
        left = self._move.survey.left_out(self._move.old.key(old))
        if left and not self._move.old.travels(old):
            why = f"this catalog was left on {self._move.old.name}, as was chosen: {left}"
            self._problems.append(Problem(holding.id, "", State.MISSING, document.path, why, chosen=True))
            return
        if choice is Choice.KEEP:
            return  # what is there is another catalog, and its file is told of
        if seen is None or seen.real is None or seen.facts is None:
            why = f"this catalog was looked for at {place} and is not there"
            self._problems.append(Problem(holding.id, "", State.MISSING, document.path, why))
            return
        self._check_entries(document, holding, seen, totals, judge)

    def _check_entries(self, document: Document, holding: Holding, seen: Seen, totals: Totals, judge: Judge) -> None:
        syntax, disk = syntax_of(holding.part), self._move.outside.disk
        if seen.real is None:
            return
        try:
            with (
                working_folder(disk, self._move.folder / "work") as work,
                closing(syntax.open(seen.real, holding.part, seen.path, disk, work)) as catalog,
            ):
                for entry in catalog.entries():
                    self._count(totals, holding, entry._replace(key=document.prefix + entry.key), judge)
        except CatalogError as error:
            self._problems.append(Problem(holding.id, "", State.UNCLEAR, str(seen.path), error.message))

    def _count(self, totals: Totals, holding: Holding, entry: Entry, judge: Judge) -> None:
        before = self._move.survey.entry(holding.id, entry.key)
        judged = judge.judge(entry)
        state, why = self._state(before, judged)
        totals[state] += 1
        totals["entries"] += 1
        if before is not None:
            carried = self._move.survey.carried_as(before.path_key)
            self._told.update((carried[0],) if carried else ())
        if state not in (State.FOUND, State.REMOTE):
            chosen = self._was_chosen(state, before, judged)
            self._problems.append(Problem(holding.id, entry.key, state, entry.recorded, why, chosen))
        if totals["entries"] % _TELL_EVERY == 0:
            self._tell(Progress("checking entries", totals["entries"]))

    def _was_chosen(self, state: State, before: EntryRow | None, judged: Judgement) -> bool:
        """Whether an entry is not as it was because somebody decided so."""
        if state is State.MISSING:
            return before is not None and bool(self._left_out(before))
        verdict = self._files.verdicts.get(self._move.new.key(judged.seen.path)) if judged.seen else None
        return state is State.CHANGED and verdict is not None and verdict.chosen

    def _state(self, before: EntryRow | None, judged: Judgement) -> tuple[State, str]:
        """The state of an entry, given how it was judged here and what it was before the move."""
        if judged.files and judged.state is not State.MISSING:
            return self._of_files(judged)
        if judged.seen is not None and judged.seen.facts is not None and judged.state is not State.MISSING:
            return self._of_file(judged, before)
        if judged.state in (State.REMOTE, State.UNCLEAR) or before is None:
            return judged.state, judged.why
        if before.state in (State.MISSING_BEFORE, State.UNPLUGGED):
            return before.state, f"so it was on {self._move.old.name}: {before.why}"
        if judged.state is State.UNPLUGGED:
            return judged.state, judged.why
        return State.MISSING, self._why(before, judged)

    def _of_file(self, judged: Judgement, before: EntryRow | None) -> tuple[State, str]:
        """An entry that finds a file: is it the one that was carried?"""
        carried = self._move.survey.carried_as(before.path_key) if before else None
        if carried is None or judged.seen is None:
            return judged.state, judged.why
        verdict = self._files.verdicts.get(self._move.new.key(judged.seen.path))
        if verdict is not None and verdict.old == carried[0]:
            return verdict.state, verdict.why
        return compare_content(judged.seen, carried[2], carried[1], self._move.outside.disk)

    def _of_files(self, judged: Judgement) -> tuple[State, str]:
        """An entry that stands for several files: as good as the worst of them."""
        verdicts = [self._files.verdicts.get(self._move.new.key(each.path)) for each in judged.files]
        bad = next((each for each in verdicts if each is not None and each.state is not State.FOUND), None)
        if bad is not None:
            return bad.state, f"{bad.new}: {bad.why}"
        return (State.FOUND, "") if all(verdicts) else (judged.state, judged.why)

    def _left_out(self, before: EntryRow) -> str:
        """Why the file of an entry was left where it was on purpose; empty when it was not, or came with its drive."""
        why = self._move.survey.left_out(before.path_key)
        if before.path and self._move.old.travels(self._move.old.parse(before.path)):
            return ""
        row = next(self._move.survey.files("key = ? AND role IN ('own', 'cache')", (before.path_key,)), None)
        return f"it was left on {self._move.old.name}, as was chosen: {why}" if why and row is not None else ""

    def _why(self, before: EntryRow, judged: Judgement) -> str:
        """Why an entry that had its file before has none now."""
        left: dict[str, str] = dict(self._move.survey.about("left") or ())
        if chosen := self._left_out(before):
            return chosen
        if before.path and self._move.old.travels(self._move.old.parse(before.path)):
            return f"its drive came along, and there is no file at {judged.path}"
        row = next(self._move.survey.files("key = ?", (before.path_key,)), None)
        if row is not None and row.path in left:
            return f"it could not be carried: {left[row.path]}"
        if row is not None and self._move.survey.carried_as(before.path_key) is None:
            return _NOT_CARRIED[row.role]
        if judged.path is None:
            return f"its path was not relinked: {judged.why}"
        return f"it was carried, and there is no file at {judged.path}"


_QUIET = (State.FOUND, State.REMOTE, State.OUTSIDE, State.UNPLUGGED, State.MISSING_BEFORE)
_NOT_CARRIED = {
    "outside": "it was not carried: it lies outside the program's folders, and zesty pack was run without --outside",
    "factory": "it was not carried: it comes with the program's own installer",
    "own": "it was not carried",
}
