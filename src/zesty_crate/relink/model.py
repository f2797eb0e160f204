"""What relinking came to: each catalog with its outcome, and registrations."""

from __future__ import annotations

from dataclasses import dataclass

from ..catalogs import Change, Proof
from ..merge import MergeReport
from ..survey import Relinked
from .prefix_changes import PrefixChange
from .registrations import Registrations


@dataclass(frozen=True, slots=True)
class Untouched:
    """An entry whose path was left as it is, and why; ``unsaid`` where its catalog could not say the new one."""

    entry: str
    recorded: str
    why: str
    unsaid: bool = False


@dataclass(frozen=True, slots=True)
class RelinkedCatalog:
    """What relinking one catalog came to, or would come to. ``proof`` is None when nothing was written.

    One that could not be relinked is as it was; ``refused`` says why, and ``next_step`` what to do.

    ``prefix_changes`` are shown before anything is written. ``changed`` is true when the catalog changed after it was
    placed; it was then read as it is now. ``rows_added`` counts new rows for shared pieces whose entries go to
    different places, where the guide allows new rows.
    """

    holding: str
    title: str
    at: str
    entries_moved: int
    cells: int
    examples: tuple[Change, ...]
    untouched: tuple[Untouched, ...]
    proof: Proof | None
    already: bool = False
    changed: bool = False
    prefix_changes: tuple[PrefixChange, ...] = ()
    rows_added: int = 0
    refused: str = ""
    next_step: str = ""
    merge: MergeReport | None = None  # of one that was merged into what was there
    leaves_unasked: bool = False  # entries that it could not say the new paths of, and that nobody chose to leave

    @property
    def outcome(self) -> Relinked:
        """What was done with it, once relinking is over."""
        if self.refused or (self.leaves_unasked and not self.proof):
            return Relinked.NOT_RELINKED
        return Relinked.PROVEN if self.proof or self.already else Relinked.NOTHING_TO_CHANGE


@dataclass(frozen=True, slots=True)
class RelinkReport:
    """What relinking came to. ``renamed`` companions, named by the path of their media, have that of its new one."""

    computer: str
    catalogs: tuple[RelinkedCatalog, ...]
    registrations: tuple[Registrations, ...] = ()
    renamed: int = 0

    @property
    def refused(self) -> tuple[RelinkedCatalog, ...]:
        """The catalogs that could not be relinked."""
        return tuple(each for each in self.catalogs if each.refused)

    @property
    def is_complete(self) -> bool:
        """Whether nothing was refused, and no entry left that nobody chose to leave."""
        if any(each.leaves_unasked for each in self.catalogs):
            return False
        return not self.refused and not any(each.refused for each in self.registrations)
