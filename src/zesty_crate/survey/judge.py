"""Judge one entry on one computer: is its file where it says?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..catalogs import Entry
from ..guides import Holding
from ..machines import Computer, Finder, Seen, Sight
from ..paths import MachinePath, PathError, read_path
from .model import State


@dataclass(frozen=True, slots=True)
class Judgement:
    """What was found for an entry; ``seen`` is None when it names no path of this computer."""

    state: State
    why: str = ""
    path: MachinePath | None = None
    seen: Seen | None = None


class Judge:
    """Judges entries on one computer; ``gone`` is the state of an entry whose file is not there."""

    def __init__(self, computer: Computer, finder: Finder, holdings: Sequence[Holding], gone: State) -> None:
        self._computer = computer
        self._finder = finder
        self._owned = [computer.key(holding.at) for holding in holdings if holding.at is not None]
        self._gone = gone

    def judge(self, entry: Entry) -> Judgement:
        """The state of ``entry``, and why it is not simply found."""
        if entry.remote:
            return Judgement(State.REMOTE)
        try:
            path = read_path(entry.recorded, self._computer.system, entry.spelling, entry.base).path
        except PathError as error:
            return Judgement(self._gone, error.message)
        seen = self._finder.find(path)
        state, why = self._state_of(seen, entry)
        return Judgement(state, why, path, seen)

    def _state_of(self, seen: Seen, entry: Entry) -> tuple[State, str]:
        if seen.sight is Sight.UNPLUGGED:
            return State.UNPLUGGED, f"the volume {self._computer.anchor_of(seen.path)} is not plugged in"
        if seen.sight is Sight.ABSENT or (seen.facts is None and seen.sight is Sight.THERE):
            return self._gone, "no file is there"
        if seen.sight is Sight.DENIED:
            return State.UNCLEAR, f"it may not be looked at: {seen.why}"
        if seen.sight is Sight.TWINS:
            return State.UNCLEAR, f"several names could be meant: {seen.why}"
        if seen.facts and entry.size_bytes is not None and seen.facts.size_bytes != entry.size_bytes:
            return State.CHANGED, f"it has {seen.facts.size_bytes} bytes, and the catalog records {entry.size_bytes}"
        if not self.owns(seen.path):
            return State.OUTSIDE, "it lies outside all of the program's folders"
        return State.FOUND, ""

    def owns(self, path: MachinePath) -> bool:
        """Whether ``path`` lies in a holding."""
        key = self._computer.key(path)
        return any(key == owned or key.startswith(owned + "/") for owned in self._owned)
