"""Something else is in a carried file's place: the two compared, and what becomes of them."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import count

from ..catalogs import CatalogError
from ..guides import Holding
from ..journal import Locations
from ..machines import FileFacts, Finder, Seen
from ..machines.moments import SAME_MOMENT_NS
from ..merge import MergeReport
from ..paths import MachinePath, RouteMap, before_ending
from ..survey import Document
from .decisions import Choice, Decisions
from .document import Blocker, PlannedConflict
from .earlier_moves import EarlierMoves, Origin
from .merging import MergeErrand, why_not_merged
from .move import Move
from .placements import Placement
from .work import CatalogContent, Work, carried_content, content_there

Merger = Callable[[MergeErrand], MergeReport]

_EITHER = frozenset({Choice.KEEP, Choice.BRING_IN})
_EPOCH = dt.datetime(1970, 1, 1, tzinfo=dt.UTC)


@dataclass(frozen=True, slots=True)
class Version:
    """One of the two files; ``work`` where it is a catalog that can be read."""

    size_bytes: int
    date: dt.datetime
    work: Work | None = None

    @classmethod
    def of(cls, facts: FileFacts, work: Work | None = None) -> Version:
        """The version that a file is."""
        return cls(facts.size_bytes, date_of(facts), work)


@dataclass(frozen=True, slots=True)
class Conflict:
    """Two files that want one place. ``old`` and ``new`` are paths of the two computers.

    ``asked`` was chosen for this one alone; ``outcome`` is what all decisions come to, for the reason ``why``, and None
    while nothing decides. With ``both`` the carried one goes to the path ``beside``.
    """

    holding: str
    title: str
    old: str
    new: str
    carried: Version
    there: Version
    asked: Choice | None = None
    outcome: Choice | None = None
    why: str = ""
    warning: str = ""
    beside: str = ""
    earlier: str = ""  # the crate of an earlier move that decides it, by what was changed since
    merge: MergeReport | None = None  # what merging the two comes to


def date_of(facts: FileFacts) -> dt.datetime:
    """A file's date, to the microsecond."""
    return _EPOCH + dt.timedelta(microseconds=facts.modified_ns // 1000)


class Judge:
    """Weighs the two sides of each conflict, and settles it by the decisions."""

    def __init__(
        self,
        move: Move,
        routes: RouteMap,
        decisions: Decisions,
        earlier: Iterable[PlannedConflict],
        moves: EarlierMoves,
        merger: Merger,
    ) -> None:
        """``merger`` merges a carried catalog with the one in its place, to see what that comes to."""
        self._merger = merger
        self._moves = moves
        self._locations = Locations(move.new)
        self._move = move
        self._routes = routes
        self._decisions = decisions
        self._finder = Finder(move.new, move.outside.disk)
        self._earlier = {move.old.key(each.old): each for each in earlier}
        self._titles = {row.id: row.title for row in move.survey.holdings()}
        self._documents: dict[str, list[Document]] = {}
        for document in move.survey.documents():
            self._documents.setdefault(document.path, []).append(document)
        self._holdings = {holding.id: holding for holding in move.holdings_there()}
        self._taken: set[str] = set()

    def judge(self, pairs: Sequence[tuple[Placement, Seen]]) -> list[Conflict]:
        """A conflict for each carried file with another one in its place."""
        return [self._judge(placement, seen) for placement, seen in pairs]

    def _judge(self, placement: Placement, seen: Seen) -> Conflict:
        row, facts = placement.row, seen.facts
        if facts is None or placement.new is None:
            raise ValueError("a conflict needs a file on either side")
        conflict = Conflict(
            row.holding,
            self._titles[row.holding],
            str(placement.old),
            str(seen.path),
            Version.of(row.facts),
            Version.of(facts),
            self._decisions.on_item(placement.new),
        )
        origin = None if conflict.asked else self._origin_of(placement, seen)
        if origin is not None and (settled := self._by_origin(conflict, placement, seen, origin)):
            return settled
        if origin is not None:
            conflict = replace(conflict, warning=f"Both were changed since the move of {origin.day}.")
        documents = self._documents.get(row.path, [])
        if facts.size_bytes == 0 and row.facts.size_bytes:
            conflict = self._settle(conflict, skeleton="the file there is empty")
        elif pairs := [(each, self._holdings[each.holding]) for each in documents if each.holding in self._holdings]:
            conflict = self._judge_catalogs(conflict, pairs, placement, seen)
        else:
            conflict = self._settle(conflict)
        if conflict.outcome is Choice.BOTH:
            return replace(conflict, beside=str(self._beside(placement, placement.new)))
        return conflict

    def _origin_of(self, placement: Placement, seen: Seen) -> Origin | None:
        if placement.new is None or placement.carried is None or seen.real is None:
            return None
        place = self._locations.at(self._finder, placement.new, seen)
        return self._moves.origin_of(place, placement.carried.payload)

    def _by_origin(self, conflict: Conflict, placement: Placement, seen: Seen, origin: Origin) -> Conflict | None:
        """What an earlier move decides: the side that was changed since counts; None when both were."""
        if placement.carried is None or seen.real is None:
            return None
        old, day = self._move.old.name, origin.day
        if placement.carried.sha512 == origin.carried:
            why = f"unchanged on {old} since the move of {day}"
            return replace(conflict, outcome=Choice.KEEP, why=why, earlier=origin.crate)
        if self._move.outside.disk.digest(seen.real).sha512 == origin.left:
            why = f"the move of {day} placed the file there, and nobody has touched it since"
            return replace(conflict, outcome=Choice.BRING_IN, why=why, earlier=origin.crate)
        return None

    def _judge_catalogs(
        self, conflict: Conflict, documents: Sequence[tuple[Document, Holding]], placement: Placement, seen: Seen
    ) -> Conflict:
        """Weigh two catalogs, by all holdings that look into them."""
        move, carried, there = self._move, CatalogContent(), CatalogContent()
        for document, _ in documents:
            carried.add_all(carried_content(move.survey, document, move.old, self._routes.translate, move.new))
        conflict = replace(conflict, carried=replace(conflict.carried, work=carried.work))
        try:
            for _, holding in documents:
                there.add_all(content_there(move, holding, seen, move.outside.disk))
        except CatalogError as error:
            warning = f"The catalog there cannot be read, so its content cannot be compared: {error.message}"
            return self._settle(_warned(conflict, warning), losing=_EITHER)
        conflict = replace(conflict, there=replace(conflict.there, work=there.work))
        general = self._decisions.in_general(conflict.holding, is_catalog=True)
        if (conflict.asked or (general and general.choice)) is Choice.MERGE:
            return self._merged(conflict, documents, placement, seen)
        if skeleton := _skeleton(carried, there):
            return self._settle(conflict, skeleton)
        losing, warning = _weighed(carried, there)
        return self._settle(_warned(conflict, warning), losing=losing)

    def _merged(
        self, conflict: Conflict, documents: Sequence[tuple[Document, Holding]], placement: Placement, seen: Seen
    ) -> Conflict:
        """Merge them, to see what that comes to; undecided where they cannot be."""
        if why := why_not_merged([holding for _, holding in documents]):
            return replace(conflict, why=f"merge was chosen, but {why}")
        document, holding = documents[0]
        if seen.real is None:
            return conflict
        errand = MergeErrand(document, holding, placement.old, seen.path, seen.real)
        try:
            report = self._merger(errand)
        except CatalogError as error:
            return _warned(replace(conflict, why="merge was chosen"), f"{error.message} {error.next_step}")
        return replace(conflict, outcome=Choice.MERGE, merge=report)

    def _settle(self, conflict: Conflict, skeleton: str = "", losing: frozenset[Choice] = frozenset()) -> Conflict:
        """What the decisions come to. A ``losing`` choice, which loses work in a catalog, must be made for this one."""
        if conflict.asked is not None:
            return _chosen(conflict, conflict.asked, "chosen for this file")
        if skeleton:
            return replace(
                conflict, outcome=Choice.BRING_IN, why=f"{skeleton}: left by a first start, so it is set aside"
            )
        general = self._decisions.in_general(conflict.holding)
        if general is None:
            return conflict
        chosen = _chosen(conflict, general.choice, f"chosen for {general.on}")
        return conflict if chosen.outcome in losing else chosen

    def _beside(self, placement: Placement, new: MachinePath) -> MachinePath:
        """A free name for what is carried: the one of an earlier plan, or its own with the old computer's."""
        earlier = self._earlier.get(self._move.old.key(placement.old))
        if earlier is not None and earlier.beside is not None:
            return earlier.beside
        where = self._move.old.name
        options = (f" (from {where}{f' {number}' if number > 1 else ''})" for number in count(1))
        path = next(path for more in options if self._is_free(path := new.renamed(before_ending(new.name, more))))
        self._taken.add(self._move.new.key(path))
        return path

    def _is_free(self, path: MachinePath) -> bool:
        return self._move.new.key(path) not in self._taken and self._finder.find(path).facts is None


def _warned(conflict: Conflict, warning: str) -> Conflict:
    return replace(conflict, warning=" ".join(filter(None, (conflict.warning, warning))))


def _skeleton(carried: CatalogContent, there: CatalogContent) -> str:
    """Why the catalog that is there holds nothing that a person made; empty when it may."""
    if there.own_entries or there.annotations - carried.annotations or there.members - carried.members:
        return ""
    return "it holds only the program's own content" if there.entries else "it is empty"


def _weighed(carried: CatalogContent, there: CatalogContent) -> tuple[frozenset[Choice], str]:
    """Which choices lose work, and what needs a warning."""
    if carried.holds_more_than(there) and there.holds_more_than(carried):
        return _EITHER, "Each holds work that the other lacks: taking only one loses work. Take both."
    if there.holds_more_than(carried):
        return frozenset(
            {Choice.BRING_IN}
        ), "Of entries, groups and annotations, the one there has all that is carried, and more."
    if carried.holds_more_than(there):
        return frozenset(
            {Choice.KEEP}
        ), "Of entries, groups and annotations, the carried one has all that is there, and more."
    return frozenset(), ""


def _chosen(conflict: Conflict, choice: Choice, why: str) -> Conflict:
    if choice is Choice.MERGE:
        return replace(conflict, why="merge was chosen, and these are no catalogs")
    if choice is not Choice.NEWER:
        return replace(conflict, outcome=choice, why=why)
    seconds = (conflict.carried.date - conflict.there.date).total_seconds()
    if abs(seconds) * 10**9 <= SAME_MOMENT_NS:
        return replace(conflict, why="newer was chosen, but both have the same date")
    newer = Choice.BRING_IN if seconds > 0 else Choice.KEEP
    side = "the carried file" if seconds > 0 else "the file there"
    return replace(conflict, outcome=newer, why=f"{side} is newer, {why}")


def undecided(conflicts: Sequence[Conflict]) -> list[Blocker]:
    """The blocker for all conflicts that nothing decides."""
    places = tuple(each.new for each in conflicts if each.outcome is None)
    if not places:
        return []
    return [
        Blocker(
            "conflicts",
            f"Conflicts that need a decision: {len(places)}.",
            "Decide with zesty plan --decide keep, bring-in, both or newer (and merge for catalogs); or --decide "
            "PATH=keep for one file.",
            places,
        )
    ]


def undecided_in_merges(conflicts: Sequence[Conflict]) -> list[Blocker]:
    """The blockers for values that both of two merged catalogs have differently, and that nothing decides."""
    blockers = []
    for each in conflicts:
        open_values = each.merge.undecided if each.merge else ()
        if open_values:
            shown = tuple(f"{v.entry}: {v.field} is {v.there!r} there, {v.carried!r} carried" for v in open_values)
            blockers.append(
                Blocker(
                    each.title,
                    f"Values that differ on both sides, and need a decision: {len(open_values)}, in {each.new}.",
                    "Decide with zesty plan --values keep, bring-in or newer; or one by one with --decisions FILE.csv.",
                    shown,
                    guide=each.holding.partition("/")[0],
                )
            )
    return blockers
