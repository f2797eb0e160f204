"""Weigh whether the old computer may be wiped: every condition, what was found, and what is still to be done."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from ..check import CheckRecord, compare, computer_side, crate_side, last_change, read_record
from ..crate import Crate, open_finished, open_gates
from ..errors import ZestyError
from ..journal import Journal
from ..machines import Outside, Sheet, computer_of
from ..progress import Tell, silent
from ..survey import State, SurveyReport, SurveyStore, summarize

_OUTSIDE_LEFT = """
SELECT count(*) FROM file WHERE role = 'outside' AND kind = 'file' AND id NOT IN (SELECT file FROM carried)
AND id NOT IN (SELECT file FROM unchanged)
"""
_TAGS = "tagmanifest-sha512.txt"


@dataclass(frozen=True, slots=True)
class Evidence:
    """One condition: whether it holds, what was found, and what to do when it does not, at all its ``places``."""

    about: str
    holds: bool
    found: str
    next_step: str = ""
    places: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Removable:
    """Something that may be deleted, by a person, in this order. Sizes in bytes, None when they were not counted."""

    what: str
    where: tuple[str, ...]
    size_bytes: int | None


@dataclass(frozen=True, slots=True)
class RetireReport:
    """The verdict on one computer, with all the evidence, and what may be deleted then."""

    computer: str
    crate: str
    may_be_wiped: bool
    evidence: tuple[Evidence, ...]
    removable: tuple[Removable, ...]


@dataclass(frozen=True, slots=True)
class Second:
    """What is said about a second copy: the folder it is in, or that none is wanted."""

    folder: Path | None = None
    declined: bool = False


def weigh(
    crate: Crate, sheet: Sheet, outside: Outside, folder: Path, second: Second, tell: Tell = silent
) -> RetireReport:
    """Look at everything once more. ``folder`` is for working copies.

    Raises `ZestyError` when the sheet is of another computer, and `DamagedCrate` when the crate is not whole.
    """
    open_finished(crate.root, outside.disk)
    with closing(crate.open_survey(outside.disk)) as survey:
        report = summarize(survey)
        if computer_of(sheet).name != report.computer:
            raise ZestyError(
                f"This sheet describes {computer_of(sheet).name}, but the crate is of {report.computer}.",
                next_step="Name the sheet of the old computer with --from.",
            )
        moves = list(_moves(crate, outside))
        evidence = (
            *_checks(moves),
            _everything_carried(survey),
            _nothing_new(crate, sheet, outside, folder, tell),
            _second_copy(crate, second, outside),
            _gates(crate, survey, outside),
        )
        removable = tuple(_removable(crate, report, [record for _, record, _ in moves if record]))
    return RetireReport(report.computer, str(crate.root), all(each.holds for each in evidence), evidence, removable)


def _holds(about: str, found: str) -> Evidence:
    return Evidence(about, holds=True, found=found)


def _open(about: str, found: str, next_step: str, places: tuple[str, ...] = ()) -> Evidence:
    return Evidence(about, holds=False, found=found, next_step=next_step, places=places)


Found = tuple[
    str, CheckRecord | None, str
]  # a new computer, the last check there, when the move last changed something


def _moves(crate: Crate, outside: Outside) -> Iterator[Found]:
    """The computers on which this crate stands unpacked; folders only to look at things in are none."""
    disk, folder = outside.disk, crate.root / "moves"
    for name in disk.names(folder) if disk.facts(folder) is not None else ():
        journal = Journal.open_existing(folder / name / "journal.db", outside)
        if journal is None or disk.facts(folder / name / "plan.toml") is None:
            continue
        with closing(journal):
            if journal.standing("unpack"):
                yield name, read_record(folder / name, disk), last_change(journal)


def _checks(moves: list[Found]) -> Iterator[Evidence]:
    if not moves:
        yield _open("the new computer", "this crate was not unpacked on any computer", "Unpack it, relink, and check.")
    again = "Run zesty check CRATE --to SHEET, and clear what it reports."
    for name, record, changed in moves:
        about = f"the check on {name}"
        if record is None:
            yield _open(about, "there was none", again)
        elif record.last_change != changed:
            yield _open(about, f"it was made {_moment(record.checked)}, before the last change", again)
        elif not record.passed:
            yield _open(about, f"{_moment(record.checked)}: {', '.join(record.report.attention)}", again)
        else:
            found = f"{record.report.totals['found']:,} of {record.report.totals['entries']:,} entries found"
            yield _holds(about, f"passed {_moment(record.checked)}, after the last change: {found}")


def _moment(text: str) -> str:
    """A date and time to the minute."""
    return text[:16].replace("T", " ")


def _everything_carried(survey: SurveyStore) -> Evidence:
    """What could not be read while packing is on the old computer and nowhere else."""
    left = tuple(f"{path}: {why}" for path, why in survey.about("left") or ())
    carried = survey.count("SELECT count(*) FROM carried")
    by_choice = survey.count("SELECT count(*) FROM left_out")
    outside = survey.count(_OUTSIDE_LEFT)
    if left:
        step = "Copy them yourself, or pack and check again."
        return _open("what could not be carried", f"files that could not be read: {len(left)}", step, left)
    return _holds(
        "what could not be carried",
        f"nothing; files carried: {carried:,}; left there by choice: {by_choice:,}; "
        f"outside the programs' folders and left there: {outside:,}",
    )


def _nothing_new(crate: Crate, sheet: Sheet, outside: Outside, folder: Path, tell: Tell) -> Evidence:
    """Look at the old computer again, where it is here."""
    about, old = "the old computer since packing", computer_of(sheet)
    away = [
        str(each.anchor).rstrip("\\")
        for each in old.volumes
        if each.mount is None or outside.disk.facts(each.mount) is None
    ]
    if len(away) == len(old.volumes):
        return _holds(about, "none of its volumes is connected, so it was not looked at again")
    with crate_side(crate, outside) as mine, computer_side(sheet, crate, outside, folder, tell) as theirs:
        report = compare(mine, theirs, outside.disk, tell)
    changed = [each for each in report.differences if each.state != "only-here"]
    places = tuple(f"{each.there or each.here}: {each.why or 'new'}" for each in changed)
    entries = sum(each.entries_only_there for each in report.holdings)
    if places or entries:
        found = f"files new or changed there: {len(places)}; catalog entries only there: {entries}"
        return _open(about, found, f'Carry them: zesty survey, then zesty pack --since "{crate.root}".', places)
    return _holds(about, "nothing new" + (f"; not connected: {', '.join(away)}" if away else ""))


def _second_copy(crate: Crate, second: Second, outside: Outside) -> Evidence:
    """A second copy has the same tag manifest, and with it the same records and the same content."""
    about, disk = "a second copy", outside.disk
    if second.folder is not None:
        place = next((each for each in (second.folder, second.folder / crate.name) if disk.facts(each / _TAGS)), None)
        if place is None or disk.read_bytes(place / _TAGS) != disk.read_bytes(crate.root / _TAGS):
            return _open(about, f"{second.folder} does not hold a copy of this crate", "Name the folder of the copy.")
        open_finished(place, disk)
        return _holds(about, f"{place}: its records are identical to those of this crate")
    written = crate.about(disk).get("second-copy")
    if written:
        return _holds(about, f"written and read back while packing: {written}")
    if second.declined:
        return _holds(about, "declined: --no-second-copy")
    step = "Name it with --second-copy DIR, or use --no-second-copy."
    return _open(about, "none is known; the files on the new computer would be the only copy", step)


def _gates(crate: Crate, survey: SurveyStore, outside: Outside) -> Evidence:
    waiting = open_gates(crate, survey, "before-retire", outside.disk)
    if waiting:
        places = tuple(f"{each.id}: {each.do}" for each in waiting)
        step = f'Do them, then tick each off: zesty todo "{crate.root}" --done {waiting[0].id}'
        return _open("manual steps", f"not ticked off: {len(waiting)}", step, places)
    return _holds("manual steps", "all earlier ones are ticked off")


def _removable(crate: Crate, report: SurveyReport, records: list[CheckRecord]) -> Iterator[Removable]:
    """What may go, in order: first what nobody misses, last what is only untidy."""
    caches = [each for each in report.holdings if each.present and each.is_left]
    media = [each for each in report.holdings if each.present and not each.is_left and not each.swept]
    if caches:
        size = sum(each.size_bytes for each in caches)
        yield Removable(f"caches on {report.computer}", tuple(each.at for each in caches), size)
    yield Removable(
        "the crate on its carrier, if a second copy or a backup of the new computer exists",
        (str(crate.root),),
        None,
    )
    size = sum(each.size_bytes for each in media)
    yield Removable(f"the holdings on {report.computer}", tuple(dict.fromkeys(each.at for each in media)), size)
    dead = [p for record in records for p in record.report.problems if p.state is State.MISSING_BEFORE]
    if dead:
        what = "entries whose media were missing before, in their own programs"
        yield Removable(what, tuple(problem.recorded for problem in dead), None)
