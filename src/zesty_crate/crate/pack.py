"""Fill a crate: room looked at, every file copied with its digest in one pass, resumed, read back, the bags closed."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from ..errors import HalfwayError, ZestyError
from ..machines import Computer, Disk, DiskError, Outside, computer_of, database_faults, one_at_a_time
from ..machines.texts import restored
from ..progress import Tell, silent
from ..survey import SurveyStore, written
from .bag import TAG_MANIFEST, DamagedCrate
from .carriers import Carrier, Carriers, Targets
from .crate import Crate
from .delta import Since, note_unchanged, since_of
from .distribution import Space, Sum
from .filling import Filler, Left
from .one_file import CrateFile
from .records import LeftOut, Records, held, left_out
from .room import Room, look_at_room, require_room, unannounced
from .scope import TRAVELS, Scope, choose
from .verify import verify

_log = logging.getLogger(__name__)

ONE_PART = Targets()


@dataclass(frozen=True, slots=True)
class PackedPart:
    """A bag of the crate. Sizes in bytes; ``second`` is where its second copy is, or empty."""

    part: int
    at: str
    second: str
    files: int
    size_bytes: int


@dataclass(frozen=True, slots=True)
class PackReport:
    """What packing came to. Sizes in bytes; ``files`` and ``size_bytes`` are what the crate holds now.

    Of these, ``shared`` take no room of their own beside an earlier crate.
    """

    crate: str
    files: int
    size_bytes: int
    copied_now: int
    already_there: int
    parts: tuple[PackedPart, ...]
    left: tuple[Left, ...]
    changed_since_survey: tuple[str, ...]
    left_out: tuple[LeftOut, ...]
    groups_lack: tuple[str, ...]  # what entries of chosen groups name and have no file for
    outside_left: int
    factory_left: int
    since: Since | None
    shared: int
    written: tuple[CrateFile, ...] = ()  # of it, as one file each
    access_lists: int = 0  # folders with some of their own, which are left


def pack(
    crate: Crate,
    scope: Scope,
    outside: Outside,
    tell: Tell = silent,
    announce: Callable[[Room], None] = unannounced,
    targets: Targets = ONE_PART,
    since: Crate | None = None,
    there: Iterable[int] = (),
) -> PackReport:
    """Fill the crate, or continue filling it, and read it back; ``announce`` is told room and time before anything is.

    With ``since`` it holds only what is not in that earlier crate as it is still; files that are ``there``, on the
    computer that it goes to, stay, as the scope says. A finished crate that lacks files
    which could not be carried is opened again for these.

    Raises `ZestyError` when it is finished and whole already, the old computer is not here, or the carriers lack room;
    and `HalfwayError` when the work stopped partway.
    """
    disk = outside.disk
    with closing(crate.open_survey(disk)) as survey:  # else it is no crate, and nothing is to be left in it
        odd = {row.path for row in survey.files("kind = 'other'")}
        left = [each for each in survey.about("left") or [] if each[0] not in odd]
    is_finished = crate.is_finished(disk)
    if is_finished and not left:
        raise ZestyError(
            f"{crate.root} is already packed.",
            next_step="Verify it with --verify-only, or create a new crate with zesty survey.",
        )
    with one_at_a_time(crate.lock_path, str(crate.root), "zesty pack", outside):
        if is_finished:
            _reopen(crate, disk)
        return _filled(crate, scope, outside, tell, announce, targets, since, there)


def _reopen(crate: Crate, disk: Disk) -> None:
    """Have a finished crate be unfinished again: what it holds stays, and its last manifests are written anew."""
    with written(crate.open_survey(disk, writable=True)) as survey:
        survey.database.execute("UPDATE bag SET closed = 0 WHERE NOT earlier")
        second = str(survey.about("second-copy") or "")
        roots = [restored(row[0]) for row in survey.database.execute("SELECT root FROM bag WHERE NOT earlier")]
    copies = [Path(second) / root.name for root in (*map(Path, roots), crate.root) if second]
    for root in dict.fromkeys([crate.root, *map(Path, roots), *copies]):
        disk.remove(root / TAG_MANIFEST)


def _filled(
    crate: Crate,
    scope: Scope,
    outside: Outside,
    tell: Tell,
    announce: Callable[[Room], None],
    targets: Targets,
    since: Crate | None,
    there: Iterable[int],
) -> PackReport:
    disk = outside.disk
    with written(crate.open_survey(disk, writable=True)) as survey:
        computer = computer_of(crate.old_sheet(disk, survey))
        _settle_scope(crate, survey, computer, scope, disk, there)
        note_unchanged(survey, scope, since, disk)
        _log.info("scope: %s", scope.as_document())
        packer = _Packer(crate, survey, computer, scope, outside, tell, targets)
        packer.prepare(announce)
        try:
            with database_faults(survey.database):
                packer.fill()
                report = packer.report()
                packer.close()
        except DiskError as error:
            raise HalfwayError(error.message, next_step=error.next_step) from error
    packer.finish()
    _log.info("packed %d files, %d bytes; could not carry %d", report.files, report.size_bytes, len(report.left))
    return report


def _settle_scope(
    crate: Crate, survey: SurveyStore, computer: Computer, scope: Scope, disk: Disk, there: Iterable[int]
) -> None:
    """One crate has one scope: what was begun with one is not finished with another; until then it can be chosen."""
    begun = survey.about("scope")
    if begun is not None and survey.count("SELECT count(*) FROM carried"):
        if option := scope.difference(begun):
            raise ZestyError(
                f"This crate was started with another scope: {option} differs.",
                next_step="Run zesty pack with the same options as before, or create a new crate.",
            )
        return
    with disk.one_change(survey.database):
        choose(survey, computer, crate.guides(disk), scope, there)
        survey.set_about("scope", scope.as_document())


class _Packer:
    def __init__(
        self,
        crate: Crate,
        survey: SurveyStore,
        computer: Computer,
        scope: Scope,
        outside: Outside,
        tell: Tell,
        targets: Targets,
    ) -> None:
        self._crate = crate
        self._survey = survey
        self._scope = scope
        self._disk = outside.disk
        self._tell = tell
        self._targets = targets
        self._filler = Filler(crate, survey, computer, scope, outside.disk, tell, targets)
        self._records = Records(crate, survey, scope, outside)
        self._carriers = Carriers(crate, survey, targets, outside.disk)
        self._already = self._filler.distribution.carried()
        self._read: set[int] = set()

    # -- the parts ------------------------------------------------------------------------------------------------

    def prepare(self, announce: Callable[[Room], None]) -> None:
        """Share everything out, and say so. Raises `ZestyError` when the carriers cannot hold it; nothing is begun."""
        with self._disk.one_change(self._survey.database):
            self._carriers.open_known(self._filler.total.files)
            self._lacking = self._distribute(self._carriers.opened)
            require_room(self._filler.distribution, self._carriers, self._lacking, self._disk)
            self._leave_what_is_not_needed()
        announce(look_at_room(self._filler.distribution, self._carriers.opened, self._lacking, self._disk))

    def _leave_what_is_not_needed(self) -> None:
        """Carriers that were named, and that nothing goes to, are left as they are."""
        for carrier in reversed(self._carriers.opened[1:]):
            if self._filler.distribution.assigned_to(carrier.bag).files or self._carriers.is_begun(carrier):
                return
            self._carriers.give_up(carrier)

    def _distribute(self, carriers: list[Carrier]) -> Sum:
        return self._filler.distribution.assign([carrier.space for carrier in carriers], self._another)

    def _another(self) -> Space | None:
        """A part more beside the first, where only their size was given."""
        if self._targets.part_bytes is None or self._targets.onto:
            return None
        carrier = self._carriers.open(self._crate.root.parent, self._filler.total.files)
        return carrier.space if carrier.space.most_bytes else None

    def fill(self) -> None:
        """Fetch everything: onto the carriers there are, then onto those that are asked for in turn."""
        for carrier in list(self._carriers.opened):
            self._fill(carrier)
        while self._lacking.size_bytes:
            for carrier in self._here()[1:]:  # whoever is asked for another carrier may have to unplug these
                self._write_down(carrier, None)
                self._records.finish(carrier)
            carrier = self._asked_for()
            before, self._lacking = self._lacking, self._distribute([carrier])
            if self._lacking == before:
                self._carriers.give_up(carrier)
                raise HalfwayError(
                    f"The carrier at {carrier.part.root.parent} has {carrier.free_bytes:,} bytes free, which is not "
                    "enough for any of the remaining files and the crate's own records.",
                    next_step="Run zesty pack again with another carrier; it continues where it stopped.",
                )
            self._fill(carrier)
        self._filler.drop_what_was_given_up()
        self._filler.make_empty_folders(self._carriers.opened[0])
        self._filler.note_other_attributes()

    def _fill(self, carrier: Carrier) -> None:
        self._records.begin(carrier)
        self._filler.fetch(carrier)

    def _asked_for(self) -> Carrier:
        number, lacking = self._carriers.next_number, self._lacking
        folder = self._targets.ask(number, lacking.size_bytes) if self._targets.ask else None
        if folder is None:
            raise HalfwayError(
                f"{lacking.files:,} files with {lacking.size_bytes:,} bytes have no carrier yet.",
                next_step="Run zesty pack again with another carrier; it continues where it stopped.",
            )
        try:
            return self._carriers.open(folder, self._filler.total.files)
        except ZestyError as error:
            raise HalfwayError(error.message, next_step=error.next_step) from error

    def _here(self) -> list[Carrier]:
        """The carriers that are plugged in still."""
        return [each for each in self._carriers.opened if self._disk.facts(each.part.own) is not None]

    # -- the end --------------------------------------------------------------------------------------------------

    def close(self) -> None:
        """Write the records of every part that is here, and read each back. The survey is final from here on."""
        second, parts = self._targets.second, self._carriers.next_number - 1
        with self._disk.one_change(self._survey.database):
            self._survey.set_about("left", [[each.path, each.why] for each in self._filler.left])
            self._survey.set_about("second-copy", None if second is None else str(second.absolute()))
            self._survey.database.execute("UPDATE bag SET closed = 1")
        for carrier in reversed(self._here()):
            self._write_down(carrier, parts)

    def finish(self) -> None:
        """Write the last manifests, the crate's own at the very end."""
        for carrier in reversed(self._here()):
            self._records.finish(carrier)
        for copy in (copy for carrier in self._here() for copy in carrier.copies):
            self._disk.flush_all(copy.root)

    def _write_down(self, carrier: Carrier, parts: int | None) -> None:
        """Write a part's records; and read it back, unless it was before."""
        self._survey.database.execute("UPDATE bag SET closed = 1 WHERE number = ? AND NOT closed", (carrier.bag,))
        self._filler.drop_what_went_elsewhere(carrier)
        self._records.write(carrier, parts)
        if carrier.bag not in self._read:
            for copy in carrier.copies:
                self._read_back(carrier.bag, copy)
        self._read.add(carrier.bag)

    def _read_back(self, bag: int, copy: Crate) -> None:
        """Verify the payload of a part; what is not as it was written is copied anew by the next run."""
        try:
            verify(copy, self._disk, self._tell)
        except DamagedCrate as error:
            self._forget(bag, {line.split(": ", 1)[0] for line in error.details})
            raise HalfwayError(
                "The carrier returned different data than was written to it.",
                details=error.details,
                next_step="Check the drive and its cable, then run zesty pack again; it copies these files again.",
            ) from error

    def _forget(self, bag: int, bad: set[str]) -> None:
        database = self._survey.database
        database.execute("UPDATE bag SET closed = 0 WHERE number = ?", (bag,))
        self._survey.set_about("links-failed", len(bad))  # what is shared may be what is damaged
        for name in bad:
            database.execute(
                "DELETE FROM carried WHERE bag = ?1 AND payload = ?2 "
                "OR file IN (SELECT file FROM segment WHERE bag = ?1 AND payload = ?2)",
                (bag, name),
            )
            database.execute("DELETE FROM segment WHERE bag = ? AND payload = ?", (bag, name))

    def report(self) -> PackReport:
        """What packing came to."""
        survey, carried = self._survey, self._filler.distribution.carried()
        count = """
            SELECT count(*) FROM file WHERE kind = 'file' AND role = ?
            AND id NOT IN (SELECT file FROM left_out WHERE why = ?)"""
        return PackReport(
            crate=str(self._crate.root),
            files=carried.files,
            size_bytes=carried.size_bytes,
            copied_now=carried.files - self._already.files,
            already_there=self._already.files,
            parts=tuple(self._packed(carrier) for carrier in self._carriers.opened),
            left=tuple(self._filler.left),
            changed_since_survey=tuple(self._filler.changed),
            left_out=left_out(survey),
            groups_lack=tuple(survey.about("groups-lack") or ()),
            outside_left=0 if self._scope.outside else survey.count(count, ("outside", TRAVELS)),
            since=since_of(survey),
            shared=self._filler.shared,
            factory_left=survey.count(count, ("factory", TRAVELS)),
            access_lists=int(survey.about("access-lists") or 0),
        )

    def _packed(self, carrier: Carrier) -> PackedPart:
        second = "" if carrier.second is None else str(carrier.second.root)
        return PackedPart(carrier.bag, str(carrier.part.root), second, *held(self._survey, carrier.bag))
