"""Write the merge of a carried catalog with the one that is there, where a plan decides so."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from ..catalogs import CatalogError, Proof
from ..guides import Holding
from ..journal import Locations, Step
from ..machines import Finder, working_folder
from ..merge import MergeReport
from ..paths import MachinePath
from ..plan import Arrangement, MergedFile, MergeErrand, MergeRecord, Move, merged_file, write_record
from ..split_paths import Targets
from ..survey import Document
from .model import RelinkedCatalog
from .replace import CatalogReplacer, Wanted


@dataclass(frozen=True, slots=True)
class CatalogMerger:
    """Merges catalogs as an ``arrangement`` says."""

    move: Move
    arrangement: Arrangement
    replacer: CatalogReplacer
    finder: Finder
    leave_entries: bool

    def merge(self, step: Step | None, holding: Holding, document: Document, place: MachinePath) -> RelinkedCatalog:
        """Merge one catalog into the one at ``place``; without a ``step`` nothing is written. Raises `CatalogError`."""
        disk, move = self.move.outside.disk, self.move
        seen = self.finder.find(place)
        if seen.real is None or seen.facts is None:
            raise CatalogError(
                "It was to be merged with the one there, which no longer exists.",
                next_step="Run zesty plan again.",
            )
        location = Locations(move.new).at(self.finder, place)
        at = move.old.parse(document.path)
        targets = Targets(move.survey, move.old, move.new, self.arrangement.routes)
        with working_folder(disk, move.folder / "work") as work:
            sha512 = disk.digest(seen.real).sha512
            errand = MergeErrand(document, holding, at, place, seen.real)
            options = self.arrangement.merging.options_for(place)
            merged = merged_file(move, errand, targets, options, work, leave_entries=self.leave_entries)
            _require_decided(merged.report)
            proof = None
            if step is not None and not changes(merged.report):
                write_record(move, place, _record(merged, sha512, is_written=False), errand.there)
            elif step is not None:
                wanted = Wanted(holding, location, sha512, lambda _, part: self._build(merged, place, part))
                proof = self.replacer.replace(step, wanted)
        report = merged.report
        return RelinkedCatalog(
            holding.id, holding.title, str(place), report.new, _written(report), (), (), proof, merge=report
        )

    def _build(self, merged: MergedFile, place: MachinePath, part: Path) -> Proof:
        """Have the merged catalog in its part file, and its record kept before it takes its place."""
        disk, report = self.move.outside.disk, merged.report
        facts = disk.facts(merged.file)
        if facts is None:
            raise CatalogError("Its merged copy is gone.", next_step="Run the command again.")
        copied = disk.copy(merged.file, part, facts)
        write_record(self.move, place, _record(merged, copied.sha512, is_written=True), part)
        new = sum(each.new for each in report.tables)
        return Proof(len(report.tables), merged.merged.compared, _written(report), rows_added=new)


def _record(merged: MergedFile, sha512: str, *, is_written: bool) -> MergeRecord:
    before = sum(each.before for each in merged.report.tables if each.role == "entries")
    return MergeRecord(merged.file, sha512, merged.merged.keys, merged.merged.rows, before, is_written)


def changes(report: MergeReport) -> bool:
    """Whether a merge changes anything of what is there."""
    return bool(any(each.new for each in report.tables) or _written(report))


def _written(report: MergeReport) -> int:
    """How many values are taken over from the carried catalog."""
    return report.only_carried + sum(each.outcome == "bring-in" for each in report.conflicts)


def _require_decided(report: MergeReport) -> None:
    if report.undecided:
        few = "; ".join(f"{each.entry}: {each.field}" for each in report.undecided[:3])
        raise CatalogError(
            f"Values that differ on both sides and need a decision: {len(report.undecided)} ({few}).",
            next_step="Decide with zesty plan --values keep, bring-in or newer, or with --decisions FILE.csv.",
        )
