"""Earlier moves to the same computer, by the crates beside this one: what they placed is the common origin.

A file that such a move placed or relinked and nobody touched since is no conflict; nor is one that only one of the two
computers has changed since.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from dataclasses import dataclass
from types import TracebackType
from typing import Self

from ..crate import Crate
from ..errors import ZestyError
from ..journal import Journal, Kind, Location
from ..machines import Disk
from .move import Move


@dataclass(frozen=True, slots=True)
class Origin:
    """What an earlier move did at a spot: the day, the digest of what it had carried, and of what it left there."""

    day: str
    crate: str
    carried: str
    left: str


@dataclass(frozen=True, slots=True)
class EarlierMove:
    """A move of another crate, of the computer ``old``, to the same computer, with its journal."""

    crate: str
    old: str
    begun: dt.datetime
    journal: Journal


class EarlierMoves:
    """The moves of other crates, newest first. Close it in the end."""

    def __init__(self, move: Move) -> None:
        self._moves = sorted(_others(move), key=lambda each: each.begun, reverse=True)
        self._old = move.old.name

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        for each in self._moves:
            each.journal.close()

    def origin_of(self, location: Location, payload: str) -> Origin | None:
        """What the newest move from this old computer that acted at a spot did there, if it was this same file.

        ``payload`` is the name in the crate: of one computer's file it is the same in every crate.
        """
        for each in self._moves:
            if each.old != self._old:
                continue  # what another one brought is nothing that both have in common
            history = [a for a in each.journal.history_at(location) if a.kind in (Kind.FILE, Kind.REPLACE)]
            carried = [action for action in history if action.source]
            if carried and carried[-1].source.rpartition(":")[2] != payload:
                return None  # another file of that computer
            if carried:
                return Origin(each.begun.date().isoformat(), each.crate, carried[-1].sha512, history[-1].sha512)
        return None

    def later_than(self, journal: Journal) -> EarlierMove | None:
        """A move that replaced what one's own left; None when there is none. The clock may have gone back meanwhile."""
        for each in self._moves:
            for place in each.journal.places():
                mine = journal.history_at(place)
                theirs = each.journal.history_at(place) if mine else []
                if any(a.kind is Kind.REPLACE and a.old_sha512 == mine[-1].sha512 for a in theirs):
                    return each
        return None


def _others(move: Move) -> Iterator[EarlierMove]:
    disk, carrier = move.outside.disk, move.crate.root.absolute().parent
    for name in disk.names(carrier) if move.into is None else ():
        path = carrier / name / move.own_folder / "journal.db"
        if name == move.crate.name or disk.facts(path) is None:
            continue
        try:
            journal = Journal.open(path, move.outside)
        except ZestyError:
            continue  # one that cannot be read tells nothing
        begun = journal.last_begun()
        if begun is not None:
            yield EarlierMove(name, _old_of(Crate(carrier / name), disk), begun, journal)
        else:
            journal.close()


def _old_of(crate: Crate, disk: Disk) -> str:
    """The name of the computer that a crate is of; empty when it does not tell."""
    try:
        return str(crate.about(disk)["computer"]["name"])
    except (ZestyError, KeyError, TypeError):
        return ""
