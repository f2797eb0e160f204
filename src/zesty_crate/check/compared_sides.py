"""The two sides of a comparison: what a crate holds, and a computer as it is now."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from ..crate import Crate
from ..machines import Outside, Sheet, computer_of
from ..progress import Tell, silent
from .compare import Side
from .one_computer import survey_aside


@contextmanager
def crate_side(crate: Crate, outside: Outside) -> Iterator[Side]:
    """What a crate knows of its computer."""
    with closing(crate.open_survey(outside.disk)) as survey:
        sheet = crate.old_sheet(outside.disk, survey)
        guides = tuple(crate.guides(outside.disk))
        yield Side(f"in {crate.name}", survey, computer_of(sheet), sheet, guides)


@contextmanager
def computer_side(sheet: Sheet, crate: Crate, outside: Outside, folder: Path, tell: Tell = silent) -> Iterator[Side]:
    """A computer as it is now, by the guides of a crate; ``folder`` is for working copies."""
    guides, computer = crate.guides(outside.disk), computer_of(sheet)
    with survey_aside(sheet, guides, outside, folder, tell) as survey:
        yield Side(f"on {computer.name}", survey, computer, sheet, tuple(guides))
