"""What a survey says: the state of every entry, and what every holding holds."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from ..media import Opened
from .coverage import Uncovered
from .lookalikes import Lookalike
from .states import State, Totals, no_totals
from .uncovered_documents import UncoveredDocument
from .verdicts import Verdict


@dataclass(frozen=True, slots=True)
class Problem:
    """An entry that is not simply found, and why; ``chosen`` when its file was left where it was on purpose."""

    holding: str
    entry: str
    state: State
    recorded: str
    why: str
    chosen: bool = False


@dataclass(frozen=True, slots=True)
class DocumentReport:
    """One document that a guide reads, and how far. ``unread`` records could not be read; ``reasons`` say why.

    ``pointers`` are entries with something, such as a bookmark, that only their program can follow;
    ``stale`` are those with a copy of their path that was not made of it as the guide says.
    """

    holding: str
    at: str
    verdict: Verdict
    unread: int = 0
    reasons: tuple[str, ...] = ()
    pointers: int = 0
    stale: int = 0

    @property
    def said(self) -> tuple[str, ...]:
        """Why it needs attention, and what to do."""
        return (*self.reasons, self.verdict.remedy) if self.verdict is not Verdict.READ else ()


@dataclass(frozen=True, slots=True)
class HoldingReport:
    """One holding as the survey found it. Sizes are in bytes."""

    id: str
    guide: str
    title: str
    kind: str
    media_class: str  # original | proxy | cache, of media
    at: str
    present: bool
    swept: bool = False  # found anywhere by a pattern, and not at one place
    files: int = 0
    size_bytes: int = 0
    factory_files: int = 0
    factory_bytes: int = 0
    outside_files: int = 0
    outside_bytes: int = 0
    unreadable: int = 0
    documents: int = 0
    groups: int = 0
    annotations: int = 0
    totals: Totals = field(default_factory=no_totals)
    not_looked_at: str = ""  # why it is not known whether it is there

    @property
    def is_left(self) -> bool:
        """Whether nothing of it is carried, since its program creates it again."""
        return self.kind == "cache" or self.media_class == "cache"


@dataclass(frozen=True, slots=True)
class VolumeReport:
    """A volume of the computer. Sizes are in bytes, None when they are not known."""

    anchor: str
    label: str
    format: str
    here: bool
    travels: bool
    size_bytes: int | None
    free_bytes: int | None


@dataclass(frozen=True, slots=True)
class ProgramReport:
    """A program that was found: its version here, and the rule by which another one will do."""

    guide: str
    title: str
    version: str
    versions: str  # same | same-or-newer | any
    seats: int | None
    seats_used: int | None
    running: bool | None  # None when neither the sheet nor the processes of this computer tell
    started: bool | None  # None when its guide does not tell how to know


@dataclass(frozen=True, slots=True)
class ManualStep:
    """What only a person can do, when, and who: the technician or the customer."""

    guide: str
    when: str
    do: str
    who: str = "technician"


@dataclass(frozen=True, slots=True)
class DuplicateSet:
    """Files of one content; ``size_bytes`` is that of each."""

    size_bytes: int
    paths: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class LeavingLink:
    """A link that leads out of all holdings; ``carried`` when its target is carried all the same, as outside media."""

    holding: str
    at: str
    leads_to: str
    carried: bool


@dataclass(frozen=True, slots=True)
class Unregistered:
    """Content that no registration of this holding knows."""

    holding: str
    at: str


@dataclass(frozen=True, slots=True)
class SpotCheck:
    """An item to be looked at again in the end; ``named`` by a person, or picked. ``entry`` is empty for a file.

    ``opened`` is what opening it on this computer came to.
    """

    holding: str
    entry: str
    at: str
    named: bool
    opened: Opened


@dataclass(frozen=True, slots=True)
class NotLookedAt:
    """A folder that could not be looked into, or the place of a ``holding`` that may be there or not.

    Where its volume ``is_away``, that needs no more attention than before the move.
    """

    at: str
    why: str
    holding: str = ""
    is_away: bool = False


@dataclass(frozen=True, slots=True)
class SurveyReport:
    """A whole survey, summed up."""

    computer: str
    system: str
    user: str
    home: str
    taken: str
    volumes: tuple[VolumeReport, ...]
    programs: tuple[ProgramReport, ...]
    holdings: tuple[HoldingReport, ...]
    problems: Sequence[Problem]
    unregistered: tuple[Unregistered, ...]
    links: tuple[LeavingLink, ...]
    duplicates: tuple[DuplicateSet, ...] | None  # None when no files were read for them
    hard_links: int  # files that are only other names of ones of the same content
    spot_checks: tuple[SpotCheck, ...]
    manual_steps: tuple[ManualStep, ...]
    documents: tuple[DocumentReport, ...]
    uncovered: tuple[Uncovered, ...]
    uncovered_documents: tuple[UncoveredDocument, ...]
    not_searched: int  # files in no holding that were not searched for paths, since there are many of their ending
    not_looked_into: tuple[str, ...]  # where other file systems are mounted, and our own folders
    system_folders: tuple[str, ...]
    warnings: tuple[str, ...]
    lookalikes: tuple[Lookalike, ...] = ()
    not_looked_at: tuple[NotLookedAt, ...] = ()

    @property
    def totals(self) -> Totals:
        """All holdings' entries, summed."""
        return summed(holding.totals for holding in self.holdings)

    @property
    def unsettled(self) -> tuple[DocumentReport, ...]:
        """The documents whose verdict needs attention."""
        return tuple(each for each in self.documents if each.verdict is not Verdict.READ)

    @property
    def to_decide(self) -> tuple[Uncovered, ...]:
        """What no holding covers, and a person has not decided about."""
        return tuple(each for each in self.uncovered if each.is_open)

    @property
    def unplugged(self) -> tuple[VolumeReport, ...]:
        """The volumes that are not here."""
        return tuple(volume for volume in self.volumes if not volume.here)


def summed(many: Iterable[Totals]) -> Totals:
    """The sum of several totals."""
    total = no_totals()
    for each in many:
        for name, number in each.items():
            total[name] += number
    return total
