"""Begin a crate: take stock into it."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import closing
from dataclasses import replace
from itertools import count
from pathlib import Path

from ..errors import ZestyError
from ..guides import ALSO, Guide, also_guide, holdings_on
from ..machines import Disk, Finder, Outside, Sheet, computer_of, make_folders, one_at_a_time, working_folder
from ..machines.registry import RegistryError, write_export
from ..paths import escape_name
from ..progress import Tell, silent
from ..survey import Registry, SurveyOptions, SurveyReport, summarize, take_survey
from .crate import Crate
from .naming import carrier_key


def create_crate(
    crate: Crate,
    sheet: Sheet,
    guides: Sequence[Guide],
    outside: Outside,
    tell: Tell = silent,
    options: SurveyOptions | None = None,
    also: Sequence[str] = (),
    *,
    again: bool = False,
) -> SurveyReport:
    """Survey the computer of ``sheet`` into a new crate. When the survey fails, no crate is left.

    The folders ``also`` belong to no guide and are carried, too. With ``again`` the survey of a crate into which
    nothing was packed yet is replaced; when that fails, the earlier one stays.

    Raises `ZestyError` when something is at the crate's place already, or the survey cannot be taken.
    """
    disk, options = outside.disk, options or SurveyOptions()
    if again:
        _require_unpacked(crate, disk)
        with closing(crate.open_survey(disk)) as survey:
            also = tuple(dict.fromkeys([*(survey.about("also") or ()), *also]))
    if also:
        if any(guide.id == ALSO for guide in guides):
            raise ZestyError(
                f"A guide has the id {ALSO!r}, which stands for the folders of --also.", next_step="Give it another id."
            )
        computer = computer_of(sheet)
        guides = [*guides, also_guide(also, computer, Finder(computer, disk))]
    if not again:
        _require_free_place(crate, sheet, outside)
    with one_at_a_time(survey_lock(crate), str(crate.root), "zesty survey", outside):
        return _created(crate, sheet, guides, outside, tell, options, also)


def _created(
    crate: Crate,
    sheet: Sheet,
    guides: Sequence[Guide],
    outside: Outside,
    tell: Tell,
    options: SurveyOptions,
    also: Sequence[str],
) -> SurveyReport:
    disk = outside.disk
    folders = (crate.root, crate.own, crate.guides_folder)
    created = [folder for folder in folders if disk.facts(folder) is None]
    for folder in folders:
        make_folders(disk, folder)
    part = crate.own / "survey.db.part"
    disk.remove(part)
    try:
        with working_folder(disk, crate.own / "scratch") as scratch:
            whole = replace(options, coverage=True, aside=(crate.root.absolute(),), also=tuple(also))
            take_survey(part, sheet, guides, outside, scratch, tell, whole)
    except ZestyError:
        disk.remove(part)
        for folder in reversed(created):
            disk.remove_folder(folder)
        raise
    _remove_guides_and_exports(crate, disk)
    disk.write_text(crate.own / "sheet.toml", sheet.text)
    for guide in guides:
        disk.write_text(crate.guides_folder / f"{guide.id}.toml", guide.text)
    _export_registrations(crate, sheet, guides, outside)
    disk.flush(part)
    disk.rename(part, crate.survey_path)
    disk.flush(crate.own)
    with closing(crate.open_survey(disk)) as store:
        return summarize(store)


def _export_registrations(crate: Crate, sheet: Sheet, guides: Sequence[Guide], outside: Outside) -> None:
    """Write those branches of the old computer's registry that guides mention, and no more."""
    disk, computer = outside.disk, computer_of(sheet)
    registered = [each for guide in guides for each in holdings_on(guide, computer, sheet) if each.part.branch]
    if not registered:
        return
    with working_folder(disk, crate.own / "scratch") as scratch:
        registry = Registry(sheet, Finder(computer, disk), outside, scratch)
        for holding in registered:
            try:
                blocks = registry.branch(holding)
            except RegistryError:
                continue  # the survey reports it like every catalog that cannot be read
            if blocks:
                make_folders(disk, crate.registry_folder)
                disk.write_bytes(crate.export_path(holding.id), write_export(blocks))


def survey_lock(crate: Crate) -> Path:
    """The lock file of who takes stock into a crate: beside it, for there may be no crate yet."""
    return crate.root.parent / f".{crate.name}.lock"


def name_of_owner(sheet: Sheet) -> str:
    """What the proposed names of all crates of one computer and user begin with."""
    return escape_name(f"{sheet.part.computer.user} - {sheet.part.computer.name} - x")[:-1]


def proposed_name(sheet: Sheet, folder: Path, outside: Outside, subject: str = "") -> str:
    """A readable name for a crate in this folder: whose, of which computer and day, and of what; one that is free."""
    wish = outside.clock.now().date().isoformat() + (f" - {subject}" if subject else "")
    taken = {carrier_key(name) for name in outside.disk.names(folder)}
    whose = name_of_owner(sheet)
    names = (whose + escape_name(wish if number == 1 else f"{wish} ({number})") for number in count(1))
    return next(name for name in names if carrier_key(name) not in taken)


def _require_unpacked(crate: Crate, disk: Disk) -> None:
    if disk.facts(crate.survey_path) is None:
        raise ZestyError(f"{crate.root} holds no survey to be taken again.", next_step="Leave out --again.")
    if more := sorted(set(disk.names(crate.root)) - {"zesty"}):
        raise ZestyError(
            f"Something was packed into {crate.root} already: its survey cannot be taken again.",
            details=more[:3],
            next_step="Survey into a new crate.",
        )


def _remove_guides_and_exports(crate: Crate, disk: Disk) -> None:
    """What an earlier survey of this crate wrote besides itself."""
    for folder in (crate.guides_folder, crate.registry_folder):
        if disk.facts(folder) is not None:
            for name in disk.names(folder):
                disk.remove(folder / name)


def _require_free_place(crate: Crate, sheet: Sheet, outside: Outside) -> None:
    disk = outside.disk
    if disk.facts(crate.survey_path) is not None:
        raise ZestyError(
            f"{crate.root} already holds a survey. Nothing on a carrier is overwritten.",
            next_step="Name a new crate, or continue with this one: zesty pack. To replace the survey, add --again.",
        )
    held = disk.names(crate.root) if disk.facts(crate.root) is not None else []
    if set(held) - {"zesty"}:
        raise ZestyError(
            f"{crate.root} is not a crate and is not empty. Nothing on a carrier is changed.",
            details=held,
            next_step=f'Name a new folder, such as "{crate.root / proposed_name(sheet, crate.root, outside)}".',
        )
