"""Take stock of the new computer where a move put things: its holdings' files, and every catalog that was carried."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import closing
from dataclasses import replace
from pathlib import Path

from ..catalogs import CatalogError
from ..guides import Holding
from ..journal import Journal, Kind, Locations
from ..machines import Finder, Seen, Sight
from ..paths import MachinePath
from ..plan import Arrangement, Choice, MergeRecord, Move, standing_record
from ..progress import Tell
from ..survey import (
    OF_DOCUMENT,
    WERE_READ,
    Document,
    EntryTaker,
    Errand,
    FoundDocument,
    Judge,
    Prefetch,
    Problem,
    Registry,
    State,
    SurveyStore,
    Walk,
    based,
    bases_of,
    bounds_of,
    holding_row,
    index_entries,
    list_files,
    note_not_looked_at,
    read_catalog,
)
from .follow import follow_entries, lacks_entries
from .merged import keep_keys, rename_keys, there_prefix


class Look:
    """Fills the survey of the new computer. Entries keep the keys that they had in the survey of the old one."""

    def __init__(
        self, move: Move, arrangement: Arrangement, store: SurveyStore, finder: Finder, scratch: Path, tell: Tell
    ) -> None:
        self._move = move
        self._arrangement = arrangement
        self._store = store
        self._finder = finder
        self._scratch = scratch
        self._tell = tell
        self._registry = Registry(move.new_sheet, finder, move.outside, scratch)
        carried = {row.id for row in move.survey.holdings() if row.present}
        self.holdings = {each.id: each for each in move.holdings_by(arrangement.routes) if each.id in carried}
        self.problems: list[Problem] = []
        self.unread: dict[int, str] = {}  # documents by number, and why they cannot be read now
        self.left: dict[int, str] = {}  # the same of those that are not there by choice
        self.absent: list[Document] = []
        self._unseen: list[tuple[Document, Seen]] = []  # documents at which nobody could look
        self.away: set[int] = set()  # documents by number, whose volume is not connected
        self.places: dict[int, Seen] = {}  # of documents by number
        self._kept: list[tuple[Document, Holding, Seen]] = []  # catalogs that were there already
        self.merged: dict[int, MergeRecord] = {}  # documents by number, that were merged into what was there
        self._relinked: dict[int, str] = {}  # documents by number, and the digests that relinking left them with
        self._followed: list[MachinePath] = []
        self._prefetch = Prefetch(move.new, move.outside.disk, scratch, State.MISSING)

    def list_files(self) -> None:
        """List what is in the places of the holdings; nothing is swept for on the new computer."""
        placed = [each for each in self.holdings.values() if not each.part.sweep]
        walk = Walk(self._move.new, self._finder, placed)
        list_files(self._store, walk, self._tell)
        note_not_looked_at(self._store, walk)
        self._followed = walk.links.tops
        for each in self.holdings.values():
            here = bool(walk.found.get(each.id)) or each.has_several
            self._store.add_holding(holding_row(each, present=here))
        self._store.index("file_by_key")

    def find_documents(self) -> None:
        """Find each catalog where the move put it; one that is not there is a problem of its own."""
        for document in self._move.survey.documents():
            holding = self.holdings.get(document.holding)
            if holding is None:
                continue
            if (seen := self._place_of(document, holding)) is not None:
                self.places[document.id] = seen
            if self._arrangement.choice_of(self._move.old.parse(document.path)) in (Choice.KEEP, Choice.BOTH):
                self._note_kept(document, holding)

    def _note_kept(self, document: Document, holding: Holding) -> None:
        """The catalog that was there already knows media, too, and is judged by this computer alone."""
        place = self._arrangement.place_of_kept(self._move.old.parse(document.path))
        seen = self._finder.find(place) if place is not None else None
        if seen is not None and seen.real is not None and seen.facts is not None:
            prefix = f"there {document.id}:"  # no entry of the old computer has such a key
            self._kept.append((Document(-document.id, holding.id, str(seen.path), prefix), holding, seen))

    def prefetch(self) -> Prefetch:
        """Begin to read large catalogs."""
        documents = [each for each in self._move.survey.documents() if each.id in self.places]
        self._prefetch.begin([Errand(self.holdings[d.holding], self.places[d.id], d.prefix) for d in documents])
        return self._prefetch

    def written_since(self, journal: Journal, begun_ns: int) -> frozenset[str]:
        """The keys of the catalogs that are rightly not what was carried: relinked, or written to since by programs."""
        locations, keys = Locations(self._move.new), set()
        for number, seen in self.places.items():
            last = journal.last_at(locations.at(self._finder, seen.path))
            relinked = last is not None and last.kind is Kind.REPLACE and not last.source
            if relinked and last is not None:
                self._relinked[number] = last.sha512
            if relinked or number in self.merged or (seen.facts is not None and seen.facts.modified_ns > begun_ns):
                keys.add(self._move.new.key(seen.path))
        return frozenset(keys)

    def take_entries(self) -> None:
        """Read every catalog that was found, and judge its entries by this computer alone."""
        baseless = self._note_bases()
        holdings = list(self.holdings.values())
        judge = Judge(self._move.new, self._finder, holdings, State.MISSING, self._followed)
        disk = self._move.outside.disk
        taker = EntryTaker(self._store, self._move.new, self._finder, judge, disk, self._tell)
        for document, holding, seen in self._readable():
            if seen.real is None:
                continue
            mine = Document(document.id, document.holding, str(seen.path), document.prefix)
            self._store.add_same_document(mine, registry=bool(holding.part.branch))
            try:
                if holding.id in baseless:
                    raise baseless[holding.id]
                read_catalog(self._store, taker, self._prefetch, mine, holding, seen, seen.real, disk, self._scratch)
                if document.id in self.merged:
                    rename_keys(self._store, mine, self.merged[document.id])
                elif sha512 := self._relinked.get(document.id):
                    keep_keys(self._store, mine, holding.part, self._move, self._arrangement)
                    self._follow(mine, seen.real, sha512)
            except CatalogError as error:
                why = error.message.replace(str(seen.real), str(seen.path))
                self._note_unread(mine, State.UNCLEAR, why)
        for document, seen in self._unseen:
            self._take_unseen(document, seen)
        for document, holding, seen in self._kept:
            self._take_kept(taker, document, holding, seen)
        index_entries(self._store)
        taker.judge()
        self._settle_kept()

    def _settle_kept(self) -> None:
        """What a catalog that was there already lacks, it lacked before the move."""
        merged = (each for each in self._move.survey.documents() if each.id in self.merged)
        there = [each for each, _, _ in self._kept]
        there += [replace(each, prefix=there_prefix(each)) for each in merged]
        for document in there:
            for state, is_now in ((State.MISSING, State.MISSING_BEFORE), (State.OUTSIDE, State.FOUND)):
                of_it = f"{OF_DOCUMENT.format('key')} AND state = '{state}'"
                query = f"UPDATE entry SET state = '{is_now}' WHERE {of_it}"
                self._store.database.execute(query, bounds_of(document))

    def _may_be_there(self, seen: Seen) -> bool:
        """Whether nobody could look, or the volume is one of this computer's own, which only waits to be connected."""
        is_away = seen.sight is Sight.UNPLUGGED and self._move.new.volume_of(seen.path) is not None
        return is_away or seen.sight is Sight.DENIED

    def _take_unseen(self, document: Document, seen: Seen) -> None:
        """A catalog at which nobody could look."""
        mine = Document(document.id, document.holding, str(seen.path), document.prefix)
        self._store.add_same_document(mine, registry=False)
        if seen.sight is Sight.DENIED:
            self._note_unread(mine, State.UNCLEAR, seen.why)
        else:
            self.away.add(document.id)
            anchor = self._move.new.anchor_of(seen.path)
            self._note_unread(mine, State.UNPLUGGED, f"the volume {anchor} is not connected")

    def _note_unread(self, document: Document, state: State, why: str) -> None:
        self._store.set_not_read(document, why)
        self.unread[document.id] = why
        self.problems.append(Problem(document.holding, "", state, document.path, why))

    def _note_bases(self) -> dict[str, CatalogError]:
        """Look up where paths start that a setting names; why not, for holdings of which that is not known."""
        documents = [FoundDocument(holding, seen) for _, holding, seen in self._readable()]
        bases, baseless = bases_of(
            list(self.holdings.values()), documents, self._move.new, self._move.outside.disk, self._scratch
        )
        self.holdings = {each.id: each for each in based(self.holdings.values(), bases, self._move.new)}
        return baseless

    def _take_kept(self, taker: EntryTaker, document: Document, holding: Holding, seen: Seen) -> None:
        if seen.real is None:
            return
        self._store.add_same_document(document, registry=False)
        try:
            disk, scratch = self._move.outside.disk, self._scratch
            read_catalog(self._store, taker, self._prefetch, document, holding, seen, seen.real, disk, scratch)
        except CatalogError as error:
            self._store.set_not_read(document, error.message)
            why = f"the catalog that was there already and was kept cannot be read: {error.message}"
            self.problems.append(Problem(holding.id, "", State.UNCLEAR, document.path, why, chosen=True))

    def _follow(self, document: Document, real: Path, sha512: str) -> None:
        """Take the entries that a guide no longer selects, where the catalog is exactly as relinking left it."""
        lacks = lacks_entries(document, self._store, self._move)
        if lacks and self._move.outside.disk.digest(real).sha512 == sha512:
            follow_entries(document, self._store, self._move, self._arrangement)

    def _readable(self) -> Iterator[tuple[Document, Holding, Seen]]:
        """Every catalog that must be read, those in the registry last."""
        for document in self._move.survey.documents():
            if document.id in self.places:
                yield document, self.holdings[document.holding], self.places[document.id]
        for document in self._move.survey.documents(f"registry AND {WERE_READ}"):
            holding = self.holdings.get(document.holding)
            for found in self._registry.documents(holding) if holding else ():
                if holding is not None:
                    yield document, holding, found.seen

    def _place_of(self, document: Document, holding: Holding) -> Seen | None:
        old = self._move.old.parse(document.path)
        choice = self._arrangement.choice_of(old)
        left = self._move.survey.left_out(self._move.old.key(old))
        if left and not self._move.old.travels(old):
            why = f"this catalog was left on {self._move.old.name} by choice: {left}"
            self.problems.append(Problem(holding.id, "", State.LEFT_OUT, document.path, why, chosen=True))
            self.left[document.id] = why
            return None
        if choice is Choice.KEEP:
            self.left[document.id] = "another file was already there and was kept by choice"
            return None  # what is there is another catalog, and its file is reported
        place = self._place(old, holding, choice)
        if choice is Choice.MERGE and not self._is_merged(document, place):
            why = f"it is to be merged into the catalog at {place}, and zesty relink has not done so"
            self.problems.append(Problem(holding.id, "", State.MISSING, document.path, why))
            self.absent.append(document)
            return None
        seen = self._finder.find(place) if place is not None else None
        if seen is not None and self._may_be_there(seen):
            self._unseen.append((document, seen))
            return None
        if seen is None or seen.real is None or seen.facts is None:
            why = f"this catalog is not at {place}"
            self.problems.append(Problem(holding.id, "", State.MISSING, document.path, why))
            self.absent.append(document)
            return None
        return seen

    def _is_merged(self, document: Document, place: MachinePath | None) -> bool:
        """Whether a catalog was merged into the one at a place; its record is noted."""
        if place is None:
            return False
        journal = Journal.open_existing(self._move.journal_path, self._move.outside)
        if journal is None:
            return False
        with closing(journal):
            last = journal.last_at(Locations(self._move.new).at(self._finder, place))
        record = standing_record(self._move, place, last)
        if record is None:
            return False
        self.merged[document.id] = record
        return True

    def _place(self, old: MachinePath, holding: Holding, choice: Choice | None) -> MachinePath | None:
        if choice is Choice.MERGE:
            return self._arrangement.place_of_kept(old)
        aside = holding.has_several or choice is Choice.BOTH or self._move.old.travels(old)
        return self._arrangement.routes.translate(old) if aside else holding.at
