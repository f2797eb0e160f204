"""Rehearse a guide: copies of every document go to an invented computer of each system, and back."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from contextlib import closing, suppress
from dataclasses import dataclass
from pathlib import Path

from ..catalogs import CatalogError, ChangeList, StoredPiece, syntax_of
from ..check import survey_aside
from ..guides import Guide, Holding, HoldingPart, holdings_on
from ..machines import Computer, Disk, Finder, Outside, Sheet, computer_of, own_folder, working_folder
from ..paths import MachinePath, PathError, Route, System, join_pieces, read_path
from ..progress import Progress, Tell, silent
from ..split_paths import CarriedCatalog, part_there, relinked_copy
from ..survey import Document, Verdict, based
from .invented import Routed, invented, routes_between

_EXAMPLES = 3
Meant = tuple[str, MachinePath | None]  # what an entry records, and where that leads


@dataclass(frozen=True, slots=True)
class RehearsedMove:
    """A document on its way to a computer of a ``system`` and back; ``fault`` says why not, with what helps.

    ``entries`` lead to what they meant there, and again at home; with ``same_bytes`` the document is as it was. Where a
    condition fits old paths alone, they are ``followed``: read as they were, with what was written and proven.
    """

    system: str
    entries: int
    same_bytes: bool
    followed: bool = False
    fault: str = ""
    remedy: str = ""


@dataclass(frozen=True, slots=True)
class RehearsedDocument:
    """A document of a holding, with each of its moves."""

    holding: str
    title: str
    at: str
    moves: tuple[RehearsedMove, ...]


@dataclass(frozen=True, slots=True)
class RehearsalReport:
    """What documents of a guide can go where. Branches ``in_registry`` are no files, and were not rehearsed."""

    guide: str
    title: str
    computer: str
    documents: tuple[RehearsedDocument, ...]
    not_read: tuple[str, ...]
    read_in_part: tuple[str, ...]
    in_registry: tuple[str, ...]

    @property
    def faults(self) -> int:
        """How many moves failed."""
        return sum(bool(move.fault) for each in self.documents for move in each.moves)

    @property
    def attention(self) -> bool:
        """Whether something cannot move, or could not be read."""
        return bool(self.faults or self.not_read or self.read_in_part or not self.documents)


def rehearse(sheet: Sheet, guide: Guide, outside: Outside, folder: Path, tell: Tell = silent) -> RehearsalReport:
    """Take copies of all documents there and back. ``folder`` is for these, and holds nothing of them afterwards."""
    old = computer_of(sheet)
    holdings = {each.id: each for each in holdings_on(guide, old, sheet)}
    with survey_aside(sheet, [guide], outside, folder, tell, before=True, may_be_empty=True) as store:
        documents = [each for each in store.documents("NOT registry") if each.holding in holdings]
        bases = store.bases()
        in_registry = [each.path for each in store.documents("registry") if each.holding in holdings]
    holdings = {each.id: each for each in based(holdings.values(), bases, old)}
    rehearsed, not_read, in_part = list[RehearsedDocument](), list[str](), list[str]()
    with own_folder(outside, folder, "rehearsal") as work:
        for number, document in enumerate(documents):
            tell(Progress("rehearsing", number, len(documents)))
            holding = holdings[document.holding]
            if document.verdict is Verdict.NOT_READ:
                not_read.append(document.path)
                continue
            if document.verdict is not Verdict.READ:
                in_part.append(document.path)
            trip = _RoundTrip(old, sheet, holding, document, outside.disk)
            moves = tuple(trip.to(system, work) for system in System)
            rehearsed.append(RehearsedDocument(holding.id, holding.title, document.path, moves))
    return RehearsalReport(
        guide.id, guide.title, old.name, tuple(rehearsed), tuple(not_read), tuple(in_part), tuple(in_registry)
    )


class _RoundTrip:
    """One document's moves."""

    def __init__(self, old: Computer, sheet: Sheet, holding: Holding, document: Document, disk: Disk) -> None:
        self._old = old
        self._sheet = sheet
        self._holding = holding
        self._at = old.parse(document.path)
        self._disk = disk

    def to(self, system: System, work: Path) -> RehearsedMove:
        """There, and back."""
        try:
            with working_folder(self._disk, work / system.value) as folder:
                return self._there_and_back(system, folder)
        except (CatalogError, PathError) as error:
            return RehearsedMove(system.value, 0, same_bytes=False, fault=error.message, remedy=error.next_step)

    def _there_and_back(self, system: System, folder: Path) -> RehearsedMove:
        old, new, part, disk = self._old, invented(self._old, system), self._holding.part, self._disk
        routes = routes_between(old, new, self._holding.guide, self._sheet)
        there = Routed.of_routes(routes, old)
        back = Routed.of_routes([Route(each.new, each.old) for each in routes], new)
        place = there.place_of(self._at)
        real = Finder(old, disk).find(self._at).real
        if place is None or real is None:
            raise CatalogError("No route leads from its place.")
        folders = [folder / name for name in ("there", "back", "reading")]
        for each in folders:
            disk.make_folder(each)
        changes = ChangeList(folders[0] / "changes.db")
        went = relinked_copy(CarriedCatalog(part, real, self._at, place, (old, new)), there, folders[0], disk, changes)
        original = folders[0] / "carried"
        before = list(self._meant(part, original, self._at, old, folders[2]))
        part_away = part_there(part, there)
        away = list(self._meant(part_away, went, place, new, folders[2]))
        if len(away) < len(before):
            written = self._followed(part, original, changes, folders[2], new)
            _require_same("There", [(text, path and there.goes_to(path)) for text, path in before], written, new)
            return RehearsedMove(system.value, len(before), same_bytes=False, followed=True)
        came = relinked_copy(CarriedCatalog(part_away, went, place, self._at, (new, old)), back, folders[1], disk)
        _require_same("There", [(text, path and there.goes_to(path)) for text, path in before], away, new)
        _require_same("There and back", before, self._meant(part, came, self._at, old, folders[2]), old)
        same = disk.digest(original).sha512 == disk.digest(came).sha512
        return RehearsedMove(system.value, len(before), same)

    def _meant(
        self, part: HoldingPart, file: Path, at: MachinePath, computer: Computer, scratch: Path
    ) -> Iterator[Meant]:
        """What each entry of a document ``at`` a place records, and where that leads on a computer."""
        with closing(syntax_of(part).open(file, part, at, self._disk, scratch)) as catalog:
            for each in catalog.entries():
                path = None
                if not each.remote:
                    with suppress(PathError):
                        path = read_path(
                            each.recorded, computer.system, each.spelling, each.base, computer.variables
                        ).path
                yield each.recorded, path

    def _followed(
        self, part: HoldingPart, file: Path, changes: ChangeList, scratch: Path, new: Computer
    ) -> Iterator[Meant]:
        """What each entry records once it is rewritten, by the list of what was written, and where that leads."""
        texts = {(each.cell.table, each.cell.column, each.cell.row): each.new for each in changes}
        with closing(syntax_of(part).open(file, part, self._at, self._disk, scratch)) as catalog:
            for entry in catalog.entries():
                pieces = [each for each in entry.pieces if each is not None]
                now = [_written(each, texts) for each in pieces]
                recorded, path = join_pieces(now, new.system, entry.spelling), None
                if not entry.remote:
                    with suppress(PathError):
                        path = read_path(recorded, new.system, entry.spelling, entry.base, new.variables).path
                yield recorded, path


def _written(piece: StoredPiece, texts: Mapping[tuple[str, str, int | str], str]) -> str:
    """The text of a piece once everything is written."""
    value, form = texts.get(piece.cell[:3]), piece.cell.form
    if value is None:
        return piece.text
    return value if form is None else form.read(value) or ""


def _require_same(where: str, wanted: list[Meant], found: Iterable[Meant], computer: Computer) -> None:
    """Raise `CatalogError` for entries that do not lead where they must; those that lead nowhere must say the same."""
    now = list(found)
    wrong = [
        f"{text} became {other}"
        for (text, path), (other, there) in zip(wanted, now, strict=False)
        if (computer.key(path) if path else text) != (computer.key(there) if path and there else other)
    ]
    if wrong or len(wanted) != len(now):
        few = "; ".join(wrong[:_EXAMPLES]) or f"{len(wanted):,} entries became {len(now):,}"
        raise CatalogError(
            f"{where}, entries do not lead where they must: {few}.",
            next_step="Check the pieces of the path, the spelling, and conditions that only old paths fulfil.",
        )
