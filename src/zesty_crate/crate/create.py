"""Begin a crate: take stock into it."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import closing

from ..errors import ZestyError
from ..guides import Guide
from ..machines import Disk, Outside, Sheet, make_folders, working_folder
from ..progress import Tell, silent
from ..survey import SurveyReport, Wishes, summarize, take_survey
from .crate import Crate


def create_crate(
    crate: Crate,
    sheet: Sheet,
    guides: Sequence[Guide],
    outside: Outside,
    tell: Tell = silent,
    wishes: Wishes | None = None,
) -> SurveyReport:
    """Survey the computer of ``sheet`` into a new crate. When the survey fails, no crate is left.

    Raises `ZestyError` when something is at the crate's place already, or the survey cannot be taken.
    """
    disk = outside.disk
    _require_free_place(crate, disk)
    folders = (crate.root, crate.own, crate.guides_folder)
    created = [folder for folder in folders if disk.facts(folder) is None]
    for folder in folders:
        make_folders(disk, folder)
    part = crate.own / "survey.db.part"
    disk.remove(part)
    try:
        with working_folder(disk, crate.own / "scratch") as scratch:
            take_survey(part, sheet, guides, outside, scratch, tell, wishes)
    except ZestyError:
        disk.remove(part)
        for folder in reversed(created):
            disk.remove_folder(folder)
        raise
    disk.write_text(crate.own / "sheet.toml", sheet.text)
    for guide in guides:
        disk.write_text(crate.guides_folder / f"{guide.id}.toml", guide.text)
    disk.settle(part)
    disk.rename(part, crate.survey_path)
    disk.settle(crate.own)
    with closing(crate.open_survey(disk)) as store:
        return summarize(store)


def _require_free_place(crate: Crate, disk: Disk) -> None:
    if disk.facts(crate.survey_path) is not None:
        raise ZestyError(
            f"{crate.root} holds a survey already, and nothing on a carrier is replaced.",
            next_step="Name a new crate, or go on with this one: zesty pack.",
        )
    if disk.facts(crate.root) is not None and set(disk.names(crate.root)) - {"zesty"}:
        raise ZestyError(f"{crate.root} is not empty and is no crate.", next_step="Name a new folder for the crate.")
