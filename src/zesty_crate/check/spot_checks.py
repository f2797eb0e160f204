"""Open every spot check again where it is now, and hold it against what it was like in the beginning."""

from __future__ import annotations

from ..machines import Finder
from ..media import Opened, open_within
from ..paths import PathError
from ..plan import Arrangement, Move
from ..progress import Progress, Tell
from ..survey import WERE_READ, SpotCheck, SurveyStore, file_to_open, first_file_of, why_not_seen
from .model import OpenedSpotCheck

OPEN_WITHIN_S = 20.0
_SAME_LENGTH_S = 0.05


def place_of(spot_check: SpotCheck, move: Move, arrangement: Arrangement, store: SurveyStore) -> str:
    """Where a spot check's file should be on the new computer; empty when it should be nowhere."""
    if spot_check.entry:
        first = first_file_of(store, spot_check.holding, spot_check.entry)
        now = store.entry(spot_check.holding, spot_check.entry)
        if first or now:
            return first or (now.path if now else "")
    try:
        new = arrangement.routes.translate(move.old.parse(spot_check.at))
    except PathError:
        return ""
    return str(new) if new is not None else ""


def open_spot_checks(
    spot_checks: tuple[SpotCheck, ...],
    move: Move,
    arrangement: Arrangement,
    store: SurveyStore,
    finder: Finder,
    tell: Tell,
) -> tuple[OpenedSpotCheck, ...]:
    """Open each of them, waiting no longer than `OPEN_WITHIN_S` seconds for any."""
    opened = []
    for number, each in enumerate(spot_checks, start=1):
        place = place_of(each, move, arrangement, store)
        real = file_to_open(place, move.new, finder) if place else None
        if real is not None:
            found = open_within(real, OPEN_WITHIN_S)
            verdict, said = judged(each.opened, found)
        elif left := _left_out(each, move):
            verdict, said, found = "left-out", left, Opened()
        elif _was_never_a_file(each):
            verdict, said, found = "as-before", "it has no file to open, as before", Opened()
        elif why := why_not_seen(place or each.at, move.new, finder):
            verdict, said, found = "unclear", why, Opened()
        else:
            verdict, said, found = "not-there", f"there is no file at {place or each.at}", Opened()
        opened.append(OpenedSpotCheck(each.holding, each.entry, place or each.at, each.named, verdict, said, found))
        tell(Progress("opening spot checks", number, len(spot_checks)))
    return tuple(opened)


def judged(before: Opened, now: Opened) -> tuple[str, str]:
    """The verdict on a spot check that is there, and what was found."""
    if now.slow:
        return "slow", f"it did not open within {OPEN_WITHIN_S:.0f} s; its content is not known"
    if now.fault:
        same = before.fault == now.fault
        return ("as-before" if same else "broken"), now.fault + (", as before" if same else "")
    if before.duration_s and now.duration_s and abs(before.duration_s - now.duration_s) > _SAME_LENGTH_S:
        return "differs", f"it plays {now.duration_s:.2f} s; before it played {before.duration_s:.2f} s"
    if before.dimensions and now.dimensions and before.dimensions != now.dimensions:
        was, now_is = ("{} x {}".format(*each) for each in (before.dimensions, now.dimensions))
        return "differs", f"it is {now_is} pixels; before it was {was}"
    return "opened", described(now)


def described(opened: Opened) -> str:
    """What a file was found to be, in a few words."""
    if opened.what == "file":
        return "unknown format; read to its end"
    if opened.duration_s is not None:
        return f"{opened.what}, {opened.duration_s:.2f} s"
    if opened.dimensions:
        return "{}, {} x {}".format(opened.what, *opened.dimensions)
    return opened.what


def _left_out(spot_check: SpotCheck, move: Move) -> str:
    """Why its file, or the catalog that mentions it, was left on the old computer on purpose; empty otherwise."""
    if spot_check.entry and (why := move.survey.left_out_of(spot_check.holding, spot_check.entry)):
        return f"it was left on {move.old.name} by choice: {why}"
    documents = move.survey.documents(WERE_READ) if spot_check.entry else []
    catalogs = (each for each in documents if each.holding == spot_check.holding)
    for text in (spot_check.at, *(each.path for each in catalogs if spot_check.entry.startswith(each.prefix))):
        try:
            path = move.old.parse(text)
        except PathError:
            continue
        why = "" if move.old.travels(path) else move.survey.left_out(move.old.key(path))
        if why:
            return f"it was left on {move.old.name} by choice: {why}"
    return ""


def _was_never_a_file(spot_check: SpotCheck) -> bool:
    return spot_check.opened == Opened()
