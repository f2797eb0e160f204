"""Permissions on the new computer: they mean the same on POSIX systems only, and elsewhere its own rules make them."""

from __future__ import annotations

from ..machines import FileFacts, usual_mode
from ..paths import System
from ..plan import Move


def facts_there(move: Move, facts: FileFacts, there: FileFacts | None = None) -> FileFacts:
    """The facts that something gets: its own, or with the permissions of what was ``there``, or the usual ones."""
    if System.WINDOWS not in (move.old.system, move.new.system):
        return facts
    return facts._replace(mode=there.mode if there is not None else usual_mode(facts.kind))
