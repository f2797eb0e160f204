"""Give files and folders the labels, tags and notes that they had, which are in extended attributes."""

from __future__ import annotations

from pathlib import Path

from ..journal import Journal, Step
from ..plan import Move
from ..survey import FileRow
from .fates import Fate


class Attributes:
    """Labels what was placed. They come and go with a file, so the journal need not know of them."""

    def __init__(self, move: Move, journal: Journal, step: Step) -> None:
        self._survey = move.survey
        self._disk = move.outside.disk
        self._journal = journal
        self._goes_on = journal.is_begun(step)
        self.any = bool(move.survey.count("SELECT EXISTS (SELECT 1 FROM attribute)"))
        self.refused = 0

    def may_lack(self, fate: Fate) -> bool:
        """Whether a file was placed now, or by an interrupted run that may not have come to its labels."""
        if fate in (Fate.PLACE, Fate.REPLACE):
            return True
        return self._goes_on and fate is Fate.EARLIER

    def give(self, row: FileRow, real: Path) -> None:
        """Label one file or folder; what its volume cannot keep is counted."""
        wanted = self._survey.attributes(row.id) if self.any else {}
        if wanted and self._disk.attributes(real) != wanted:
            self.refused += not self._disk.set_attributes(real, wanted)
