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
from .store import FORMAT, EntryRow, FileRow, SurveyStore

_TELL_EVERY = 1000
_NO_FACTS = FileFacts("other", 0, 0, 0)


def take_survey(
    target: Path, sheet: Sheet, guides: Sequence[Guide], outside: Outside, scratch: Path, tell: Tell = silent
) -> None:
    """Write a survey of the computer of ``sheet`` into the new file ``target``.

    ``scratch`` is an empty folder for working copies. Raises `ZestyError` when no guide finds anything, or when a
    program is there and its catalog is not, or cannot be read.
    """
    with closing(SurveyStore.create(target)) as store:
        taker = _Taker(store, computer_of(sheet), sheet, outside, tell)
        taker.note_about(guides)
        found = [taker.take_guide(guide, scratch) for guide in guides]
        if not any(found):
            looked = [f"{guide.title}: {h.at}" for guide in guides for h in holdings_on(guide, taker.computer, sheet)]
            raise ZestyError(
                f"Nothing that a guide speaks of is on {taker.computer.name}.",
                details=[f"looked for {each}" for each in looked],
                next_step="Name a folder of guides with --guides, or correct the places in the sheet.",
            )


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

    def take_guide(self, guide: Guide, scratch: Path) -> bool:
        """Take one program's holdings; whether any of them is there."""
        holdings = holdings_on(guide, self.computer, self._sheet)
        seen = {holding.id: self._finder.find(holding.at) for holding in holdings}
        present = {name for name, each in seen.items() if each.facts is not None}
        for holding in holdings:
            here = holding.id in present
            row = (holding.id, guide.id, holding.title, holding.kind, str(holding.at), here)
            self._store.add_holding(row)
        if not present:
            return False
        self._warn_running(guide)
        for holding in holdings:
            self._take_files(holding, seen[holding.id])
        judge = Judge(self.computer, self._finder, holdings, gone=State.MISSING_BEFORE)
        for holding in holdings:
            if holding.kind == "catalog":
                self._take_catalog(holding, seen[holding.id], judge, scratch)
        self._store.set_about("warnings", self._warnings)
        return True

    def _warn_running(self, guide: Guide) -> None:
        program = self._sheet.part.programs.get(guide.id)
        if program and program.running:
            self._warnings.append(
                f"{guide.title} is running on {self.computer.name}: what is on disk is not what its user sees. "
                "Close it and take stock again."
            )

    # -- files ----------------------------------------------------------------------------------------------------

    def _take_files(self, holding: Holding, top: Seen) -> None:
        if top.facts is None:
            return
        patterns = FactoryPatterns(holding, self.computer)
        self._add_file(holding, top, "own")
        for each in self._finder.walk(top.path):
            self._add_file(holding, each, "factory" if patterns.match(each.path) else "own")

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

    def _take_catalog(self, holding: Holding, seen: Seen, judge: Judge, scratch: Path) -> None:
        if seen.real is None or seen.facts is None:
            raise CatalogError(
                f"The catalog of {holding.guide.title} was looked for at {holding.at} and is not there.",
                next_step="Correct its place in the sheet or the guide, or plug in its volume.",
            )
        syntax = SYNTAXES[holding.part.syntax or ""]
        for beside in syntax.companions(seen.real, self._outside.disk):
            facts = self._outside.disk.facts(beside)
            self._add_file(holding, Seen(Sight.THERE, seen.path.renamed(beside.name), beside, facts), "own")
            self._warnings.append(
                f"{holding.guide.title} left unfinished work beside its catalog ({beside.name}). "
                "It is carried too; better, start the program and close it in order, then take stock again."
            )
        with closing(
            syntax.open(seen.real, holding.part, self.computer.system, self._outside.disk, scratch)
        ) as catalog:
            self._take_entries(holding, catalog, judge)
            for group in catalog.groups():
                self._store.add_group(holding.id, group.key, group.name, group.parent, group.members)

    def _take_entries(self, holding: Holding, catalog: Catalog, judge: Judge) -> None:
        for number, entry in enumerate(catalog.entries(), start=1):
            judged = judge.judge(entry)
            path, key = ("", "") if judged.path is None else (str(judged.path), self.computer.key(judged.path))
            self._store.add_entry(EntryRow(holding.id, entry.key, entry.recorded, path, key, judged.state, judged.why))
            self._store.add_handwork(holding.id, entry.key, entry.handwork)
            self._note_outside(holding, judged, judge)
            if number % _TELL_EVERY == 0:
                self._tell(Progress("judging entries", number))

    def _note_outside(self, holding: Holding, judged: Judgement, judge: Judge) -> None:
        """Media outside the program's folders is listed once, so that it can be carried if that is asked for."""
        seen = judged.seen
        if seen is None or seen.facts is None or not seen.facts.is_file or judge.owns(seen.path):
            return
        self._add_file(holding, seen, "outside")
