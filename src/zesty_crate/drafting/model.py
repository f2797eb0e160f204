"""What a draft comes to."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from ..guide_trials import Mistake, TrialReport


@dataclass(frozen=True, slots=True)
class DraftedEntries:
    """Records of a document that record paths: by what fields, spelled how, and how many of some lead somewhere."""

    holding: str
    at: str
    syntax: str
    selected: str
    path: str
    spelling: str
    found: int
    looked_at: int


@dataclass(frozen=True, slots=True)
class Unexplained:
    """What a person must look at: a document, or a field of it, with why and some samples."""

    at: str
    what: str
    samples: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Draft:
    """A guide from evidence; ``text`` is empty where nothing was found. ``stopped`` when its time was up.

    ``names`` are the names on the computer; ``known`` are documents that other guides read already, by their titles.
    """

    id: str
    text: str
    names: int
    documents: int
    entries: tuple[DraftedEntries, ...]
    unexplained: tuple[Unexplained, ...]
    mistakes: tuple[Mistake, ...]
    trial: TrialReport | None
    stopped: bool = False
    known: tuple[tuple[str, int], ...] = ()

    def renamed(self, identifier: str) -> Draft:
        """The same guide by another id."""
        text = re.sub(
            r'^(id\s+= )"[^"]*"', lambda found: f'{found[1]}"{identifier}"', self.text, count=1, flags=re.MULTILINE
        )
        return replace(self, id=identifier, text=text)

    @property
    def tries_well(self) -> bool:
        """Whether the guide has no mistakes, and finds things as its author wants it."""
        return bool(self.text) and not self.mistakes and self.trial is not None and not self.trial.attention
