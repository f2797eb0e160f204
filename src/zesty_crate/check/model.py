"""What a check says: holdings compared, what is not simply found, and the evidence for it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

from ..media import Opened
from ..survey import NotLookedAt, Problem, Relinked, State, Totals, Unregistered, Verdict, no_totals, summed


class Content(StrEnum):
    """Of which files the content is read and compared with what was carried. Sizes and dates are, of all."""

    ALL = "all"
    CHANGED = "changed"  # where size or date is not as carried
    SAMPLE = "sample"  # these, all spot checks, and a fair sample


@dataclass(frozen=True, slots=True)
class Figures:
    """How much one side holds of a holding. Sizes in bytes."""

    files: int = 0
    size_bytes: int = 0
    entries: int = 0
    groups: int = 0
    annotations: int = 0


@dataclass(frozen=True, slots=True)
class CheckedHolding:
    """One holding: the totals of its entries now and before, and how much of it was, was carried, and is.

    ``files_found`` are those of the carried files that are in their place as they were carried.
    """

    id: str
    guide: str
    kind: str
    title: str
    at: str
    totals: Totals
    before: Totals
    old: Figures
    carried: Figures
    new: Figures
    files_found: int


class SurplusReason(StrEnum):
    """Why a holding has files on the new computer that were not carried."""

    BASELINE = "baseline"
    KEPT_BOTH = "kept-both"
    MADE_SINCE = "made-since"
    UNKNOWN = "unknown"


@dataclass(frozen=True, slots=True)
class Surplus:
    """Files of a holding that were not carried, for one reason. ``paths`` are all of them, but for those there before.

    Sizes in bytes.
    """

    holding: str
    why: SurplusReason
    files: int
    size_bytes: int
    paths: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Organisation:
    """Whether a catalog is organised as it was: groups, nesting, order, tags and other annotations, by digest.

    ``entries_new`` are entries of it that were not carried. ``differences`` are named, one by one.
    """

    holding: str
    title: str
    at: str
    before: str
    now: str
    entries_new: int
    differences: tuple[str, ...]

    @property
    def is_equal(self) -> bool:
        """Whether nothing of what was carried is organised otherwise."""
        return self.before == self.now


@dataclass(frozen=True, slots=True)
class MergedCatalog:
    """The entries of a merged catalog: what was ``there``, what ``came``, how many were on ``both``, and those ``now``.

    Now there may be more, since people go on working.
    """

    title: str
    at: str
    there: int
    came: int
    both: int
    now: int


@dataclass(frozen=True, slots=True)
class AttributesCompared:
    """Files and folders that are there and had labels; ``lacking`` are the paths of those that have others, or none.

    This does not need attention: where a volume can keep no labels, unpacking said so.
    """

    compared: int
    lacking: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class UnknownMedia:
    """A media file that no catalog knows; ``before`` when none did on the old computer either."""

    holding: str
    at: str
    before: bool


@dataclass(frozen=True, slots=True)
class WithoutContent:
    """A registration whose content is not there."""

    holding: str
    entry: str
    at: str
    before: bool


@dataclass(frozen=True, slots=True)
class OpenedSpotCheck:
    """A spot check, opened again.

    ``verdict`` is opened, as-before, left-out, differs, broken, slow, not-there, or unclear where nobody could look.

    ``as-before`` is one that opened no better on the old computer, ``left-out`` one that was not to be carried;
    ``said`` tells what was found.
    """

    holding: str
    entry: str
    at: str
    named: bool
    verdict: str
    said: str
    opened: Opened

    @property
    def is_good(self) -> bool:
        """Whether it is as it was."""
        return self.verdict in ("opened", "as-before", "left-out")


@dataclass(frozen=True, slots=True)
class ContentRead:
    """How far contents were compared: ``read`` files of ``carried``, ``sampled`` of them picked; ``differ`` did not."""

    asked: Content
    carried: int
    read: int
    sampled: int
    differ: int


@dataclass(frozen=True, slots=True)
class SinceHandOver:
    """What changed on the new computer since the first check that came out well. Paths, and entries by their keys."""

    handed_over: str
    files_new: tuple[str, ...]
    files_edited: tuple[str, ...]
    files_gone: tuple[str, ...]
    entries_new: int
    entries_gone: int


class ResidueKind(StrEnum):
    """What a text that names an old place is likely to be."""

    COPY = "copy"
    SETTING = "setting"
    OTHER = "other"

    @property
    def words(self) -> str:
        """For people."""
        return RESIDUE[self]


RESIDUE = {
    ResidueKind.COPY: "fields beside relinked paths, such as copies to show or to search by",
    ResidueKind.SETTING: "settings and presets",
    ResidueKind.OTHER: "other files",
}


@dataclass(frozen=True, slots=True)
class Residue:
    """A field of one file that names places of the old computer, how often, and one example."""

    holding: str
    at: str
    field: str
    kind: ResidueKind
    mentions: int
    example: str


@dataclass(frozen=True, slots=True)
class Searched:
    """How many files were searched, and what was found in them."""

    files: int
    residue: tuple[Residue, ...]


@dataclass(frozen=True, slots=True)
class CheckedDocument:
    """One document: how far it was read, and what was done with it; None when one computer was checked.

    ``unread`` of its records could not be read, for ``reasons``; ``why`` is the reason for what was done.
    """

    holding: str
    title: str
    at: str
    verdict: Verdict
    unread: int = 0
    reasons: tuple[str, ...] = ()
    relinked: Relinked | None = None
    why: str = ""

    @property
    def needs_reading(self) -> bool:
        """Whether it was not simply read, and was not left by choice."""
        return self.verdict is not Verdict.READ and self.relinked is not Relinked.LEFT_BY_CHOICE

    @property
    def needs_relinking(self) -> bool:
        """Whether it was read, and is not relinked."""
        was_read = self.verdict is not Verdict.NOT_READ
        return was_read and self.relinked is not None and not self.relinked.is_settled

    @property
    def said(self) -> tuple[str, ...]:
        """Why it needs attention, and what to do."""
        reasons = (*self.reasons, self.verdict.remedy) if self.needs_reading else ()
        return (*reasons, self.why) if self.needs_relinking else reasons


@dataclass(frozen=True)
class CheckReport:
    """What a check came to. ``from_computer`` is empty when one computer was checked by itself."""

    computer: str
    from_computer: str
    holdings: tuple[CheckedHolding, ...]
    problems: Sequence[Problem]
    content: ContentRead | None = None
    surplus: tuple[Surplus, ...] = ()
    organisation: tuple[Organisation, ...] = ()
    merged: tuple[MergedCatalog, ...] = ()
    attributes: AttributesCompared | None = None
    unknown_media: tuple[UnknownMedia, ...] = ()
    unregistered: tuple[Unregistered, ...] = ()
    without_content: tuple[WithoutContent, ...] = ()
    spot_checks: tuple[OpenedSpotCheck, ...] = ()
    since: SinceHandOver | None = None
    documents: tuple[CheckedDocument, ...] = ()
    searched: Searched | None = None
    not_chosen: tuple[str, ...] = ()  # titles of holdings outside the scope
    not_covered: int = 0  # files of the old computer that are in no holding, and about which nobody has decided
    not_surveyed: int = 0  # places of the old computer at which its survey could not look
    warnings: tuple[str, ...] = ()
    not_looked_at: tuple[NotLookedAt, ...] = ()
    newly_away: int = 0  # entries and files that were found before, and are on volumes that are not connected now

    @property
    def totals(self) -> Totals:
        """All holdings' entries, summed."""
        return summed(holding.totals for holding in self.holdings) if self.holdings else no_totals()

    @property
    def unsettled(self) -> tuple[CheckedDocument, ...]:
        """The documents that need attention."""
        return tuple(each for each in self.documents if each.needs_reading or each.needs_relinking)

    @cached_property
    def attention(self) -> tuple[str, ...]:
        """What a person must look at, each in a few words; empty when all is well."""
        states = {state: 0 for state in State if state.needs_attention}
        for problem in self.problems:
            if problem.state in states and not problem.chosen:
                states[problem.state] += 1
        open_ends = [f"{number:,} {state}" for state, number in states.items() if number]
        open_ends += [f"{self.newly_away:,} unplugged that were found before"] if self.newly_away else []
        bad = [each for each in self.spot_checks if not each.is_good]
        apart = [each for each in self.organisation if not each.is_equal]
        open_ends += [f"spot checks that differ: {len(bad):,}"] if bad else []
        open_ends += [f"catalogs organised differently: {len(apart):,}"] if apart else []
        unread = Counter(each.verdict for each in self.documents if each.needs_reading)
        open_ends += [f"documents {verdict.words}: {number:,}" for verdict, number in unread.items()]
        left = [each for each in self.documents if each.needs_relinking]
        open_ends += [f"documents not relinked: {len(left):,}"] if left else []
        unseen = [each for each in self.not_looked_at if not each.is_away]
        open_ends += [f"places that could not be looked at: {len(unseen):,}"] if unseen else []
        return tuple(open_ends)
