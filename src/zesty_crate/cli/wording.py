"""Numbers and problems in words, the same in every command."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from ..survey import Problem, Totals
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


def show_problems(terminal: Terminal, title: str, problems: Sequence[Problem]) -> None:
    """List entries that are not simply found, by state and reason."""
    if not problems:
        return
    terminal.say()
    terminal.heading(title)
    alike: dict[tuple[str, str], list[str]] = {}
    for problem in problems:
        alike.setdefault((problem.state, problem.why), []).append(problem.recorded)
    for (state, why), recorded in list(alike.items())[:_SHOWN_REASONS]:
        terminal.say(f"  {state}: {why}")
        show_list(terminal, recorded, shown=_SHOWN_ENTRIES)
    if len(alike) > _SHOWN_REASONS:
        terminal.say(f"  and {len(alike) - _SHOWN_REASONS:,} other reasons; --json lists all")


def show_list(terminal: Terminal, lines: Iterable[str], shown: int = 6, indent: str = "    ") -> None:
    """A few of many lines, and how many more there are."""
    listed = list(lines)
    for line in listed[:shown]:
        terminal.say(f"{indent}{line}")
    if len(listed) > shown:
        terminal.say(f"{indent}and {len(listed) - shown:,} more; --json lists all")
