"""What is decided where something else is in a carried file's place: for one item, for many, or for all."""

from __future__ import annotations

import difflib
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from ..errors import ZestyError
from ..machines import Computer
from ..paths import MachinePath, PathError

ALL = "all"


class Choice(StrEnum):
    """What becomes of two that want one place. In the end it is one of the first four."""

    KEEP = "keep"  # what is there stays; what is carried is not placed
    BRING_IN = "bring-in"  # what is carried takes the place; what was there is kept aside
    BOTH = "both"  # what is carried is placed under another name
    MERGE = "merge"  # of two catalogs: relinking writes one that holds all of both
    NEWER = "newer"  # keep or bring in, by the dates


@dataclass(frozen=True, slots=True)
class Decision:
    """A choice ``on`` everything ("all"), a program, a holding, one path of the new computer, or a registry value."""

    on: str
    choice: Choice


class Decisions:
    """All decisions of a plan. The closer one counts: that on an item before a holding's, a program's, and on all."""

    def __init__(self, decisions: Iterable[Decision], new: Computer) -> None:
        self._new = new
        self._by_subject: dict[str, Decision] = {}
        self._merging: dict[str, Decision] = {}
        for decision in decisions:  # of two on one thing, the later one counts
            of_kind = self._merging if decision.choice is Choice.MERGE else self._by_subject
            of_kind[self._subject(decision.on)] = decision

    def on_item(self, path: MachinePath) -> Choice | None:
        """What was decided on this very item."""
        key = self._new.key(path)
        decision = self._merging.get(key) or self._by_subject.get(key)
        return decision.choice if decision else None

    def on_text(self, subject: str) -> Choice | None:
        """What was decided on something that is no path, such as a value of a registry."""
        every = (*self._merging.items(), *self._by_subject.items())
        found = (each for on, each in every if on.casefold() == subject.casefold())
        return next((each.choice for each in found), None)

    def in_general(self, holding: str, *, is_catalog: bool = False) -> Decision | None:
        """What was decided on a holding as a whole, its program, or everything. Only catalogs are merged."""
        for subject in (holding, holding.partition("/")[0], ALL):
            if is_catalog and subject in self._merging:
                return self._merging[subject]
            if subject in self._by_subject:
                return self._by_subject[subject]
        return None

    def _subject(self, on: str) -> str:
        try:
            return self._new.key(self._new.parse(on))
        except PathError:
            return on


def read_decision(text: str, holdings: Iterable[str], new: Computer) -> Decision:
    """A decision as a technician types it: ``CHOICE`` for all, or ``WHAT=CHOICE``. Raises `ZestyError` for others."""
    on, _, word = text.rpartition("=")
    on = on or ALL
    if word not in list(Choice):
        near = difflib.get_close_matches(word, list(Choice), n=1)
        raise ZestyError(
            f"{word!r} in {text!r} is not one of the choices " + ", ".join(Choice) + ".",
            next_step=f"Did you mean {near[0]}?" if near else "Write it like newer, HOLDING=keep or PATH=both.",
        )
    require_subject(on, holdings, new)
    return Decision(on, Choice(word))


def is_subject(on: str, holdings: Iterable[str], new: Computer) -> bool:
    """Whether ``on`` is something that can be decided on."""
    try:
        require_subject(on, list(holdings), new)
    except ZestyError:
        return False
    return True


def require_subject(on: str, holdings: Iterable[str], new: Computer) -> None:
    """Raise `ZestyError` unless ``on`` is something that can be decided on."""
    known = {ALL, *holdings, *(each.partition("/")[0] for each in holdings)}
    if on in known or on.upper().startswith("HKEY_"):
        return
    try:
        new.parse(on)
    except PathError as error:
        near = difflib.get_close_matches(on, sorted(known), n=1)
        raise ZestyError(
            f"{on!r} is neither a program or holding of this crate nor a path of {new.name}.",
            next_step=f"Did you mean {near[0]}?" if near else "zesty plan lists the conflicts.",
        ) from error
