"""Look at every carried file on the new computer, and compare its content with what was carried."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field

from ..journal import Journal, Kind, Spots
from ..machines import Disk, DiskError, Finder, Seen, Sight
from ..plan import Arrangement, Choice, Move, Placement, Placements, blockers_of_programs
from ..progress import Progress, Tell
from ..survey import State

_TELL_EVERY = 20
KEPT = "another file was in its place and was kept, as was chosen; what was carried is in the crate"


@dataclass(frozen=True, slots=True)
class FileVerdict:
    """How one carried file stands on the new computer; ``old`` is its path on the old one."""

    holding: str
    old: str
    new: str
    state: State
    why: str
    chosen: bool = False  # as a person decided


@dataclass(slots=True)
class CarriedFiles:
    """All verdicts that matter later: those by key of the new path, and counts by holding."""

    verdicts: dict[str, FileVerdict] = field(default_factory=dict)
    carried: Counter[str] = field(default_factory=Counter)
    found: Counter[str] = field(default_factory=Counter)
    compared: int = 0


def look_at_files(move: Move, journal: Journal, arrangement: Arrangement, finder: Finder, tell: Tell) -> CarriedFiles:
    """Find and read every carried file where the plan put it."""
    result, spots = CarriedFiles(), Spots(move.new)
    waiting = {blocker.guide: blocker.what for blocker in blockers_of_programs(move)}
    total = move.survey.count("SELECT count(*) FROM carried")
    for number, placement in enumerate(Placements(move.survey, move.old, arrangement.routes).files(), start=1):
        row = placement.row
        result.carried[row.holding] += row.role == "own"
        if placement.new is None:
            continue
        seen = finder.find(placement.new)
        last = journal.last_at(spots.at(finder, placement.new)) if seen.facts else None
        relinked = last is not None and last.kind is Kind.REPLACE and not last.source
        state, why = (State.FOUND, "") if relinked else _compare(move, placement, seen)
        if state is State.MISSING and (blocked := waiting.get(row.holding.partition("/")[0])):
            why = f"it was not unpacked yet: {blocked}"
        chosen = state is State.CHANGED and arrangement.choice_of(placement.old) is Choice.KEEP
        why = KEPT if chosen else why
        result.compared += not relinked and seen.facts is not None
        result.found[row.holding] += row.role == "own" and state is State.FOUND
        verdict = FileVerdict(row.holding, row.path, str(seen.path), state, why, chosen)
        result.verdicts[move.new.key(placement.new)] = verdict
        if number % _TELL_EVERY == 0 or number == total:
            tell(Progress("comparing", number, total))
    for placement in Placements(move.survey, move.old, arrangement.routes).folders():
        row, holding = placement.row, placement.row.holding
        if placement.new is not None and holding.partition("/")[0] not in waiting:
            seen = finder.find(placement.new)
            if seen.sight is Sight.ABSENT:
                why = f"this folder was carried, and is not at {placement.new}"
                verdict = FileVerdict(holding, row.path, str(placement.new), State.MISSING, why)
                result.verdicts[move.new.key(placement.new)] = verdict
    return result


def _compare(move: Move, placement: Placement, seen: Seen) -> tuple[State, str]:
    carried = placement.carried
    if seen.sight is Sight.UNPLUGGED:
        return State.UNPLUGGED, f"the volume {move.new.anchor_of(seen.path)} is not plugged in"
    if seen.sight in (Sight.DENIED, Sight.TWINS):
        return State.UNCLEAR, f"it cannot be told: {seen.why}"
    if seen.facts is None or seen.real is None or carried is None:
        return State.MISSING, f"it was carried, and is not at {placement.new}"
    return compare_content(seen, carried.file.facts.size_bytes, carried.sha512, move.outside.disk)


def compare_content(seen: Seen, size_bytes: int, sha512: str, disk: Disk) -> tuple[State, str]:
    """Whether a file that is there has the content that was carried."""
    if seen.facts is None or seen.real is None or not seen.facts.is_file:
        return State.CHANGED, "what is there is no file"
    if seen.facts.size_bytes != size_bytes:
        return State.CHANGED, f"it has {seen.facts.size_bytes} bytes, and {size_bytes} were carried"
    try:
        same = disk.digest(seen.real).sha512 == sha512
    except DiskError as error:
        return State.UNCLEAR, error.message
    return (State.FOUND, "") if same else (State.CHANGED, "its content is not what was carried")
