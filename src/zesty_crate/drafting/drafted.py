"""A draft while it is made: its blocks, its ids and places, and what they already cover."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass, field

from ..paths import MachinePath, System
from .model import DraftedEntries
from .names import ending_of
from .places import Templates, usual_place_of
from .write import Block


@dataclass(slots=True)
class Drafted:
    """The blocks of holdings, what they are about, and where the media of their entries are."""

    blocks: list[Block] = field(default_factory=list)
    entries: list[DraftedEntries] = field(default_factory=list)
    media: list[MachinePath] = field(default_factory=list)
    folders: list[MachinePath] = field(default_factory=list)
    covered: set[MachinePath] = field(default_factory=set)
    settings: dict[MachinePath, tuple[int, str]] = field(default_factory=dict)  # folders that settings name, and where
    ids: dict[int, str] = field(default_factory=dict)  # of the holdings, by the kinds of their documents
    of_content: dict[MachinePath, int] = field(default_factory=dict)  # folders that are full of media
    places: dict[str, dict[str, str]] = field(default_factory=dict)
    taken: set[str] = field(default_factory=set)  # templates of folders, which are no place for others elsewhere
    _ids: set[str] = field(default_factory=set)

    def new_place(self, name: str, folder: MachinePath, templates: Templates) -> str:
        """A place of the guide's own for a folder that is in no usual place; elsewhere where such media usually are."""
        inside = (path for path in self.media if templates.is_within(path, folder))
        endings = Counter(ending_of(path.name) for path in inside).most_common(1)
        usual = usual_place_of(endings[0][0] if endings else "")
        last = f"/{folder.parts[-1]}" if folder.parts else f"/{name}"
        proposal = f"{{{usual}}}{last}"
        if proposal in self.taken or any(proposal in places.values() for places in self.places.values()):
            proposal = f"{{{usual}}}/{name} 2"  # which no other folder is called
        proposed = {str(each): proposal for each in System}
        self.places[name] = {**proposed, str(templates.computer.system): str(folder)}
        return f"{{{name}}}"

    def setting_for(self, base: MachinePath) -> dict[str, str] | None:
        """Where a guide finds the setting that names a folder."""
        kind, key = self.settings.get(base, (0, ""))
        return {"holding": self.ids[kind], "key": key} if kind in self.ids else None

    def new_id(self, wanted: str) -> str:
        """An id that no other holding has."""
        slug = re.sub(r"[^a-z0-9]+", "-", wanted.lower()).strip("-") or "documents"
        if not slug[0].isalpha():
            slug = f"a-{slug}"
        number, made = 2, slug
        while made in self._ids:
            made, number = f"{slug}-{number}", number + 1
        self._ids.add(made)
        return made
