"""Whether files and folders have the labels, tags, notes and dates of creation that were carried."""

from __future__ import annotations

from ..machines import Finder
from ..machines.texts import restored
from ..plan import Arrangement, Move
from ..survey import SurveyStore
from .model import AttributesCompared

# The old survey is attached as "old". What a person chose to keep in the place of something has labels of its own.
_WITH_ATTRIBUTES = """
SELECT id, path FROM old.file AS f WHERE id IN (SELECT file FROM old.attribute)
AND NOT EXISTS (SELECT 1 FROM expected AS x WHERE x.file = f.id AND x.chosen) ORDER BY id
"""


def compare_attributes(move: Move, arrangement: Arrangement, store: SurveyStore, finder: Finder) -> AttributesCompared:
    """Look at everything that is there and had labels. Others that it got since are nobody's loss."""
    compared, lacking = 0, []
    for file, path in list(store.database.execute(_WITH_ATTRIBUTES)):
        place = arrangement.routes.translate(move.old.parse(restored(path)))
        real = finder.find(place).real if place else None
        wanted = move.outside.disk.attributes_kept(move.survey.attributes(file))
        if real is None or not wanted:
            continue
        compared += 1
        has = move.outside.disk.attributes(real)
        if any(has.get(name) != value for name, value in wanted.items()):
            lacking.append(str(place))
    return AttributesCompared(compared, tuple(lacking))
