"""What is in a holding's place on the new computer and was not carried, and why it is there."""

from __future__ import annotations

from ..machines.texts import restored, stored
from ..plan import Arrangement, Choice, Move
from ..survey import SurveyStore
from .model import Surplus, SurplusReason

_NOT_EXPECTED = """
SELECT holding, path, key, size, modified_ns FROM file
WHERE kind = 'file' AND role = 'own' AND key NOT IN (SELECT key FROM expected WHERE key IS NOT NULL)
ORDER BY holding, path
"""


def explain_surplus(
    move: Move, arrangement: Arrangement, store: SurveyStore, baseline: SurveyStore | None, begun_ns: int
) -> tuple[Surplus, ...]:
    """Every file that was not carried, by holding and reason.

    ``baseline`` is what was listed just before unpacking, ``begun_ns`` when that began. What was listed then was
    there before; of anything else, only what was written later can have been made since.
    """
    beside = {stored(move.new.key(each.new)) for each in arrangement.settled() if each.outcome is Choice.BOTH}
    found: dict[tuple[str, SurplusReason], list[tuple[str, int]]] = {}
    for holding, path, key, size, modified_ns in store.database.execute(_NOT_EXPECTED):
        if key in beside:
            why = SurplusReason.KEPT_BOTH
        elif baseline is not None and baseline.count("SELECT count(*) FROM file WHERE key = ?", (key,)):
            why = SurplusReason.BASELINE
        else:
            why = SurplusReason.MADE_SINCE if modified_ns > begun_ns else SurplusReason.UNKNOWN
        found.setdefault((holding, why), []).append((restored(path), size))
    return tuple(
        Surplus(
            holding,
            why,
            len(files),
            sum(size for _, size in files),
            () if why is SurplusReason.BASELINE else tuple(path for path, _ in files),
        )
        for (holding, why), files in found.items()
    )
