"""A console that leaves it to the program's entry to say that its reader has gone."""

from __future__ import annotations

from typing import NoReturn

from rich.console import Console


class PlainConsole(Console):
    """The usual one ends the program by itself, with a status that means something else here."""

    def on_broken_pipe(self) -> NoReturn:
        """Have the error go on."""
        raise BrokenPipeError
