"""Folder by folder: what was decided for one file is right for all that are beside it, unless a plan parts them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Container
from urllib.parse import unquote

from ..paths import Halves, MachinePath, Spelling, System, name_splitter, split_name
from .targets import ALL_NAMES

_UNKNOWN: tuple[str, Container[str]] = ("", ())


def no_names(_: MachinePath) -> Container[str]:
    """Nothing is known of any folder, so each file is decided for itself."""
    return ()


class DecidedFolders:
    """New texts for paths that are kept whole in one cell, by the text of their folder."""

    def __init__(self, old: System, going_along: Callable[[MachinePath], Container[str]]) -> None:
        """``going_along`` tells which names in a folder are sure to go where the folder goes, just as they are."""
        self._old = old
        self._going_along = going_along
        self._known: defaultdict[Spelling, dict[str, tuple[str, Container[str]]]] = defaultdict(dict)
        self._asked: tuple[Spelling, Callable[[str], Halves | None], dict[str, tuple[str, Container[str]]]] | None = (
            None
        )

    def new_text(self, text: str, spelling: Spelling) -> str | None:
        """The new text of a path, where its folder is known."""
        if self._asked is None or self._asked[0] is not spelling:  # seldom: to look it up costs as much as all else
            self._asked = spelling, name_splitter(self._old, spelling), self._known[spelling]
        _, halves_of, known = self._asked
        if (found := halves_of(text)) is None:
            return None
        folder, name = found
        start, names = known.get(folder, _UNKNOWN)
        return start + name if names is ALL_NAMES or _goes_along(name, names, spelling) else None

    def learn(self, text: str, spelling: Spelling, old: MachinePath, new: str) -> None:
        """Take from a path that was decided what is right for its whole folder."""
        found = split_name(text, self._old, spelling)
        if found is None or found[0] in self._known[spelling] or not new.endswith(found[1]):
            return
        names = self._going_along(old.parent)
        if _goes_along(found[1], names, spelling):
            self._known[spelling][found[0]] = new[: len(new) - len(found[1])], names


def _goes_along(name: str, names: Container[str], spelling: Spelling) -> bool:
    return names is ALL_NAMES or (bool(names) and (unquote(name) if spelling.is_url else name) in names)
