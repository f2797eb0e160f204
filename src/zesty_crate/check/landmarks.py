"""Open every landmark again where it is now, and hold it against what it was like in the beginning."""

from __future__ import annotations

from ..machines import Finder
from ..media import Opened, open_within
from ..paths import PathError
from ..plan import Arrangement, Move
from ..progress import Progress, Tell
from ..survey import Landmark, SurveyStore, file_to_open, first_file_of
from .model import OpenedLandmark

OPEN_WITHIN_S = 20.0
_SAME_LENGTH_S = 0.05


def place_of(landmark: Landmark, move: Move, arrangement: Arrangement, store: SurveyStore) -> str:
    """Where a landmark's file should be on the new computer; empty when it should be nowhere."""
    if landmark.entry:
        first = first_file_of(store, landmark.holding, landmark.entry)
        now = store.entry(landmark.holding, landmark.entry)
        return first or (now.path if now else "")
    try:
        new = arrangement.routes.translate(move.old.parse(landmark.at))
    except PathError:
        return ""
    return str(new) if new is not None else ""


def open_landmarks(
    landmarks: tuple[Landmark, ...],
    move: Move,
    arrangement: Arrangement,
    store: SurveyStore,
    finder: Finder,
    tell: Tell,
) -> tuple[OpenedLandmark, ...]:
    """Open each of them, waiting no longer than `OPEN_WITHIN_S` seconds for any."""
    opened = []
    for number, each in enumerate(landmarks, start=1):
        place = place_of(each, move, arrangement, store)
        real = file_to_open(place, move.new, finder) if place else None
        if real is not None:
            found = open_within(real, OPEN_WITHIN_S)
            verdict, said = judged(each.opened, found)
        elif left := _left_out(each, move):
            verdict, said, found = "left-out", left, Opened()
        elif _was_never_a_file(each):
            verdict, said, found = "as-before", "it has no file that could be opened, as before", Opened()
        else:
            verdict, said, found = "not-there", f"there is no file at {place or each.at}", Opened()
        opened.append(OpenedLandmark(each.holding, each.entry, place or each.at, each.named, verdict, said, found))
        tell(Progress("opening landmarks", number, len(landmarks)))
    return tuple(opened)


def judged(before: Opened, now: Opened) -> tuple[str, str]:
    """The verdict on a landmark that is there, and what was found."""
    if now.slow:
        return "slow", f"it did not open within {OPEN_WITHIN_S:.0f} s, which says nothing of its content"
    if now.fault:
        same = before.fault == now.fault
        return ("as-before" if same else "broken"), now.fault + (", and so it was before" if same else "")
    if before.duration_s and now.duration_s and abs(before.duration_s - now.duration_s) > _SAME_LENGTH_S:
        return "differs", f"it plays {now.duration_s:.2f} s, and played {before.duration_s:.2f} s"
    if before.dimensions and now.dimensions and before.dimensions != now.dimensions:
        was, now_is = ("{} x {}".format(*each) for each in (before.dimensions, now.dimensions))
        return "differs", f"it is {now_is} pixels large, and was {was}"
    return "opened", described(now)


def described(opened: Opened) -> str:
    """What a file was found to be, in a few words."""
    if opened.what == "file":
        return "its form is not known; read to its end"
    if opened.duration_s is not None:
        return f"{opened.what}, {opened.duration_s:.2f} s"
    if opened.dimensions:
        return "{}, {} x {}".format(opened.what, *opened.dimensions)
    return opened.what


def _left_out(landmark: Landmark, move: Move) -> str:
    """Why its file, or the catalog that speaks of it, was left on the old computer on purpose; empty otherwise."""
    documents = move.survey.documents("fault = ''") if landmark.entry else []
    catalogs = (each for each in documents if each.holding == landmark.holding)
    for text in (landmark.at, *(each.path for each in catalogs if landmark.entry.startswith(each.prefix))):
        try:
            path = move.old.parse(text)
        except PathError:
            continue
        why = "" if move.old.travels(path) else move.survey.left_out(move.old.key(path))
        if why:
            return f"it was left on {move.old.name}, as was chosen: {why}"
    return ""


def _was_never_a_file(landmark: Landmark) -> bool:
    return landmark.opened == Opened()
