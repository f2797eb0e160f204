"""Take stock of one computer: find the holdings, list their files, read the catalogs, judge every entry."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import closing
from pathlib import Path

from .. import __version__
from ..catalogs import SYNTAXES, Catalog, CatalogError
from ..errors import ZestyError
from ..guides import FactoryPatterns, Guide, Holding, holdings_on
from ..machines import Computer, FileFacts, Finder, Outside, Seen, Sheet, Sight, computer_of
from ..progress import Progress, Tell, silent
from .judge import Judge, Judgement
from .model import State
from .store import FORMAT, Document, EntryRow, FileRow, SurveyStore
from .sweep import sweep

_TELL_EVERY = 1000
_NO_FACTS = FileFacts("other", 0, 0, 0)


def take_survey(
    target: Path, sheet: Sheet, guides: Sequence[Guide], outside: Outside, scratch: Path, tell: Tell = silent
) -> None:
    """Write a survey of the computer of ``sheet`` into the new file ``target``.

    ``scratch`` is an empty folder for working copies. A catalog that cannot be read is noted, and the others go on.
    Raises `ZestyError` when no guide finds anything, and `CatalogError` when there are catalogs and none can be read.
    """
    with closing(SurveyStore.create(target)) as store:
        taker = _Taker(store, computer_of(sheet), sheet, outside, tell)
        taker.note_about(guides)
        taker.take_holdings([holding for guide in guides for holding in holdings_on(guide, taker.computer, sheet)])
        taker.take_catalogs(scratch)


class _Taker:
    def __init__(self, store: SurveyStore, computer: Computer, sheet: Sheet, outside: Outside, tell: Tell) -> None:
        self.computer = computer
        self._store = store
        self._sheet = sheet
        self._outside = outside
        self._finder = Finder(computer, outside.disk)
        self._tell = tell
        self._seen_files = 0
        self._warnings: list[str] = []
        self._present: list[Holding] = []
        self._catalogs: list[tuple[Holding, Seen]] = []

    def note_about(self, guides: Sequence[Guide]) -> None:
        """Record the computer itself, and how this survey was made."""
        part = self._sheet.part
        volumes = [
            {"anchor": v.anchor, "label": v.label, "format": v.format, "here": v.mount is not None} for v in part.volume
        ]
        facts = {
            "format": FORMAT,
            "software": f"Zesty Crate {__version__}",
            "taken": self._outside.clock.now().isoformat(),
            "computer": part.computer.name,
            "system": part.computer.system,
            "user": part.computer.user,
            "volumes": volumes,
            "guides": [guide.id for guide in guides],
            "programs": {name: {"version": p.version, "running": p.running} for name, p in part.programs.items()},
            "sheet_folder": str(self._sheet.folder),
        }
        for name, value in facts.items():
            self._store.set_about(name, value)

    def take_holdings(self, holdings: Sequence[Holding]) -> None:
        """Find every holding, and list its files; a swept one is there when anything of it is found."""
        swept: dict[str, list[Seen]] = {}
        for holding, seen in sweep(self.computer, self._finder, holdings):
            swept.setdefault(holding.id, []).append(seen)
        for holding in holdings:
            top = self._finder.find(holding.at) if holding.at is not None else None
            found = swept.get(holding.id, [])
            here = bool(found) or (top is not None and top.facts is not None)
            at = str(holding.at) if holding.at is not None else " ".join(holding.part.sweep)
            swept_for = holding.at is None
            self._store.add_holding((holding.id, holding.guide.id, holding.title, holding.kind, at, here, swept_for))
            self._present += [holding] if here else []
            self._take_files(holding, top, found)
        for guide in {holding.guide.id: holding.guide for holding in self._present}.values():
            self._note_program(guide, [holding for holding in holdings if holding.guide.id == guide.id])
        if not self._present:
            raise self._nothing_found(holdings)

    def take_catalogs(self, scratch: Path) -> None:
        """Read every catalog that was found, and judge its entries."""
        judge = Judge(self.computer, self._finder, self._present, gone=State.MISSING_BEFORE)
        faults: list[CatalogError] = []
        for holding, seen in self._catalogs:
            document = self._store.add_document(holding.id, str(seen.path), swept=holding.at is None)
            try:
                self._take_catalog(document, holding, seen, judge, scratch)
            except CatalogError as error:
                faults.append(error)
                # For the technician, by the place that the customer knows and not by where it is mounted on the bench.
                self._store.set_fault(document, error.message.replace(str(seen.real), str(seen.path)))
        if faults and not self._store.documents():
            raise faults[0]
        self._store.set_about("warnings", self._warnings)

    def _note_program(self, guide: Guide, holdings: Sequence[Holding]) -> None:
        """Warn of a running program; a program that is there has its catalog, or it is said that it is missing."""
        program = self._sheet.part.programs.get(guide.id)
        if program and program.running:
            self._warnings.append(
                f"{guide.title} is running on {self.computer.name}: what is on disk is not what its user sees. "
                "Close it and take stock again."
            )
        for holding in holdings:
            if holding.kind == "catalog" and holding.at is not None:
                self._catalogs.append((holding, self._finder.find(holding.at)))

    def _nothing_found(self, holdings: Sequence[Holding]) -> ZestyError:
        looked = [f"{each.guide.title}: {each.at or ' '.join(each.part.sweep)}" for each in holdings]
        return ZestyError(
            f"Nothing that a guide speaks of is on {self.computer.name}.",
            details=[f"looked for {each}" for each in looked],
            next_step="Name a folder of guides with --guides, or correct the places in the sheet.",
        )

    # -- files ----------------------------------------------------------------------------------------------------

    def _take_files(self, holding: Holding, top: Seen | None, swept: Sequence[Seen]) -> None:
        own = "cache" if holding.kind == "cache" else "own"
        for each in swept:
            self._add_file(holding, each, own)
            if holding.kind == "catalog":
                self._catalogs.append((holding, each))
        if top is None or top.facts is None:
            return
        patterns = FactoryPatterns(holding, top.path, self.computer)
        self._add_file(holding, top, own)
        for each in self._finder.walk(top.path):
            self._add_file(holding, each, "factory" if patterns.match(each.path) else own)

    def _add_file(self, holding: Holding, seen: Seen, role: str) -> None:
        facts = seen.facts or _NO_FACTS
        key = self.computer.key(seen.path)
        if self._store.has_key(key):
            return  # two holdings may overlap; everything is carried once
        fault = seen.why if seen.sight is Sight.DENIED else ""
        if facts.kind == "other" and not fault:
            fault = "it is neither a file, a folder nor a link"
        self._store.add_file(FileRow(0, holding.id, role, facts.kind, str(seen.path), key, facts, fault))
        self._seen_files += 1
        if self._seen_files % _TELL_EVERY == 0:
            self._tell(Progress("looking at files", self._seen_files))

    # -- catalogs -------------------------------------------------------------------------------------------------

    def _take_catalog(self, document: Document, holding: Holding, seen: Seen, judge: Judge, scratch: Path) -> None:
        if seen.real is None or seen.facts is None:
            raise CatalogError(
                f"The catalog of {holding.guide.title} was looked for at {holding.at} and is not there.",
                next_step="Correct its place in the sheet or the guide, or plug in its volume.",
            )
        syntax = SYNTAXES[holding.part.syntax or ""]
        for beside in syntax.companions(seen.real, self._outside.disk):
            facts = self._outside.disk.facts(beside)
            self._add_file(holding, Seen(Sight.THERE, seen.path.renamed(beside.name), beside.parent, facts), "own")
            self._warnings.append(
                f"{holding.guide.title} left unfinished work beside its catalog ({beside.name}). "
                "It is carried too; better, start the program and close it in order, then take stock again."
            )
        with closing(syntax.open(seen.real, holding.part, seen.path, self._outside.disk, scratch)) as catalog:
            self._take_entries(document, catalog, judge)
            for group in catalog.groups():
                members = (document.prefix + member for member in group.members)
                parent = document.prefix + group.parent if group.parent else ""
                self._store.add_group(document.holding, document.prefix + group.key, group.name, parent, members)

    def _take_entries(self, document: Document, catalog: Catalog, judge: Judge) -> None:
        holding = document.holding
        for number, entry in enumerate(catalog.entries(), start=1):
            judged, own = judge.judge(entry), document.prefix + entry.key
            path, key = ("", "") if judged.path is None else (str(judged.path), self.computer.key(judged.path))
            self._store.add_entry(EntryRow(holding, own, entry.recorded, path, key, judged.state, judged.why))
            self._store.add_handwork(holding, own, entry.handwork)
            self._note_outside(holding, judged, judge)
            if number % _TELL_EVERY == 0:
                self._tell(Progress("judging entries", number))

    def _note_outside(self, holding: str, judged: Judgement, judge: Judge) -> None:
        """Media outside the programs' folders is listed once, so that it can be carried if that is asked for."""
        seen = judged.seen
        if seen is None or seen.facts is None or not seen.facts.is_file or judge.owns(seen.path):
            return
        key = self.computer.key(seen.path)
        if not self._store.has_key(key):
            self._store.add_file(FileRow(0, holding, "outside", "file", str(seen.path), key, seen.facts))
