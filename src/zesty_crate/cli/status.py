"""Exit statuses: what a script may rely on."""

from __future__ import annotations

from enum import IntEnum


class Status(IntEnum):
    """How a command ended."""

    DONE = 0
    ATTENTION = 1  # done, but something needs attention
    USAGE = 2
    REFUSED = 3  # refused or blocked; nothing changed
    HALFWAY = 4  # interrupted or failed half-way; can be resumed
    FAULT = 5
