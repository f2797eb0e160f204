"""Fill a crate: copy every file with its digest in one pass, resume, read it all back, close the bag."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import closing
from dataclasses import asdict, dataclass
from pathlib import Path

from .. import __version__
from ..errors import HalfwayError, ZestyError
from ..machines import (
    Computer,
    Disk,
    DiskError,
    Finder,
    Outside,
    computer_of,
    make_folders,
    side_by_side,
    working_folder,
)
from ..machines.texts import restored
from ..progress import Progress, Tell, silent
from ..survey import FileRow, SurveyStore
from .bag import PAYLOAD_MANIFEST, DamagedCrate, write_bag_info, write_manifest
from .crate import FORMAT, Crate, write_tag_files, write_tag_manifest
from .fetch import Errand, Fetched, fetch
from .naming import PayloadNames
from .room import Room, look_at_room, unannounced
from .scope import Scope, choose
from .verify import verify

_COMMIT_EVERY_FILES = 500
# What was asked to be left; caches and media outside the programs' folders stay by default, and are told elsewhere.
_LEFT_OUT = """
SELECT l.why, count(*), sum(f.size) FROM left_out AS l JOIN file AS f ON f.id = l.file
WHERE f.kind = 'file' AND f.role = 'own' GROUP BY l.why ORDER BY l.why
"""


@dataclass(frozen=True, slots=True)
class Left:
    """A file that was to be carried and was not, and why."""

    path: str
    why: str


@dataclass(frozen=True, slots=True)
class PackReport:
    """What packing came to. Sizes in bytes; ``files`` and ``size_bytes`` are what the crate holds now."""

    crate: str
    files: int
    size_bytes: int
    copied_now: int
    already_there: int
    left: tuple[Left, ...]
    changed_since_survey: tuple[str, ...]
    left_out: tuple[LeftOut, ...]
    outside_left: int
    factory_left: int


@dataclass(frozen=True, slots=True)
class LeftOut:
    """What the scope leaves out for one reason. Sizes in bytes."""

    why: str
    files: int
    size_bytes: int


def pack(
    crate: Crate, scope: Scope, outside: Outside, tell: Tell = silent, announce: Callable[[Room], None] = unannounced
) -> PackReport:
    """Fill the crate, or go on filling it, and read it back; ``announce`` is told of room and time before anything is.

    Raises `ZestyError` when it is finished already, the old computer is not here, or the carrier lacks room; and
    `HalfwayError` when the work stopped part of the way.
    """
    disk = outside.disk
    if crate.is_finished(disk):
        raise ZestyError(
            f"{crate.root} is packed already.",
            next_step="Read it back with --verify-only, or make a new crate with zesty survey.",
        )
    with closing(crate.open_survey(disk, writable=True)) as survey:
        computer = computer_of(crate.old_sheet(disk, survey))
        _settle_scope(crate, survey, computer, scope, disk)
        packer = _Packer(crate, survey, computer, scope, disk, tell)
        announce(packer.look_at_room())
        try:
            report = packer.fill()
            _write_records(crate, survey, scope, outside, report)
        except DiskError as error:
            raise HalfwayError(error.message, next_step=error.next_step) from error
    _read_back(crate, disk, tell)
    write_tag_manifest(crate, disk)
    return report


def _settle_scope(crate: Crate, survey: SurveyStore, computer: Computer, scope: Scope, disk: Disk) -> None:
    """One crate has one scope: what was begun with one is not finished with another; until then it can be chosen."""
    begun = survey.about("scope")
    if begun is not None and survey.count("SELECT count(*) FROM carried"):
        if option := scope.difference(begun):
            raise ZestyError(
                f"This crate was begun with another scope, and {option} is now otherwise.",
                next_step="Run zesty pack as it was begun, or make a new crate.",
            )
        return
    choose(survey, computer, crate.guides(disk), scope)
    survey.set_about("scope", scope.as_document())


class _Packer:
    def __init__(
        self, crate: Crate, survey: SurveyStore, computer: Computer, scope: Scope, disk: Disk, tell: Tell
    ) -> None:
        self._crate = crate
        self._survey = survey
        self._computer = computer
        self._scope = scope
        self._disk = disk
        self._tell = tell
        self._finder = Finder(computer, disk)
        paths = (computer.parse(row.path) for row in survey.files(scope.condition))
        self._names = PayloadNames(computer, paths)
        self._made: set[Path] = set()
        self._left: list[Left] = []
        self._changed: list[str] = []
        self._files_total, self._bytes_total = self._sum("1")

    def _sum(self, condition: str) -> tuple[int, int]:
        where = f"FROM file WHERE kind = 'file' AND {self._scope.condition} AND {condition}"
        return self._survey.count(f"SELECT count(*) {where}"), self._survey.count(f"SELECT sum(size) {where}")

    def look_at_room(self) -> Room:
        """Look at the carrier for what is still to be copied. Raises `ZestyError` when it cannot hold it."""
        files, needed = self._sum("id NOT IN (SELECT file FROM carried)")
        query = (
            f"SELECT path, size FROM file WHERE kind = 'file' AND {self._scope.condition} ORDER BY size DESC LIMIT 1"
        )
        largest = next(((restored(path), size) for path, size in self._survey.database.execute(query)), ("", 0))
        return look_at_room(self._crate, self._disk, files, needed, largest)

    def fill(self) -> PackReport:
        """Copy all that is not in the crate yet."""
        make_folders(self._disk, self._crate.data)
        already = self._survey.count("SELECT count(*) FROM carried")
        with working_folder(self._disk, self._crate.incoming):
            self._fetch_all(already, self._survey.count("SELECT sum(size) FROM carried"))
        self._make_empty_folders()
        return self._report(already)

    def _fetch_all(self, done_files: int, done_bytes: int) -> None:
        """Fetch what is not here yet. What was fetched is settled before it is written down for good."""
        database = self._survey.database
        database.execute("BEGIN")
        fetched = side_by_side(lambda errand: fetch(errand, self._disk), map(self._errand, self._pending()))
        try:
            for number, (errand, result) in enumerate(fetched, start=1):
                if self._record(errand, result):
                    done_files, done_bytes = done_files + 1, done_bytes + errand.row.size_bytes
                self._tell(Progress("copying", done_files, self._files_total, done_bytes, self._bytes_total))
                if number % _COMMIT_EVERY_FILES == 0:
                    self._commit()
                    database.execute("BEGIN")
        except ZestyError:
            self._commit()  # what came before it is whole
            raise
        self._commit()

    def _commit(self) -> None:
        self._disk.settle_all(self._crate.root)
        self._disk.commit(self._survey.database)

    def _pending(self) -> list[FileRow]:
        # A list, since files are marked as carried while it is gone through.
        condition = f"kind = 'file' AND {self._scope.condition} AND id NOT IN (SELECT file FROM carried)"
        return list(self._survey.files(condition))

    def _errand(self, row: FileRow) -> Errand:
        path = self._computer.parse(row.path)
        seen = self._finder.find(path)
        payload = self._names.name_of(path)
        target, part = self._crate.root / payload, self._crate.incoming / str(row.id)
        if row.fault or seen.real is None or seen.facts is None or not seen.facts.is_file:
            why = row.fault or seen.why or "it is not there any more"
            return Errand(row, part, row.facts, part, target, payload, why)
        if target.parent not in self._made:
            make_folders(self._disk, target.parent)
            self._made.add(target.parent)
        return Errand(row, seen.real, seen.facts, part, target, payload)

    def _record(self, errand: Errand, result: Fetched) -> bool:
        """Write down what came of an errand; whether the file is in the crate now."""
        row, facts = errand.row, result.facts
        if facts is None:
            self._left.append(Left(row.path, result.why_not))
            return False
        if (facts.size_bytes, facts.modified_ns) != (row.size_bytes, row.modified_ns):
            self._changed.append(row.path)
        self._survey.set_carried(row.id, errand.payload, result.sha512, facts)
        return True

    def _make_empty_folders(self) -> None:
        """Empty folders have no place in a manifest; they are in the survey, and here for people to see."""
        for row in self._survey.files(f"{self._scope.condition} AND kind = 'folder'"):
            make_folders(self._disk, self._crate.root / self._names.name_of(self._computer.parse(row.path)))

    def _report(self, already: int) -> PackReport:
        files = self._survey.count("SELECT count(*) FROM carried")
        count = "SELECT count(*) FROM file WHERE kind = 'file' AND role = ?"
        outside = 0 if self._scope.outside else self._survey.count(count, ("outside",))
        left_out = self._survey.database.execute(_LEFT_OUT)
        return PackReport(
            crate=str(self._crate.root),
            files=files,
            size_bytes=self._survey.count("SELECT sum(size) FROM carried"),
            copied_now=files - already,
            already_there=already,
            left=tuple(self._left),
            changed_since_survey=tuple(self._changed),
            left_out=tuple(LeftOut(*row) for row in left_out),
            outside_left=outside,
            factory_left=self._survey.count(count, ("factory",)),
        )


def _write_records(crate: Crate, survey: SurveyStore, scope: Scope, outside: Outside, report: PackReport) -> None:
    """Write everything of the bag but its last manifest."""
    disk, now = outside.disk, outside.clock.now()
    survey.set_about("left", [[each.path, each.why] for each in report.left])
    computer, user = survey.about("computer"), survey.about("user")
    about = {
        "format": FORMAT,
        "software": f"Zesty Crate {__version__}",
        "computer": {"name": computer, "system": survey.about("system"), "user": user},
        "surveyed": survey.about("taken"),
        "packed": now.isoformat(),
        "scope": scope.as_document(),
        "left-out": [asdict(each) for each in report.left_out],
        "files": report.files,
        "bytes": report.size_bytes,
    }
    write_tag_files(crate, disk, about)
    fields = [
        ("Bagging-Date", now.date().isoformat()),
        ("Payload-Oxum", f"{report.size_bytes}.{report.files}"),
        ("Bag-Size", readable_size(report.size_bytes)),
        ("External-Description", f"What {user} needs from the computer {computer}, taken with Zesty Crate"),
        ("Bag-Software-Agent", f"Zesty Crate {__version__}"),
    ]
    write_bag_info(disk, crate.root / "bag-info.txt", fields)
    rows = ((each.payload, each.sha512) for each in survey.carried())
    write_manifest(disk, crate.root / PAYLOAD_MANIFEST, rows)


def _read_back(crate: Crate, disk: Disk, tell: Tell) -> None:
    """Verify the payload; what is not as it was written is copied anew by the next run."""
    try:
        verify(crate, disk, tell)
    except DamagedCrate as error:
        bad = {line.split(": ", 1)[0] for line in error.details}
        with closing(crate.open_survey(disk, writable=True)) as survey:
            for each in list(survey.carried()):
                if each.payload in bad:
                    survey.database.execute("DELETE FROM carried WHERE file = ?", (each.file.id,))
        raise HalfwayError(
            "The carrier did not give back what was written to it.",
            details=error.details,
            next_step="Check the drive and its cable, then run zesty pack again; these files are copied anew.",
        ) from error


def readable_size(size_bytes: int) -> str:
    """A size for people, in decimal units as drives are sold."""
    size, unit = float(size_bytes), "B"
    for unit in ("B", "kB", "MB", "GB", "TB"):
        if size < 1000 or unit == "TB":
            break
        size /= 1000
    return f"{size:.0f} {unit}" if unit == "B" else f"{size:.1f} {unit}"
