"""The terminal: results on standard output, everything else on standard error."""

from __future__ import annotations

import sys
import traceback
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager, nullcontext
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from ..errors import ZestyError
from ..progress import Tell, silent
from .json_text import json_text
from .layout import command_lines, printable, table_lines, wrapped

if TYPE_CHECKING:
    from rich.console import Console

    from .progress_bar import ProgressLines

_SHOWN_DETAILS = 20


class Terminal:
    """Shows results as text, or as one JSON document; shows progress and errors beside them.

    A terminal's own width is used; into a pipe or file, no line is broken.
    """

    def __init__(self, *, json: bool, quiet: bool = False) -> None:
        self.json = json
        self.quiet = quiet
        self._lines: ProgressLines | None = None

    @cached_property
    def out(self) -> Console:
        """Where results go."""
        from .console import PlainConsole

        return PlainConsole(highlight=False)

    @cached_property
    def err(self) -> Console:
        """Where everything else goes."""
        from .console import PlainConsole

        return PlainConsole(stderr=True, highlight=False)

    def document(self, content: Mapping[str, object]) -> None:
        """Print the one JSON document."""
        sys.stdout.writelines(json_text(content, only_ascii=(sys.stdout.encoding or "").lower() != "utf-8"))

    def say(self, text: str = "", *, hang: int = 2) -> None:
        """One line of a result, wrapped with a hanging indent where the terminal is narrower."""
        for line in wrapped(printable(text), _width(self.out), hang):
            _print(self.out, line)

    def heading(self, text: str) -> None:
        """The line above a part of a result."""
        for line in wrapped(printable(text), _width(self.out)):
            _print(self.out, line, "bold")

    def next(self, *command: str, why: str = "Next") -> None:
        """The command to type next, in a form that can be copied."""
        if self.quiet:
            return
        self.say()
        one_line = command_lines(command, None)[0]
        width = _width(self.out)
        if width is None or len(f"{why}: {one_line}") <= width:
            _print(self.out, f"{why}: {printable(one_line)}")
            return
        self.say(f"{why}:")
        for line in command_lines(command, width - 2):
            _print(self.out, f"  {printable(line)}")

    def pairs(self, rows: Sequence[tuple[str, str]]) -> None:
        """Short words on the left, and beside each what there is to say about it."""
        wide = max((len(word) for word, _ in rows), default=0)
        for word, text in rows:
            self.say(f"  {word:<{wide}}  {text}", hang=wide + 2)

    def table(self, columns: Sequence[str], rows: Sequence[Sequence[str]], numbers: int = 0) -> None:
        """A table whose last ``numbers`` columns are numbers."""
        head, body = table_lines(columns, rows, numbers, _width(self.out))
        for line in head:
            _print(self.out, line, "dim")
        for line in body:
            _print(self.out, line)

    def tell(self, text: str) -> None:
        """One line beside the results, such as what is about to happen."""
        if not self.quiet:
            self._tell(text)

    def fail(self, error: ZestyError) -> None:
        """Say what is wrong, where, and what to do."""
        if self.json:
            said = {"message": error.message, "details": error.details, "next-step": error.next_step}
            self.document({"error": said})
        self._tell(f"zesty: {error.message}", "bold")
        for line in error.details[:_SHOWN_DETAILS]:
            self._tell(f"  {line}")
        if len(error.details) > _SHOWN_DETAILS:
            self._tell(f"  and {len(error.details) - _SHOWN_DETAILS} more; --json lists all")
        if error.next_step:
            self._tell(error.next_step)

    def fault(self) -> None:
        """Show a fault of the program itself, with its traceback."""
        traceback.print_exc()
        self._tell("zesty: This is a fault of the program. Please report the lines above, and the file of --log FILE.")

    def ask(self, question: str, *, yes: bool) -> None:
        """Ask a person to agree. Raises `ZestyError` when nobody does."""
        if yes:
            return
        if not sys.stdin.isatty():
            raise ZestyError(
                "This changes a computer, and there is no terminal to ask on.", next_step="Add --yes to agree."
            )
        if self._answer(f"{question} [yes/no] ").lower() not in ("y", "yes"):
            raise ZestyError("Nothing was changed.")

    def asker(self, question: Callable[..., Sequence[str]]) -> Callable[..., Path | None] | None:
        """A function that asks a person for a folder while work waits; None without a terminal.

        ``question`` gives the lines of the question.
        """
        if not sys.stdin.isatty():
            return None

        def ask(*about: object) -> Path | None:
            with self._lines.paused() if self._lines is not None else nullcontext():
                while True:
                    *before, last = question(*about)
                    for line in before:
                        self._tell(line)
                    answer = Path(self._answer(last)).expanduser()
                    if answer == Path() or answer.is_dir():
                        return None if answer == Path() else answer
                    self._tell(f"There is no folder {answer}.")

        return ask

    @contextmanager
    def progress(self) -> Iterator[Tell]:
        """Show how far long work is, while somebody watches."""
        from .log import logged

        if self.quiet or not sys.stderr.isatty():
            yield logged(silent)
            return
        from .progress_bar import ProgressLines

        self._lines = ProgressLines(self.err)
        with self._lines.shown():
            yield logged(self._lines.tell)

    def _tell(self, text: str, style: str = "") -> None:
        for line in wrapped(printable(text), _width(self.err)):
            _print(self.err, line, style)

    def _answer(self, question: str) -> str:
        self.err.out(printable(question), end="", highlight=False)
        return sys.stdin.readline().strip()


def _width(console: Console) -> int | None:
    """The width to wrap at; None into a pipe or file."""
    return console.width if console.is_terminal else None


def _print(console: Console, line: str, style: str = "") -> None:
    """One line as it is: nothing in it is taken for markup or broken once more."""
    from rich.text import Text

    console.print(Text(line, style=style), soft_wrap=True)
