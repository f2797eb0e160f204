"""One crate on its way to one computer: what every step after packing works with."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path

from ..crate import Contents, Crate, chosen_holdings, find_contents, volume_folders
from ..errors import ZestyError
from ..guides import Guide, Holding, holdings_on
from ..machines import Computer, Disk, Outside, Sheet, computer_of, lock_of_computer, make_folders, one_at_a_time
from ..machines.registry import ExportedRegistry, SystemRegistry
from ..paths import Route, RouteMap
from ..survey import SurveyStore, based, require_sound_rows
from .arrangement import Arrangement
from .document import read_plan
from .renamed_companions import renamed_companions


@dataclass(frozen=True)
class Move:
    """One crate on its way to one computer."""

    crate: Crate
    contents: Contents
    survey: SurveyStore
    old: Computer
    old_sheet: Sheet
    new: Computer
    new_sheet: Sheet
    guides: tuple[Guide, ...]
    outside: Outside
    into: Path | None = None  # a folder that represents the new computer, to look at things before they go live
    work: Path | None = None  # a folder for this move's own records, where the carrier takes none

    @property
    def own_folder(self) -> str:
        """Where this move's own records are, in the crate or in the folder for them."""
        return f"moves/{self.new.name}" + ("" if self.into is None else f" in {self.into.absolute().name}")

    @property
    def folder(self) -> Path:
        """Where this move's own records are."""
        return (self.work or self.crate.root) / self.own_folder

    @property
    def plan_path(self) -> Path:
        """The plan file: that of the computer itself, also while it goes elsewhere."""
        return (self.work or self.crate.root) / "moves" / self.new.name / "plan.toml"

    @property
    def journal_path(self) -> Path:
        """The journal file."""
        return self.folder / "journal.db"

    @property
    def plan_title(self) -> str:
        """What errors call the plan file."""
        return f"The plan {self.plan_path}"

    @contextmanager
    def at_work(self, work: str) -> Iterator[None]:
        """Hold locks on this move and on the new computer, which nobody else changes meanwhile."""
        computer = lock_of_computer(self.new, into=self.into is not None)
        with (
            one_at_a_time(self.folder / "lock", f"this crate's move to {self.new.name}", work, self.outside),
            one_at_a_time(computer, self.new.name, work, self.outside),
        ):
            yield

    def registry(self) -> SystemRegistry | None:
        """The new computer's registry: an export that its sheet names, or the real one; None where neither is."""
        part = self.new_sheet.part.windows_registry
        if self.into is not None:
            return None
        if part is not None:
            return ExportedRegistry(self.new_sheet.folder / part.file, self.outside.disk)
        return self.outside.registry if self.new_sheet.is_here else None

    def arrangement(self, text: str) -> Arrangement:
        """What a plan's text says: where everything goes, and what was decided."""
        return Arrangement(read_plan(text, self.plan_title, self.old, self.new), self.old, self.following)

    def following(self, routes: RouteMap) -> Iterator[Route]:
        """Routes of companions that are named by the path of their media, which goes by ``routes``."""
        for companion, name in renamed_companions(self.survey, self.old_holdings(), self.old, routes.translate):
            place = routes.translate(companion)
            if place is not None:
                yield Route(companion, place.renamed(name), "named after the path of its media")

    def old_holdings(self) -> list[Holding]:
        """The holdings of every guide at their places on the old computer."""
        holdings = (each for guide in self.guides for each in holdings_on(guide, self.old, self.old_sheet))
        return based(holdings, self.survey.bases(), self.old)

    def holdings_by(self, routes: RouteMap) -> list[Holding]:
        """The same, where routes lead their folders, which may be elsewhere than the guide has them."""
        old = {each.id: each for each in self.old_holdings()}

        def placed(holding: Holding) -> Holding:
            before = old.get(holding.id)
            if before is None or before.at is None or holding.at is None or holding.part.entries:
                return holding
            at = routes.translate(before.at)
            return holding if at is None or at == holding.at else replace(holding, at=at)

        return [placed(each) for each in self.holdings_there()]

    def holdings_there(self) -> list[Holding]:
        """The holdings that were chosen, of every guide, at their places on the new computer."""
        holdings = (each for guide in self.guides for each in holdings_on(guide, self.new, self.new_sheet))
        return [each for each in holdings if each.id in self.chosen]

    @cached_property
    def chosen(self) -> frozenset[str]:
        """The holdings of which something is in the crate; its survey says so, and that stays as it is."""
        return chosen_holdings(self.survey)


def open_move(
    crate: Crate,
    sheet: Sheet,
    outside: Outside,
    parts: Sequence[Path] = (),
    into: Path | None = None,
    work: Path | None = None,
) -> Move:
    """Bring together a finished crate, with the folders of its other ``parts``, and the new computer.

    With ``into``, a folder represents it, with one inside for each of its volumes. The move's own records are in the
    folder ``work``, if one is given: those that the crate has are copied into it first. Close the move's ``survey`` in
    the end.
    """
    survey = crate.open_survey(outside.disk)
    require_sound_rows(survey.database, str(crate.survey_path))
    old_sheet = crate.old_sheet(outside.disk, survey)
    new = computer_of(sheet)
    if not new.name.strip(". ") or any(c in new.name for c in '/\\:*?"<>|'):
        raise ZestyError(f"The computer's name {new.name!r} cannot name a folder.", next_step="Change it in the sheet.")
    if into is not None:
        new = _standing_in(new, into, outside.disk)
    guides = tuple(crate.guides(outside.disk))
    contents = find_contents(crate, survey, outside.disk, parts)
    contents.records = work
    move = Move(crate, contents, survey, computer_of(old_sheet), old_sheet, new, sheet, guides, outside, into, work)
    if work is not None:
        _take_along(move)
    return move


def _take_along(move: Move) -> None:
    """Copy the records that the crate has of this move into the folder for them, unless it has its own."""
    disk, there = move.outside.disk, move.crate.root / move.own_folder
    make_folders(disk, move.folder)
    if disk.names(move.folder):
        return
    for name in disk.names(there) if disk.facts(there) is not None else ():
        facts = disk.facts(there / name)
        if facts is not None and facts.is_file:
            disk.write_bytes(move.folder / name, disk.read_bytes(there / name))


def _standing_in(new: Computer, into: Path, disk: Disk) -> Computer:
    """The same computer, its volumes mounted as folders in ``into``."""
    folders = volume_folders(new)
    for name in folders.values():
        make_folders(disk, into / name)
    return new.mounted_at({anchor: into / name for anchor, name in folders.items()})
