"""Commands one after the other, each as it is by itself, up to the first that is blocked."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from .json_text import as_json
from .layout import command_text
from .status import Status
from .terminal import Terminal

_STOPS = (Status.REFUSED, Status.HALFWAY, Status.FAULT)


class _Kept(Terminal):
    """A terminal that keeps the JSON document of a step, to be shown with the others."""

    kept: object = None

    def document(self, content: Mapping[str, object]) -> None:
        """Keep it."""
        self.kept = as_json(content)

    def next(self, *command: str, why: str = "Next") -> None:
        """Show nothing: the next command runs anyway."""


def run_steps(commands: Iterable[list[str]], again: list[str], terminal: Terminal) -> Status:
    """Run them; the worst that came of any. ``again`` is what continues where they stopped."""
    done: list[dict[str, object]] = []
    worst = status = Status.DONE
    for command in commands:
        if not terminal.json:
            terminal.say()
            terminal.heading(f"zesty {command_text(command)}")
        status, document = _run(command, terminal)
        done.append({"command": command[0], "status": int(status), "document": document})
        worst = max(worst, status)
        if status in _STOPS:
            break
    stopped = status in _STOPS
    if terminal.json:
        terminal.document({"steps": done, "stopped-at": done[-1]["command"] if stopped else None})
    elif stopped:
        terminal.next(*again, why=f"Stopped at zesty {done[-1]['command']}. Clear the cause, then continue with")
    return worst


def _run(command: list[str], terminal: Terminal) -> tuple[Status, Any]:
    from .main import run_command

    own = _Kept(json=terminal.json, quiet=terminal.quiet)
    return Status(run_command(command, own)), own.kept
