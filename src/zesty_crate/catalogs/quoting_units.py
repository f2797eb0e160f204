"""A manner of writing texts inside marks: unit by unit, so that what stays of a text stays as it was written.

A quoting takes a raw text apart into units, each of which represents some characters. Of a new text, what begins and
ends like the old one keeps its units as they were written; only what is between is written anew.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import lru_cache
from typing import Protocol

from .model import CatalogError

_LONGEST_KEPT = 1_000
UNESCAPED = "unescaped"  # between quotation marks, in a text of which nobody knows how it escapes


class AnyQuoting(Protocol):
    """How a text is written in one kind of place. Raises `CatalogError` for one that cannot be written there."""

    @property
    def name(self) -> str:
        """What places call it."""

    def decode(self, raw: str) -> str:
        """What a raw text represents."""

    def rewrite(self, raw: str, new: str) -> str:
        """The raw text for a new one, in the manner of the one that it replaces."""


@dataclass(frozen=True, slots=True, eq=False)
class Quoting:
    """One manner of writing texts.

    ``mark`` is in every unit that does not represent itself. ``unit`` matches one unit of raw text, ``read`` is what it
    represents. ``escape`` writes one character; it is given the raw text that was there for its style, and returns
    None for a character that cannot be written.
    """

    name: str
    mark: str
    unit: re.Pattern[str]
    read: Callable[[str], str]
    escape: Callable[[str, str], str | None]

    def decode(self, raw: str) -> str:
        """What a raw text represents."""
        if not self.mark or self.mark not in raw:
            return raw
        cut = self._last_name(raw)
        return (_decoded(self, raw[:cut]) if cut < _LONGEST_KEPT else self.decode_whole(raw[:cut])) + raw[cut:]

    def decode_whole(self, raw: str) -> str:
        """The same, unit by unit."""
        return _escapes(self.unit).sub(lambda match: self.read(match.group()), raw)

    def rewrite(self, raw: str, new: str) -> str:
        """The raw text for ``new``, in the manner of the ``raw`` that it replaces.

        Raises `CatalogError` for a character that cannot be there.
        """
        cut = self._last_name(raw)
        name = raw[cut:]
        if not name.isascii() or not new.endswith(name):
            return _rewritten(self, raw, new)
        return _rewritten(self, raw[:cut], new[: len(new) - len(name)]) + name

    def _last_name(self, raw: str) -> int:
        """Where a last name begins that represents itself; what is before it is the same for many paths."""
        cut = max(raw.rfind("/"), raw.rfind("\\")) + 1
        if self.mark and self.mark in raw[cut:]:
            return len(raw)
        return len(raw) if self.ends_within(raw[:cut]) else cut

    def ends_within(self, raw: str) -> bool:
        """Whether a character more would belong to an escape: after an odd number of backslashes."""
        return self.mark == "\\" and raw.endswith("\\") and bool((len(raw) - len(raw.rstrip("\\"))) % 2)

    def rewrite_whole(self, raw: str, new: str) -> str:
        """The same, unit by unit."""
        units = [(match.group(), self.read(match.group())) for match in self.unit.finditer(raw)]
        head, tail = self._kept(units, new)
        start = "".join(written for written, _ in units[:head])
        end = "".join(written for written, _ in units[len(units) - tail :])
        middle = new[len(self.decode(start)) : len(new) - len(self.decode(end))]
        return start + "".join(self._escaped(character, raw, new) for character in middle) + end

    def _kept(self, units: list[tuple[str, str]], new: str) -> tuple[int, int]:
        """How many units at the beginning and at the end stay."""
        head, at = 0, 0
        while head < len(units) and units[head][1] and new.startswith(units[head][1], at):
            at += len(units[head][1])
            head += 1
        tail, end = 0, len(new)
        while tail < len(units) - head:
            text = units[-1 - tail][1]
            if not text or end - len(text) < at or not new.endswith(text, at, end):
                break
            end -= len(text)
            tail += 1
        return head, tail

    def _escaped(self, character: str, raw: str, new: str) -> str:
        written = self.escape(character, raw)
        if written is None:
            raise unwritable(new, character, self.name)
        return written


def requoted(quoting: AnyQuoting, raw: str, old: str, new: str) -> str | None:
    """The raw text for ``new`` in the place of one that represents ``old``; None for one that does not.

    Most texts represent themselves, as the new ones do; of others, most differ in a last name alone, and what is before
    it is remembered.

    Raises `CatalogError` for a character that cannot be there.
    """
    if isinstance(quoting, Quoting):
        if raw == old and _represents_itself(quoting)(new) and not (quoting.mark and quoting.mark in raw):
            return new
        cut = max(raw.rfind("/"), raw.rfind("\\")) + 1
        name = raw[cut:]
        is_itself = cut and name.isascii() and not (quoting.mark and quoting.mark in name)
        if is_itself and old.endswith(name) and new.endswith(name):
            start = _requoted(quoting, raw[:cut], old[: len(old) - len(name)], new[: len(new) - len(name)])
            if start is not None:
                return start + name
    return quoting.rewrite(raw, new) if quoting.decode(raw) == old else None


def represent_themselves(quoting: AnyQuoting, olds: Iterable[str], news: Iterable[str]) -> bool:
    """Whether all of some texts, in a document and new, are surely written as they are. See `requoted`."""
    if not isinstance(quoting, Quoting):
        return False
    return bool(_represents_itself(quoting)("".join(news))) and not (quoting.mark and quoting.mark in "".join(olds))


@lru_cache
def _represents_itself(quoting: Quoting) -> Callable[[str], object]:
    """Tells whether all of a text is ASCII that is never escaped where nothing around it is."""
    bare = "".join(each for each in map(chr, range(ord(" "), 0x7F)) if quoting.escape(each, "") == each)
    return re.compile(f"[{re.escape(bare)}]*").fullmatch


@lru_cache(maxsize=65536)
def _requoted(quoting: Quoting, raw: str, old: str, new: str) -> str | None:
    if quoting.ends_within(raw) or quoting.decode_whole(raw) != old:
        return None
    return quoting.rewrite_whole(raw, new)


@lru_cache
def _escapes(unit: re.Pattern[str]) -> re.Pattern[str]:
    """Of the units of a quoting those that may not represent themselves: all but the last, which is any character."""
    return re.compile(unit.pattern.removesuffix("|."), unit.flags)


def unwritable(new: str, character: str, quoting: str = "") -> CatalogError:
    """A character of a new path has no place in a quoting."""
    step = "Place these files elsewhere with a route."
    if quoting == UNESCAPED:
        step = 'Say in the guide how the text writes it: escapes = "json" or "none".'
    return CatalogError(
        f"The path {new!r} holds {character!r}, which this place of the catalog cannot hold.", next_step=step
    )


@lru_cache(maxsize=65536)
def _rewritten(quoting: Quoting, raw: str, new: str) -> str:
    return quoting.rewrite_whole(raw, new)


@lru_cache(maxsize=65536)
def _decoded(quoting: Quoting, raw: str) -> str:
    return quoting.decode_whole(raw)
