"""Files that belong to media and lie beside them, by names made of theirs."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from ..machines import Finder
from ..paths import MachinePath

_FEWEST, _SHARE = 3, 0.5
_MOST_LOOKED_AT = 200


def siblings_of(media: Sequence[MachinePath], finder: Finder) -> list[str]:
    """Patterns of names that at least half of the media have beside them, and that no entry records itself."""
    some = media[:: max(1, len(media) // _MOST_LOOKED_AT)][:_MOST_LOOKED_AT]
    named = set(media)
    counted: Counter[str] = Counter()
    for path in some:
        stem = path.name.rpartition(".")[0]
        for each in finder.inside(path.parent):
            name = each.path.name
            if each.path == path or each.path in named or each.facts is None or not each.facts.is_file:
                continue
            if name.startswith(f"{path.name}."):
                counted["{name}" + name[len(path.name) :]] += 1
            elif stem and name.startswith(f"{stem}."):
                counted["{stem}" + name[len(stem) :]] += 1
    return sorted(pattern for pattern, number in counted.items() if number >= max(_FEWEST, _SHARE * len(some)))
