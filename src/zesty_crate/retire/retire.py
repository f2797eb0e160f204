"""Weigh whether the old computer may be wiped: every condition, what was found, and what is still to be done."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from ..check import CheckRecord, compare, computer_side, crate_side
from ..crate import Crate, open_finished
from ..errors import ZestyError
from ..machines import Outside, Sheet, computer_of
from ..progress import Tell, silent
from ..survey import NotLookedAt, State, SurveyReport, SurveyStore, not_looked_at_in, summarize
from ..todo import list_steps
from .copies import Second, crate_is_whole, second_copy
from .evidence import Evidence, holds, is_open
from .new_computers import checks, new_computers

_OUTSIDE_LEFT = """
SELECT count(*) FROM file WHERE role = 'outside' AND kind = 'file' AND id NOT IN (SELECT file FROM carried)
AND id NOT IN (SELECT file FROM unchanged)
"""
_CARRIED_FROM = """
SELECT count(*) FROM carried AS c JOIN file AS f ON f.id = c.file
WHERE substr(f.path, 1, length(?1)) = ?1 COLLATE NOCASE
"""


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
        computers = list(new_computers(crate, outside))
        evidence = (
            *checks(crate, computers, outside, tell),
            _everything_carried(survey),
            _nothing_new(crate, survey, sheet, outside, folder, tell),
            crate_is_whole(crate, outside.disk, tell),
            second_copy(crate, second, outside.disk, tell),
            _coverage(report, crate, survey, outside),
            _gates(crate, survey, outside),
        )
        removable = tuple(_removable(crate, report, [each.record for each in computers if each.record]))
    return RetireReport(report.computer, str(crate.root), all(each.holds for each in evidence), evidence, removable)


def _everything_carried(survey: SurveyStore) -> Evidence:
    """What could not be read while packing is on the old computer and nowhere else."""
    left = tuple(f"{path}: {why}" for path, why in survey.about("left") or ())
    carried = survey.count("SELECT count(*) FROM carried")
    by_choice = survey.count("SELECT count(*) FROM left_out")
    outside = survey.count(_OUTSIDE_LEFT)
    if unseen := _unseen(not_looked_at_in(survey)):
        step = "See that this user can look there; then take the survey again, and pack."
        return is_open("what could not be carried", f"places that could not be looked at: {len(unseen)}", step, unseen)
    if left:
        step = "Copy them yourself, or pack and check again."
        return is_open("what could not be carried", f"files that could not be read: {len(left)}", step, left)
    return holds(
        "what could not be carried",
        f"nothing; files carried: {carried:,}; left there by choice: {by_choice:,}; "
        f"outside the programs' folders and left there: {outside:,}",
    )


def _unseen(places: Iterable[NotLookedAt]) -> tuple[str, ...]:
    """Where nobody could look; volumes that are not connected are told by themselves."""
    return tuple(f"{each.at}: {each.why}" for each in places if not each.is_away)


def _nothing_new(
    crate: Crate, survey: SurveyStore, sheet: Sheet, outside: Outside, folder: Path, tell: Tell
) -> Evidence:
    """Look at the old computer again, where it is here."""
    about, old = "the old computer since packing", computer_of(sheet)
    away = [
        str(each.anchor).rstrip("\\")
        for each in old.volumes
        if each.mount is None or outside.disk.facts(each.mount) is None
    ]
    packed = {anchor: number for anchor in away if (number := survey.count(_CARRIED_FROM, (anchor,)))}
    if packed or len(away) == len(old.volumes):
        volumes = ", ".join(f"{anchor} (files carried from it: {number:,})" for anchor, number in packed.items())
        step = "Connect it, name its mount in the sheet, and run zesty retire again."
        return is_open(about, f"not looked at again, since it is not connected: {volumes or ', '.join(away)}", step)
    with crate_side(crate, outside) as mine, computer_side(sheet, crate, outside, folder, tell) as theirs:
        report = compare(mine, theirs, outside.disk, tell)
    changed = [each for each in report.differences if each.state != "only-here"]
    places = tuple(f"{each.there or each.here}: {each.why or 'new'}" for each in changed)
    entries = sum(each.entries_only_there for each in report.holdings)
    if unseen := _unseen(report.not_looked_at_there):
        step = "See that this user can look there, then run zesty retire again."
        return is_open(about, f"places that could not be looked at: {len(unseen)}", step, unseen)
    if places or entries:
        found = f"files new or changed there: {len(places)}; catalog entries only there: {entries}"
        return is_open(about, found, f'Carry them: zesty survey, then zesty pack --since "{crate.root}".', places)
    return holds(about, "nothing new" + (f"; not connected: {', '.join(away)}" if away else ""))


def _coverage(report: SurveyReport, crate: Crate, survey: SurveyStore, outside: Outside) -> Evidence:
    """What no holding covers is on the old computer and nowhere else."""
    about = "what no holding covers"
    left = [each for each in report.uncovered if each.left]
    little = sum(each.files for each in report.uncovered if not each.is_open and not each.left)
    by_choice = f"files left by choice: {sum(each.files for each in left):,}"
    by_choice += f"; in folders of a few small files, which nobody is asked about: {little:,}" if little else ""
    if not report.to_decide:
        return holds(about, f"nothing that is still to be decided; {by_choice}")
    asked = [each for each in list_steps(crate, survey, outside).steps if each.about == "coverage"]
    if asked and all(each.done for each in asked):
        return holds(about, f"decided by a person on {asked[0].done}: {asked[0].note or 'no note'}; {by_choice}")
    places = tuple(f"{each.at}: files: {each.files:,}, bytes: {each.size_bytes:,}" for each in report.to_decide)
    step = (
        "Carry them with a crate of their own (zesty survey --also FOLDER), or look at them and tick the step off: "
        f'zesty todo "{crate.root}" --done {asked[0].id if asked else "ID"} --note WHY'
    )
    return is_open(about, f"folders with files that were not carried: {len(places)}", step, places)


def _gates(crate: Crate, survey: SurveyStore, outside: Outside) -> Evidence:
    steps = list_steps(crate, survey, outside).open
    waiting = [each for each in steps if each.gates and each.when == "before-retire"]
    if waiting:
        places = tuple(f"{each.id}: {each.do}" for each in waiting)
        step = f'Do them, then tick each off: zesty todo "{crate.root}" --done {waiting[0].id}'
        return is_open("manual steps", f"not ticked off: {len(waiting)}", step, places)
    return holds("manual steps", "all earlier ones are ticked off")


def _removable(crate: Crate, report: SurveyReport, records: list[CheckRecord]) -> Iterator[Removable]:
    """What may go, in order: first what nobody misses, and last the crate, from which all else could be had again."""
    caches = [each for each in report.holdings if each.present and each.is_left]
    media = [each for each in report.holdings if each.present and not each.is_left and not each.swept]
    if caches:
        size = sum(each.size_bytes for each in caches)
        yield Removable(f"caches on {report.computer}", tuple(each.at for each in caches), size)
    size = sum(each.size_bytes for each in media)
    yield Removable(f"the holdings on {report.computer}", tuple(dict.fromkeys(each.at for each in media)), size)
    problems = (problem for record in records for problem in record.report.problems)
    if dead := tuple(each.recorded for each in problems if each.state is State.MISSING_BEFORE):
        yield Removable("entries whose media were missing before, in their own programs", dead, None)
    yield Removable(
        "the crate on its carrier, when the new computer has proven itself in use and has a backup",
        (str(crate.root),),
        None,
    )
