"""The terminal: results on standard output, everything else on standard error."""

from __future__ import annotations

import sys
import traceback
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager, nullcontext
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from ..errors import ZestyError
from ..progress import Tell, silent
from .json_text import json_text

if TYPE_CHECKING:
    from rich.console import Console

    from .progress_bar import ProgressLines

_SHOWN_DETAILS = 20


class Terminal:
    """Shows results as text, or as one JSON document; tells progress and errors beside them."""

    def __init__(self, *, json: bool) -> None:
        self.json = json
        self._lines: ProgressLines | None = None

    @cached_property
    def out(self) -> Console:
        """Where results go; as wide as the terminal, and wide enough for any path into a pipe."""
        from rich.console import Console

        return Console(highlight=False, soft_wrap=False, width=None if sys.stdout.isatty() else 160)

    @cached_property
    def err(self) -> Console:
        """Where everything else goes."""
        from rich.console import Console

        return Console(stderr=True, highlight=False, soft_wrap=True)

    def document(self, content: Mapping[str, object]) -> None:
        """Print the one JSON document."""
        sys.stdout.write(json_text(content))

    def say(self, text: str = "") -> None:
        """One line of a result, when results are text. Square brackets in it mean themselves."""
        self.out.print(text, markup=False, soft_wrap=not self.out.is_terminal)

    def next(self, command: str, why: str = "Next") -> None:
        """What to type next: never broken over lines, so that it can be copied."""
        self.out.print(f"\n{why}: {command}", markup=False, soft_wrap=True)

    def pairs(self, rows: list[tuple[str, str]]) -> None:
        """Short words on the left, and beside each what there is to say of it."""
        from rich.table import Table

        grid = Table.grid(padding=(0, 2, 0, 0))
        grid.add_column(no_wrap=True)
        grid.add_column(overflow="fold")
        for word, text in rows:
            grid.add_row(f"  {word}", text.replace("[", "\\["))
        self.out.print(grid)

    def heading(self, text: str) -> None:
        """The line above a part of a result."""
        self.out.print(text, style="bold", markup=False, soft_wrap=True)

    def table(self, columns: list[str], rows: list[list[str]], numbers: int = 0) -> None:
        """A table whose last ``numbers`` columns are numbers."""
        from rich.table import Table

        table = Table(box=None, pad_edge=False, show_edge=False, padding=(0, 2, 0, 0), header_style="dim")
        for position, name in enumerate(columns):
            right = position >= len(columns) - numbers
            table.add_column(name, justify="right" if right else "left", overflow="fold", no_wrap=right)
        for row in rows:
            table.add_row(*(cell.replace("[", "\\[") for cell in row))
        self.out.print(table)

    def fail(self, error: ZestyError) -> None:
        """Say what is wrong, where, and what to do."""
        if self.json:
            said = {"message": error.message, "details": error.details, "next-step": error.next_step}
            self.document({"error": said})
        self.err.print(f"zesty: {error.message}", style="bold", markup=False)
        for line in error.details[:_SHOWN_DETAILS]:
            self.err.print(f"  {line}", markup=False)
        if len(error.details) > _SHOWN_DETAILS:
            self.err.print(f"  and {len(error.details) - _SHOWN_DETAILS} more; --json lists all", markup=False)
        if error.next_step:
            self.err.print(error.next_step, markup=False)

    def fault(self) -> None:
        """Show a fault of the program itself, with its traceback."""
        traceback.print_exc()
        self.err.print("zesty: This is a fault of the program. Nothing was hidden; please report the lines above.")

    def ask(self, question: str, *, yes: bool) -> None:
        """Have a person agree. Raises `ZestyError` when nobody does."""
        if yes:
            return
        if not sys.stdin.isatty():
            raise ZestyError("This changes a computer, and nobody is here to agree.", next_step="Add --yes to agree.")
        self.err.print(f"{question} [yes/no] ", end="", markup=False)
        if sys.stdin.readline().strip().lower() not in ("y", "yes"):
            raise ZestyError("Nothing was changed.")

    def asker(self, question: Callable[..., str]) -> Callable[..., Path | None] | None:
        """Something that asks a person for a folder while work stands still; None when nobody is here."""
        if not sys.stdin.isatty():
            return None

        def ask(*about: object) -> Path | None:
            with self._lines.paused() if self._lines is not None else nullcontext():
                while True:
                    self.err.print(question(*about), end="", markup=False)
                    answer = Path(sys.stdin.readline().strip()).expanduser()
                    if answer == Path() or answer.is_dir():
                        return None if answer == Path() else answer
                    self.err.print(f"There is no folder {answer}.", markup=False)

        return ask

    @contextmanager
    def progress(self) -> Iterator[Tell]:
        """Show how far long work is, while somebody watches."""
        if not sys.stderr.isatty():
            yield silent
            return
        from .progress_bar import ProgressLines

        self._lines = ProgressLines(self.err)
        with self._lines.shown():
            yield self._lines.tell
