"""Take stock of one computer: find the holdings, list their files, read the catalogs, judge every entry."""

from __future__ import annotations

import logging
import re
from collections.abc import Sequence
from contextlib import closing
from dataclasses import asdict, astuple, dataclass, replace
from pathlib import Path

from ..catalogs import CatalogError, syntax_of
from ..errors import ZestyError
from ..guides import Guide, Holding, first_start, holdings_on, is_running
from ..machines import Computer, FileFacts, Finder, Outside, Seen, Sheet, Sight, computer_of
from ..machines.places import USUAL_PLACES
from ..machines.sheet import VolumePart
from ..machines.texts import stored
from ..paths import MachinePath
from ..progress import Tell, silent
from ..version import __version__
from .bases import based, bases_of
from .coverage import Coverage
from .documents import FoundDocument, Registry, roots_of
from .doubts import settle_verdicts
from .duplicates import note_duplicates
from .entries import EntryTaker
from .judge import Judge
from .links import leaving_links, note_unregistered
from .lookalikes import find_lookalikes
from .prefetch import Errand, Prefetch
from .rows import Document, new_file
from .schema import FORMAT
from .spot_checks import name_spot_checks, open_spot_checks, pick_spot_checks
from .states import State
from .stocktaking import holding_row, index_entries, list_files, note_not_looked_at, read_catalog
from .store import SurveyStore, written
from .uncovered_documents import documents_among
from .walk import Walk

_log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class SurveyOptions:
    """Options of a survey.

    ``spot_checks`` are items to look at again in the end. With ``duplicates`` files are read to find those of one
    content. ``gone`` is the state of an entry without a file. With ``coverage`` what no holding covers is counted, on
    all volumes. The folders ``aside`` are ours, and not looked into. Those ``also`` carried are noted, to be proposed
    again. A survey that ``may_be_empty`` is no mistake if nothing of any guide is there.
    """

    spot_checks: tuple[str, ...] = ()
    duplicates: bool = True
    may_be_empty: bool = False
    gone: State = State.MISSING_BEFORE
    coverage: bool = False
    aside: tuple[Path, ...] = ()
    also: tuple[str, ...] = ()


def take_survey(
    target: Path,
    sheet: Sheet,
    guides: Sequence[Guide],
    outside: Outside,
    scratch: Path,
    tell: Tell = silent,
    options: SurveyOptions | None = None,
) -> None:
    """Write a survey of the computer of ``sheet`` into the new file ``target``.

    ``scratch`` is an empty folder for working copies. A catalog that cannot be read is noted, and the others continue.
    Raises `ZestyError` when no guide finds anything.
    """
    with written(SurveyStore.create(target)) as store:
        taker = _Taker(store, sheet, guides, outside, scratch, tell, options or SurveyOptions())
        taker.note_about()
        with closing(taker.prefetch()):
            taker.take_holdings()
            taker.take_catalogs(scratch)
        taker.look_closer()


class _Taker:
    def __init__(
        self,
        store: SurveyStore,
        sheet: Sheet,
        guides: Sequence[Guide],
        outside: Outside,
        scratch: Path,
        tell: Tell,
        options: SurveyOptions,
    ) -> None:
        self._computer: Computer = computer_of(sheet)
        self._store = store
        self._sheet = sheet
        self._guides = guides
        self._outside = outside
        self._finder = Finder(self._computer, outside.disk)
        self._tell = tell
        self._options = options
        self._holdings = [holding for guide in guides for holding in holdings_on(guide, self._computer, sheet)]
        self._registry = Registry(sheet, self._finder, outside, scratch)
        self._warnings: list[str] = []
        self._present: list[Holding] = []
        self._unseen: dict[str, str] = {}  # holdings of which it is not known whether they are there, and why
        self._away: dict[str, str] = {}  # those whose volumes are not connected
        self._documents: list[FoundDocument] = []
        self._followed: list[MachinePath] = []
        self._coverage = Coverage(self._computer, store) if options.coverage else None
        self._prefetch = Prefetch(self._computer, outside.disk, scratch, (options or SurveyOptions()).gone)

    def note_about(self) -> None:
        """Record the computer itself, and how this survey was made."""
        part = self._sheet.part
        facts = {
            "format": FORMAT,
            "software": f"Zesty Crate {__version__}",
            "taken": self._outside.clock.now().isoformat(),
            "computer": part.computer.name,
            "system": part.computer.system,
            "user": part.computer.user,
            "home": str(self._computer.place("home")),
            "volumes": [self._volume(each) for each in part.volume],
            "guides": [guide.id for guide in self._guides],
            "sheet_folder": str(self._sheet.folder),
            "also": list(self._options.also),
        }
        for name, value in facts.items():
            self._store.set_about(name, value)

    def prefetch(self) -> Prefetch:
        """Begin with the catalogs whose places are known."""
        placed = ((each, each.at) for each in self._holdings if each.part.entries and not each.has_several)
        self._prefetch.begin([Errand(each, self._finder.find(at)) for each, at in placed if at is not None])
        return self._prefetch

    def take_holdings(self) -> None:
        """Walk the computer once, and list the files of every holding."""
        mounts = self._outside.disk.mount_points() if self._sheet.is_here else ()
        walk = Walk(self._computer, self._finder, self._holdings, self._coverage, [*mounts, *self._options.aside])
        list_files(self._store, walk, self._tell)
        self._followed = walk.links.tops
        self._store.set_about("followed-links", [astuple(each) for each in walk.links.found])
        self._store.set_about("system-folders", walk.borders.system)
        self._store.set_about("mounts", walk.borders.mounts)
        self._unseen, self._away = walk.unseen, walk.away
        note_not_looked_at(self._store, walk)
        for holding in self._holdings:
            found = walk.found[holding.id]
            if holding.part.branch:
                self._documents += self._registry.documents(holding)
                here = bool(self._documents) and self._documents[-1].holding is holding
            else:
                here = bool(found)
            self._store.add_holding(holding_row(holding, present=here))
            _log.debug("holding %s at %s: %s", holding.id, holding.where, "found" if here else "not found")
            self._present += [holding] if here else []
            if (holding.part.entries and holding.part.sweep) or (found and holding.part.entries):
                self._documents += [FoundDocument(holding, seen) for seen in found]
        if not self._present and not self._options.may_be_empty:
            raise self._nothing_found()
        self._note_programs()

    def take_catalogs(self, scratch: Path) -> None:
        """Read every catalog that was found, and judge its entries."""
        judge = Judge(self._computer, self._finder, self._present, self._options.gone, self._followed)
        disk = self._outside.disk
        baseless = self._note_bases(scratch)
        taker = EntryTaker(self._store, self._computer, self._finder, judge, disk, self._tell)
        self._store.index("file_by_key")
        for found in roots_of(self._documents, disk, scratch):
            document = self._store.add_document(
                found.holding.id, found.path, several=found.holding.has_several, registry=found.is_registry
            )
            try:
                if found.holding.id in baseless:
                    raise baseless[found.holding.id]
                self._take_catalog(taker, document, found, scratch)
            except CatalogError as error:
                _log.warning("document %s cannot be read: %s", found.path, error.message)
                # For the technician, by the place that the customer knows and not by where it is mounted on the bench.
                self._store.set_not_read(document, error.message.replace(str(found.seen.real), found.path))
        taker.judge()
        lookalikes = find_lookalikes(self._store, self._computer, self._finder)
        self._store.set_about("lookalikes", [asdict(each) for each in lookalikes])
        leaving = [*leaving_links(self._store, self._computer, self._finder, judge)]
        self._store.set_about("links", [list(each) for each in leaving])
        index_entries(self._store)
        settle_verdicts(self._store)
        if self._coverage is not None:
            self._coverage.sum_up()
            documents = documents_among(self._coverage.candidates, self._finder, disk, self._tell)
            self._store.set_about("uncovered-documents", [astuple(each) for each in documents])
            self._store.set_about("not-searched", self._coverage.candidates.passed)

    def _note_bases(self, scratch: Path) -> dict[str, CatalogError]:
        """Look up what other documents say of where paths start; why not, for holdings of which that is not known."""
        disk = self._outside.disk
        bases, baseless = bases_of(self._holdings, self._documents, self._computer, disk, scratch)
        self._store.set_about("bases", bases)
        know = {each.id: each for each in based(self._holdings, bases, self._computer)}
        self._documents = [replace(each, holding=know[each.holding.id]) for each in self._documents]
        return baseless

    def look_closer(self) -> None:
        """What takes another look at what was found: registrations, duplicates, spot checks."""
        note_unregistered(self._store, self._computer, self._finder, self._holdings)
        if self._options.duplicates:
            note_duplicates(self._store, self._computer, self._finder, self._outside.disk, self._tell)
        self._store.set_about("duplicates", self._options.duplicates)
        pick_spot_checks(self._store)
        for each in name_spot_checks(self._store, self._options.spot_checks):
            self._warnings.append(f"There is no item named {each}, so it is not a spot check.")
        self._store.flush()
        open_spot_checks(self._store, self._computer, self._finder, self._tell)
        if unused := sorted(set(self._sheet.part.places) - self._known_places()):
            self._warnings.append(
                f"The sheet names places that nothing uses: {', '.join(unused)}. Correct their names, or remove them."
            )
        self._store.set_about("warnings", self._warnings)

    def _known_places(self) -> set[str]:
        """The usual places of a system, those that guides ask for, and those that other places are made of."""
        templates = [*self._sheet.part.places.values()]
        for guide in self._guides:
            templates += [each.at for each in guide.part.holding]
            templates += [str(value) for texts in guide.part.places.values() for _, value in texts if value]
        used = {name for template in templates for name in re.findall(r"\{([^{}]+)\}", template)}
        return {*USUAL_PLACES[self._sheet.system], *used}

    def _volume(self, part: VolumePart) -> dict[str, object]:
        """A volume with its room: as the sheet says, or, where a whole one is mounted here, as it is."""
        mount = None if part.mount is None else self._sheet.folder / part.mount
        here = mount is not None and self._outside.disk.facts(mount) is not None
        measured = self._outside.disk.room_of_volume(mount) if here and mount else None
        size, free = measured or (part.size_bytes, part.free_bytes)
        known = {"anchor": part.anchor, "label": part.label, "format": part.format or ""}
        return {**known, "here": here, "travels": part.travels, "size-bytes": size, "free-bytes": free}

    def _note_programs(self) -> None:
        """Say of each program that is here how it stands; a program that is here has its catalog, or lacks it."""
        may_be_here = (holding for holding in self._holdings if holding in self._present or holding.id in self._unseen)
        guides = {holding.guide.id: holding.guide for holding in may_be_here}
        programs = []
        for guide in guides.values():
            running = is_running(guide, self._sheet, self._outside)
            if running:
                self._warnings.append(
                    f"{guide.title} is running on {self._computer.name}: the files on disk are not what its user sees. "
                    "Quit it and take a new survey."
                )
            if guide.part.program or guide.id in self._sheet.part.programs:
                programs.append(self._program(guide, running=running))
            for holding in self._holdings:
                lone = holding.at is not None and not holding.has_several and holding.part.entries
                if lone and holding.guide.id == guide.id and holding not in self._present and holding.at is not None:
                    self._documents.append(FoundDocument(holding, self._finder.find(holding.at)))
        self._store.set_about("programs", programs)
        steps = [
            {"guide": guide.id, "when": step.when, "do": step.do, "who": step.who}
            for guide in guides.values()
            for step in guide.part.manual_step
        ]
        self._store.set_about("manual-steps", steps)

    def _program(self, guide: Guide, *, running: bool | None) -> dict[str, object]:
        part, on_sheet = guide.part.program, self._sheet.part.programs.get(guide.id)
        place = first_start(guide, self._computer, self._sheet)
        started = None if place is None else self._finder.find(place).sight is Sight.THERE
        return {
            "guide": guide.id,
            "title": guide.title,
            "version": on_sheet.version if on_sheet else "",
            "versions": part.versions if part else "any",
            "seats": part.seats if part else None,
            "seats_used": on_sheet.seats_used if on_sheet else None,
            "running": running,
            "started": started,
        }

    def _nothing_found(self) -> ZestyError:
        reasons = {each: f" ({why})" for each, why in (self._unseen | self._away).items()}
        return ZestyError(
            f"No guide found anything on {self._computer.name}.",
            details=[
                f"looked for {each.guide.title}: {each.where}{reasons.get(each.id, '')}" for each in self._holdings
            ],
            next_step="Name a folder of guides with --guides, or correct the places in the sheet.",
        )

    def _take_catalog(self, taker: EntryTaker, document: Document, found: FoundDocument, scratch: Path) -> None:
        holding, seen = found.holding, found.seen
        if seen.sight is Sight.DENIED:
            raise CatalogError(seen.why, next_step="See that this user may read it.")
        if seen.real is None or seen.facts is None:
            raise CatalogError(
                f"The catalog of {holding.guide.title} is not at {holding.where}.",
                next_step="Correct its place in the sheet or the guide, or connect its volume.",
            )
        syntax, disk = syntax_of(holding.part), self._outside.disk
        for beside in syntax.companions(seen.real, disk):
            self._note_unfinished(holding, seen, beside, disk.facts(beside))
        read_catalog(self._store, taker, self._prefetch, document, holding, seen, seen.real, disk, scratch)

    def _note_unfinished(self, holding: Holding, seen: Seen, beside: Path, facts: FileFacts | None) -> None:
        """A journal beside a catalog goes along with it, though it is better that there be none."""
        path = seen.path.renamed(beside.name)
        key = self._computer.key(path)
        if facts is not None and not self._store.count("SELECT count(*) FROM file WHERE key = ?", (stored(key),)):
            self._store.add_file(new_file(holding.id, "own", str(path), key, facts))
        self._warnings.append(
            f"{holding.guide.title} left unfinished work beside its catalog ({beside.name}). "
            "It is carried too. Better: start the program, quit it normally, and take a new survey."
        )
