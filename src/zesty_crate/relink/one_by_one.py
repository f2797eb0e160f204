"""Look among the files of a computer for those that no route explains."""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache

from ..errors import ZestyError
from ..machines import Disk, Finder
from ..media import NOTHING_TOLD, MediaFacts, media_facts
from ..paths import MachinePath
from ..progress import Progress, Tell
from .clues import Lost
from .matching import Matched, Matcher

_TELL_EVERY = 2_000


def match_one_by_one(
    lost: list[Lost], finder: Finder, disk: Disk, tops: Iterable[MachinePath], tell: Tell
) -> list[Matched]:
    """Match every lost file with those below the folders ``tops``."""
    if not lost:
        return []
    matcher = Matcher(lost)
    seen = 0
    for top in tops:
        for each in finder.walk(top):
            if each.facts is not None and each.facts.is_file:
                matcher.see(each.path, each.facts.size_bytes, each.facts.modified_ns)
            seen += 1
            if seen % _TELL_EVERY == 0:
                tell(Progress("comparing files one by one", seen))
    looks = _Looks(finder, disk)
    return matcher.match(lru_cache(maxsize=None)(looks.content_of), lru_cache(maxsize=None)(looks.media_of))


class _Looks:
    """Looks into files that could be the ones; what cannot be read says nothing."""

    def __init__(self, finder: Finder, disk: Disk) -> None:
        self._finder = finder
        self._disk = disk

    def content_of(self, path: MachinePath, method: str) -> str:
        """``method:digest`` of a file, or an empty text."""
        real = self._finder.find(path).real
        try:
            return "" if real is None else f"{method}:{self._disk.digest_by(real, method)}"
        except ZestyError:
            return ""

    def media_of(self, path: MachinePath) -> MediaFacts:
        """What a sound or picture says about itself."""
        real = self._finder.find(path).real
        return NOTHING_TOLD if real is None else media_facts(real)
