"""Numbers and problems in words, the same in every command."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ..survey import NotLookedAt, Problem, Totals
    from .terminal import Terminal

_SHOWN_REASONS = 12
_SHOWN_ENTRIES = 8


def count(number: int, one: str, many: str = "") -> str:
    """``1 file``, ``2 files``."""
    return f"{number:,} {one if number == 1 else many or one + 's'}"


def entries(number: int) -> str:
    """``1 catalog entry``, ``2 catalog entries``."""
    return count(number, "catalog entry", "catalog entries")


def day(moment: str) -> str:
    """A date and time to the minute."""
    return moment[:16].replace("T", " ")


def states(totals: Totals) -> str:
    """The states that occur, with their numbers."""
    from ..survey import State

    return ", ".join(f"{totals[state]:,} {state}" for state in State if totals[state]) or "no entries"


def show_problems(terminal: Terminal, title: str, problems: Iterable[Problem]) -> None:
    """List entries that are not simply found, by state and reason."""
    shown, others = dict[tuple[str, str], _Few](), set[int]()
    for problem in problems:
        reason = problem.state, problem.why
        if reason in shown or len(shown) < _SHOWN_REASONS:
            shown.setdefault(reason, _Few()).add(problem.recorded)
        else:
            others.add(hash(reason))  # there may be one for each of a million
    if not shown:
        return
    terminal.say()
    terminal.heading(title)
    for (state, why), few in shown.items():
        terminal.say(f"  {state}: {why}")
        _show_few(terminal, few.first, few.number)
    if others:
        terminal.say(f"  and {len(others):,} other reasons; --json lists all")


def show_not_looked_at(
    terminal: Terminal, places: Iterable[NotLookedAt], titles: Mapping[str, str], side: str = ""
) -> None:
    """List where nobody could look, with the ``titles`` of holdings by their ids; ``side`` is one of two."""
    names = ((f"{titles.get(each.holding, each.holding)}: " if each.holding else "", each) for each in places)
    lines = [f"{name}{each.at.rstrip(':')}: {each.why}" for name, each in names]
    if lines:
        terminal.say()
        terminal.heading(f"Not looked at {side}".rstrip())
        show_list(terminal, lines, shown=12, indent="  ")


@dataclass(slots=True)
class _Few:
    """The first of many lines, and how many there are."""

    first: list[str] = field(default_factory=list)
    number: int = 0

    def add(self, line: str) -> None:
        self.number += 1
        if self.number <= _SHOWN_ENTRIES:
            self.first.append(line)


def show_list(terminal: Terminal, lines: Iterable[str], shown: int = 6, indent: str = "    ") -> None:
    """A few of many lines, and how many more there are."""
    listed = list(lines)
    _show_few(terminal, listed[:shown], len(listed), indent)


def _show_few(terminal: Terminal, few: Iterable[str], number: int, indent: str = "    ") -> None:
    """Some lines, and how many more there are of the whole number."""
    for line in few:
        terminal.say(f"{indent}{line}")
        number -= 1
    if number > 0:
        terminal.say(f"{indent}and {number:,} more; --json lists all")
