"""What was decided about uncovered folders in earlier crates of the same computer, so that it can be proposed again."""

from __future__ import annotations

from contextlib import closing
from dataclasses import dataclass

from ..errors import ZestyError
from ..machines import Disk
from .crate import Crate


@dataclass(frozen=True, slots=True)
class EarlierChoices:
    """The choices of one earlier crate: folders that were carried, too, and those that stayed, each with the reason."""

    crate: str
    also: tuple[str, ...]
    leave: tuple[str, ...]


def earlier_choices(crate: Crate, disk: Disk) -> EarlierChoices | None:
    """Those of the newest crate beside this one that is of the same computer and user; None when it has none."""
    with closing(crate.open_survey(disk)) as survey:
        whose = survey.about("computer"), survey.about("user")
    newest, found = "", None
    carrier = crate.root.absolute().parent
    for name in disk.names(carrier):
        other = Crate(carrier / name)
        if name == crate.name or disk.facts(other.survey_path) is None:
            continue
        try:
            with closing(other.open_survey(disk)) as survey:
                about = {each: survey.about(each) for each in ("computer", "user", "taken", "also", "scope")}
        except ZestyError:
            continue  # it is a help, and no more
        also, leave = tuple(about["also"] or ()), tuple((about["scope"] or {}).get("leave", ()))
        if (about["computer"], about["user"]) == whose and about["taken"] > newest and (also or leave):
            newest, found = about["taken"], EarlierChoices(name, also, leave)
    return found
