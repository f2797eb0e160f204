"""The folders that take the parts of a crate: each a bag of its own, with the room that its carrier has."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import closing
from dataclasses import dataclass, field
from pathlib import Path

from ..errors import ZestyError
from ..machines import BOUNDLESS, Disk
from ..machines.texts import restored, stored
from ..paths import FORMATS
from ..survey import SurveyStore
from .crate import Crate
from .distribution import Space

_MARGIN_BYTES = 256 << 10  # records besides the survey, and what the carrier keeps for itself
_BYTES_A_FILE = 600  # what a file adds to the manifest and to the survey
_BYTES_A_LINE = 250  # what it adds to the manifest alone
_MOST_RECORDS = 2  # where the survey would take more than one part in so many, a part does without it

Ask = Callable[[int, int], Path | None]  # (number of the part, bytes that are still to go): the folder it goes to


@dataclass(frozen=True, slots=True)
class Targets:
    """Where a crate goes besides its own folder. Sizes in bytes.

    ``part_bytes`` is the most that a part may have; ``onto`` are the folders for the second part and those that
    follow; ``ask`` is asked for more of them. ``second`` is the folder for a second copy. ``format`` is what is known
    of a carrier that does not tell. What ``share_with`` has on the same carrier, unchanged, is shared by hard links.
    """

    part_bytes: int | None = None
    onto: tuple[Path, ...] = ()
    second: Path | None = None
    format: str = ""
    ask: Ask | None = None
    share_with: Crate | None = None


@dataclass(frozen=True, slots=True)
class Carrier:
    """The carrier of one part: the part, its second copy, and the room there is for payload."""

    bag: int
    part: Crate
    second: Crate | None
    format: str
    free_bytes: int
    space: Space
    records_bytes: int  # that must have room besides payload
    has_all_records: bool

    @property
    def copies(self) -> list[Crate]:
        """The part itself, and its second copy."""
        return [self.part] if self.second is None else [self.part, self.second]


@dataclass(slots=True)
class Carriers:
    """The carriers of a crate's parts, opened one after the other."""

    crate: Crate
    survey: SurveyStore
    targets: Targets
    disk: Disk
    opened: list[Carrier] = field(default_factory=list)

    @property
    def next_number(self) -> int:
        """The number of the next part."""
        return self.survey.count("SELECT coalesce(max(number), 0) + 1 FROM bag WHERE NOT earlier")

    def open_known(self, files: int) -> None:
        """The crate itself, the parts of an earlier run that are here, and the folders that were named.

        ``files`` are all that must be carried, and need room in the records, too. Raises `ZestyError` when a part was
        begun and is not here, or when its place holds something else.
        """
        if self.next_number == 1:
            self._note(1, self.crate)
        known = dict(self._begun())
        for number, part in known.items():
            self._open(number, part, files)
        taken = {part.root.parent.absolute() for part in known.values()}
        for folder in self.targets.onto:
            if folder.absolute() not in taken:
                self.open(folder, files)

    def open(self, folder: Path, files: int) -> Carrier:
        """A carrier for the next part, in a folder. Raises `ZestyError` when it is not there, or has no place."""
        number = self.next_number
        part = Crate(folder / f"{self.crate.name} - part {number}")
        if self.disk.facts(folder) is None:
            raise ZestyError(
                f"The folder for part {number} does not exist: {folder}.",
                next_step="Connect its carrier, or name another folder with --onto.",
            )
        self._require_own(part)
        carrier = self._open(number, part, files)
        self._note(number, part)
        return carrier

    def give_up(self, carrier: Carrier) -> None:
        """Forget a carrier that nothing was written to."""
        self.opened.remove(carrier)
        self.survey.database.execute("DELETE FROM bag WHERE number = ?", (carrier.bag,))

    def is_begun(self, carrier: Carrier) -> bool:
        """Whether something was put there in an earlier run."""
        return self.disk.facts(carrier.part.own) is not None

    def _begun(self) -> Iterator[tuple[int, Crate]]:
        """The parts that there are; those that are closed may be elsewhere by now."""
        rows = self.survey.database.execute("SELECT number, root, closed FROM bag WHERE NOT earlier ORDER BY number")
        for number, root, closed in list(rows):
            part = self.crate if number == 1 else Crate(Path(restored(root)))
            if number == 1 or self.disk.facts(part.own) is not None:
                yield number, part
            elif not self._carried(number):
                self.survey.database.execute("DELETE FROM bag WHERE number = ?", (number,))
            elif not closed:
                raise ZestyError(
                    f"Part {number} was started at {part.root}, but is not there now.",
                    next_step="Connect its carrier, then run the command again.",
                )

    def _open(self, number: int, part: Crate, files: int) -> Carrier:
        here = part.root if number == 1 else part.root.parent
        form = self.disk.format_of(here)
        if form in FORMATS and self.targets.format not in ("", form):
            raise ZestyError(
                f"The carrier at {here} is {form}, and not {self.targets.format}.",
                next_step="Leave out --carrier-format.",
            )
        form = form if form in FORMATS else self.targets.format or form
        free = self.disk.free_bytes(here)
        has_all_records = number == 1 or self._takes_all_records(part, free)
        records = self._records_bytes(number, here, files, has_all_records=has_all_records)
        space = self._space(number, here, free, records)
        if form in FORMATS:
            space.largest_bytes = FORMATS[form].largest_file_bytes or BOUNDLESS
        carrier = Carrier(number, part, self._second_of(part), form, free, space, records, has_all_records)
        self.opened.append(carrier)
        return carrier

    def _takes_all_records(self, part: Crate, free: int) -> bool:
        """Whether a part can stand for the whole crate: not a small one, which has better things to carry."""
        if self.disk.facts(part.about_path) is not None:  # as it was begun
            return bool(part.about(self.disk).get("records", True))
        room = free if self.targets.part_bytes is None else min(free, self.targets.part_bytes)
        return self._survey_bytes() * _MOST_RECORDS <= room

    def _survey_bytes(self) -> int:
        facts = self.disk.facts(self.crate.survey_path)
        return facts.size_bytes if facts else 0

    def _records_bytes(self, number: int, here: Path, files: int, *, has_all_records: bool) -> int:
        """What a part's records will take: the survey is in the first part already, and must be in most others."""
        folders = self.survey.count("SELECT count(*) FROM file WHERE kind = 'folder'")
        each = _BYTES_A_FILE if has_all_records else _BYTES_A_LINE
        # With the first part go the journals of the moves to new computers, which grow with the files just so.
        grown = files * each * (2 if number == 1 else 1) + folders * self.disk.block_bytes(here)
        return _MARGIN_BYTES + grown + (self._survey_bytes() if has_all_records and number != 1 else 0)

    def _space(self, number: int, here: Path, free: int, records: int) -> Space:
        """What room there is for payload."""
        carried, left = self._carried(number), free - records
        empty = left + carried
        if self.targets.part_bytes is not None:
            there = self._survey_bytes() if number == 1 else 0
            empty = min(empty, self.targets.part_bytes - records - there)
            left = min(left, empty - carried)
        return Space(number, max(0, left), max(0, empty), BOUNDLESS, self.disk.block_bytes(here))

    def _carried(self, number: int) -> int:
        """The bytes that a part holds already."""
        sums = (f"SELECT sum(size) FROM {table} WHERE bag = ?" for table in ("carried", "segment"))
        return sum(self.survey.count(query, (number,)) for query in sums)

    def _note(self, number: int, part: Crate) -> None:
        row = (number, series_of(self.survey), number, part.name, stored(str(part.root.absolute())))
        self.survey.database.execute("INSERT INTO bag VALUES (?, ?, ?, ?, ?, 0, 0)", row)

    def _second_of(self, part: Crate) -> Crate | None:
        if self.targets.second is None:
            return None
        if self.disk.facts(self.targets.second) is None:
            raise ZestyError(
                f"The folder for the second copy does not exist: {self.targets.second}.",
                next_step="Connect its carrier or create the folder, then run the command again. Nothing was copied.",
            )
        second = Crate(self.targets.second / part.name)
        if second.root.absolute() == part.root.absolute():
            raise ZestyError(
                f"The second copy must not be the crate itself: {second.root}.",
                next_step="Name a folder on another carrier with --second-copy.",
            )
        self._require_own(second)
        return second

    def _require_own(self, part: Crate) -> None:
        """Nothing that is on a carrier is touched: a folder of this name is of this crate, or there is none."""
        disk = self.disk
        if disk.facts(part.root) is None:
            return
        if disk.facts(part.about_path) is None:
            held = [name for folder in (part.root, part.own) if disk.facts(folder) for name in disk.names(folder)]
            only_begun = set(held) <= {part.own.name, f".{part.about_path.name}.part"}
        else:
            only_begun = part.about(disk).get("series") == series_of(self.survey)
        if not only_begun:
            raise ZestyError(
                f"{part.root} already exists and does not belong to this crate. Nothing on a carrier is overwritten.",
                next_step="Move it elsewhere, or name another folder.",
            )


def records_bytes(crate: Crate, disk: Disk) -> int:
    """The most room that the records of a move from this crate take: its plan, its journal, and replaced catalogs."""
    with closing(crate.open_survey(disk)) as survey:
        files = survey.count("SELECT count(*) FROM carried")
        catalogs = survey.count(
            "SELECT sum(c.size) FROM document AS d JOIN file AS f ON f.path = d.path JOIN carried AS c ON c.file = f.id"
        )
    return _MARGIN_BYTES + files * _BYTES_A_FILE + catalogs


def series_of(survey: SurveyStore) -> str:
    """What all parts and copies of one crate have in common: whose it is, and the moment of its survey."""
    return f"{survey.about('user')} {survey.about('computer')} {survey.about('taken')}"
