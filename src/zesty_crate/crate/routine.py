"""A crate each week, or each day: every one whole in itself, unchanged files shared, old ones thinned out by a rule."""

from __future__ import annotations

import datetime as dt
import re
from collections.abc import Callable, Sequence
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..errors import ZestyError
from ..guides import Guide
from ..machines import Disk, Outside, Sheet
from ..progress import Tell, silent
from .bag import DamagedCrate
from .carriers import Targets
from .crate import Crate
from .create import create_crate, proposed_name
from .pack import PackReport, pack
from .removing import remove_crate, remove_remains
from .room import Room, unannounced
from .scope import Scope

_PERIODS: dict[str, Callable[[dt.datetime], tuple[int, ...]]] = {
    "d": lambda day: day.date().timetuple()[:3],
    "w": lambda day: tuple(day.isocalendar()[:2]),
    "m": lambda day: (day.year, day.month),
    "y": lambda day: (day.year,),
}


@dataclass(frozen=True, slots=True)
class Dated:
    """A finished crate in the folder of a routine. ``is_in_use``: it was unpacked, or another one builds on it."""

    crate: Crate
    taken: dt.datetime
    is_in_use: bool


@dataclass(frozen=True, slots=True)
class RoutineReport:
    """What a routine came to; ``thinned`` crates were removed."""

    packed: PackReport
    kept: tuple[str, ...]
    thinned: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class KeepRule:
    """How many crates to keep: the newest of each of the last so many days, weeks, months or years with one."""

    counts: tuple[tuple[str, int], ...]

    @classmethod
    def parse(cls, text: str) -> KeepRule:
        """A rule such as ``4w,6m``. Raises `ValueError` for what is none."""
        found = [re.fullmatch(r"([1-9]\d{0,3})([dwmy])", each.strip()) for each in text.split(",")]
        if not all(found):
            raise ValueError(text)
        return cls(tuple((match.group(2), int(match.group(1))) for match in found if match))

    def keeps(self, crates: Sequence[Dated]) -> list[Dated]:
        """Those that stay, the newest first. The newest always does, and what is in use."""
        newest_first = sorted(crates, key=lambda each: (each.taken, each.crate.name), reverse=True)
        kept = {id(each) for each in newest_first[:1]} | {id(each) for each in crates if each.is_in_use}
        for unit, number in self.counts:
            latest: dict[tuple[int, ...], Dated] = {}
            for each in newest_first:
                latest.setdefault(_PERIODS[unit](each.taken), each)
            kept |= {id(each) for each in list(latest.values())[:number]}
        return [each for each in newest_first if id(each) in kept]


def run_routine(
    folder: Path,
    rule: KeepRule | None,
    scope: Scope,
    sheet: Sheet,
    guides: Sequence[Guide],
    outside: Outside,
    tell: Tell = silent,
    announce: Callable[[Room], None] = unannounced,
) -> RoutineReport:
    """Make a crate of today in ``folder``, or finish the one that was begun there, and thin out old ones.

    Nothing is thinned without a rule, or when not everything could be carried. Raises what surveying and packing raise.
    """
    disk = outside.disk
    if disk.facts(folder) is None:
        raise ZestyError(f"There is no folder {folder}.", next_step="Connect its carrier, or create the folder.")
    remove_remains(folder, sheet, outside)
    begun = _begun(folder, sheet, outside)
    before = dated_crates(folder, sheet, disk)
    crate = begun or Crate(folder / proposed_name(sheet, folder, outside))
    if begun is None:
        create_crate(crate, sheet, guides, outside, tell)
    newest = max(before, key=lambda each: each.taken, default=None)
    packed = pack(crate, scope, outside, tell, announce, Targets(share_with=newest.crate if newest else None))
    after = dated_crates(folder, sheet, disk)
    kept = after if rule is None or packed.left else rule.keeps(after)
    thinned = [each for each in after if each not in kept]
    for each in thinned:
        remove_crate(each.crate, disk)
    names = (tuple(each.crate.name for each in some) for some in (kept, thinned))
    return RoutineReport(packed, *names)


def dated_crates(folder: Path, sheet: Sheet, disk: Disk) -> list[Dated]:
    """The finished crates of this computer and user in a folder."""
    found = [(crate, about) for crate in _crates_in(folder, disk) if (about := _about(crate, sheet, disk))]
    built_on = {about["builds-on"]["series"] for _, about in found if about.get("builds-on")}
    return [
        Dated(
            crate,
            dt.datetime.fromisoformat(about["surveyed"]),
            is_in_use=disk.facts(crate.root / "moves") is not None or about["series"] in built_on,
        )
        for crate, about in found
        if about.get("part") == 1 and crate.is_finished(disk)
    ]


def _crates_in(folder: Path, disk: Disk) -> list[Crate]:
    crates = [Crate(folder / name) for name in disk.names(folder)]
    return [crate for crate in crates if disk.facts(crate.survey_path) is not None]


def _about(crate: Crate, sheet: Sheet, disk: Disk) -> dict[str, Any]:
    """What a crate says about itself; nothing when it is of another computer or user, or cannot be read."""
    if disk.facts(crate.about_path) is None:
        return {}
    try:
        about = crate.about(disk)
    except DamagedCrate:
        return {}
    whose = about["computer"]["name"], about["computer"]["user"]
    return about if whose == (sheet.part.computer.name, sheet.part.computer.user) else {}


def _begun(folder: Path, sheet: Sheet, outside: Outside) -> Crate | None:
    """A crate that was begun today and is not finished."""
    today = outside.clock.now().date().isoformat()
    for crate in _crates_in(folder, outside.disk):
        if crate.is_finished(outside.disk):
            continue
        with closing(crate.open_survey(outside.disk)) as survey:
            whose = survey.about("computer"), survey.about("user"), str(survey.about("taken"))[:10]
        if whose == (sheet.part.computer.name, sheet.part.computer.user, today):
            return crate
    return None
